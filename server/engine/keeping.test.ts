import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findingsOn } from '../../core/check/index.ts'
import { columnOf, tableOf } from '../../core/design/directory.ts'
import type { Column, Copied, Design, Renewed, Table } from '../../core/design/model.ts'
import { DIALECTS, PROVABLE } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { changeCell, lineOf } from '../../core/typing/edits.ts'
import { planMigration } from '../../core/version/plan.ts'
import { proveDesign, proveMigration, sayTrouble } from '../../core/version/proof.ts'
import { statementsOf } from '../../core/version/script.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { testEngine } from '../../tests/engines.ts'
import type { Engine } from './engine.ts'

/** What is renewed with each change of a row, and what is copied from the row referred to, in the database. */

/** What is left of it here is not what its rulings are about. */
const { rulings: _, ...whole } = fernhollow().versions[3]?.design as Design
/** Medicines and their doses, without all else that a dose refers to. */
const start: Design = {
  ...whole,
  carries: [],
  tables: whole.tables
    .filter(({ name }) => ['medicine', 'dose'].includes(name))
    .map((table) => ({
      ...table,
      checks: [],
      foreignKeys: table.foreignKeys.filter((key) => key.table === 't_medicine')
    }))
}

function after(design: Design, ...operations: Operation[]): Design {
  const result = apply(design, { kind: 'batch', operations })
  return result.ok ? result.design : expect.fail(result.refusal.message)
}

const changedAt = (renewed?: Renewed): Operation => ({
  kind: 'column.add',
  table: 't_dose',
  column: {
    id: 'c_changed',
    name: 'changed at',
    type: { kind: 'timestamp', zone: false },
    required: true,
    default: { kind: 'now' },
    ...(renewed && { renewed })
  }
})
const renewing = after(start, changedAt('database'))

const copied = (how: Partial<Copied>): Operation => ({
  kind: 'column.copy',
  table: 't_dose',
  column: 'c_dose_unit_cost',
  copied: { foreignKey: 'f_dose_medicine_id', column: 'c_medicine_unit_cost', ...how }
})
const requireCost = (required: boolean): Operation => ({
  kind: 'column.require',
  table: 't_dose',
  column: 'c_dose_unit_cost',
  required
})
const copying = (how: Omit<Partial<Copied>, 'byTrigger'> = {}): Design =>
  after(start, requireCost(false), copied({ byTrigger: true, ...how }))

const dose = (design: Design): Table => tableOf(design, 't_dose') ?? expect.fail('no dose')
const findings = (design: Design): string[] =>
  findingsOn(design, 't_dose')
    .map(({ rule }) => rule)
    .filter((rule) => / that nothing (renews|copies)| asked for first/.test(rule))

describe('a column that is kept by the database', () => {
  it.each<[string, string, Partial<Column>]>([
    ['changed at', 'now on change', { default: { kind: 'now' }, renewed: 'database' }],
    ['changed at', 'on update current_timestamp', { renewed: 'database' }],
    ['changed at', 'now, on every change by the application', { renewed: 'application' }],
    ['changed at', 'now', { default: { kind: 'now' }, renewed: undefined }],
    ['unit_cost', 'copied medicine.unit_cost, again, fixed, by trigger', {}],
    ['unit_cost', 'copied medicine.unit_cost fixed by a trigger', {}]
  ])('%s is typed “%s”, and reads so again', (name, text, wanted) => {
    const column = dose(renewing).columns.find((each) => each.name === name) as Column
    const done = changeCell(renewing, dose(renewing), column, 'default', text)
    if (!done.ok) return expect.fail(done.slip.message)
    const now = done.operation ? after(renewing, done.operation) : renewing
    const changed = columnOf(dose(now), column.id) as Column
    expect(changed).toMatchObject(wanted)
    const line = lineOf(now, dose(now), changed).default
    expect(changeCell(now, dose(now), changed, 'default', line)).toEqual({ ok: true, operation: undefined })
    const [, how] = /^copied \S+?(,.*)?$/.exec(line) ?? []
    if (text.startsWith('copied')) expect(how).toMatch(/fixed, by trigger$/)
    else expect(line).toBe(text.replace('update current_timestamp', 'change').replace(', on every', ' on'))
  })

  it('is no moment without a type that holds one, and is renewed no more before it gets another', () => {
    const renew: Operation = {
      kind: 'column.renew',
      table: 't_dose',
      column: 'c_dose_quantity',
      renewed: 'database'
    }
    expect(apply(start, renew)).toMatchObject({ ok: false, refusal: { code: 'does-not-fit' } })
    const retype: Operation = {
      kind: 'column.retype',
      table: 't_dose',
      column: 'c_changed',
      type: { kind: 'integer', size: 'normal' }
    }
    const bare = after(renewing, {
      kind: 'column.setDefault',
      table: 't_dose',
      column: 'c_changed',
      default: null
    })
    const refused = apply(bare, retype)
    const fix = !refused.ok && refused.refusal.offers[0]?.operation
    expect(fix && columnOf(dose(after(bare, fix)), 'c_changed')?.renewed).toBeUndefined()
  })

  it('is told of where an engine does not see to it, or not in time', () => {
    const only = (design: Design, dialect: string): string[] => findings({ ...design, dialects: [dialect] })
    const late = after(start, requireCost(true), copied({ byTrigger: true }))
    for (const { name, facts } of Object.values(DIALECTS)) {
      expect(only(renewing, name)).toEqual([])
      expect(only(copying(), name)).toEqual(facts.triggers.lacks ? ['value that nothing copies'] : [])
      const isLate = !facts.triggers.lacks && !facts.triggers.fillsRequired
      expect(only(late, name)).toEqual(isLate ? ['value that is asked for first'] : only(copying(), name))
    }
    const other = after(start, requireCost(false), copied({ byTrigger: true, column: 'c_medicine_name' }))
    expect(new Set(findings(other))).toEqual(new Set(['value that nothing copies']))
  })
})

describe.each(PROVABLE.map((dialect) => [dialect.title, dialect] as const))('on %s', (_, dialect) => {
  let engine: Engine
  beforeAll(async () => {
    engine = await testEngine(dialect)
  })
  afterAll(() => engine.close())

  const { quote } = dialect
  const at = quote('changed at')
  const failure = (sql: string): Promise<string> =>
    engine.query(sql).then(
      () => 'taken',
      (error: Error) => error.message
    )
  const values = async (column: string, where = '1 = 1'): Promise<string[]> =>
    (await engine.query(`SELECT ${column} AS value FROM dose WHERE ${where}`)).map(({ value }) =>
      value instanceof Date ? value.toISOString() : String(value)
    )
  const costs = (where?: string): Promise<number[]> =>
    values('unit_cost', where).then((all) => all.map(Number))
  const OLD = "'2001-01-01 00:00:00'"
  const isOld = (value: string): boolean => value.startsWith('2001') || value.startsWith('2000-12-31')

  const shapes: [string, Design][] = [
    ['plain', start],
    ['renewed', renewing],
    [
      'renewed day',
      after(start, {
        ...changedAt('database'),
        column: {
          ...(changedAt('database') as Extract<Operation, { kind: 'column.add' }>).column,
          type: { kind: 'date' }
        }
      } as Operation)
    ],
    ['copied', copying()],
    ['copied again, fixed', copying({ again: true, fixed: true })],
    ['both', after(copying({ again: true }), changedAt('database'))]
  ]
  it.each(shapes)('%s: is made and read back', async (_name, design) => {
    expect(sayTrouble(await proveDesign(design, dialect, engine.query))).toEqual([])
  })

  it('comes, goes, changes and follows names in migrations, there and back', async () => {
    const renamed = after(
      shapes[5]?.[1] as Design,
      { kind: 'table.rename', table: 't_medicine', name: 'remedy' },
      { kind: 'column.rename', table: 't_medicine', column: 'c_medicine_unit_cost', name: 'price' },
      { kind: 'table.rename', table: 't_dose', name: 'gift' },
      { kind: 'column.rename', table: 't_dose', column: 'c_changed', name: 'touched' }
    )
    const states = [start, ...shapes.slice(1).map(([, design]) => design), renamed]
    for (const [n, from] of states.entries()) {
      const to = states[(n + 1) % states.length] as Design
      expect(sayTrouble(await proveMigration(from, to, dialect, engine.query))).toEqual([])
    }
  })

  it('renews with each change, unless that says something else', async () => {
    await proveDesign(renewing, dialect, engine.query)
    await engine.query(`UPDATE dose SET ${at} = ${OLD}`)
    expect((await values(at)).every(isOld)).toBe(true)
    await engine.query('UPDATE dose SET quantity = quantity + 1 WHERE quantity < 1')
    const [changed, left] = [await values(at, 'quantity >= 1'), await values(at, 'quantity < 1')]
    expect(changed.length + left.length).toBeGreaterThan(3)
    await engine.query('UPDATE dose SET quantity = quantity + 1')
    expect((await values(at)).filter(isOld)).toEqual([])
  })

  it('is left alone by a migration that changes rows, and there again after it', async () => {
    const to = after(
      renewing,
      {
        kind: 'column.add',
        table: 't_dose',
        column: {
          id: 'c_new',
          name: 'route',
          type: { kind: 'text', length: 20 },
          required: true,
          default: { kind: 'value', value: 'mouth' }
        }
      },
      {
        kind: 'column.retype',
        table: 't_dose',
        column: 'c_dose_quantity',
        type: { kind: 'decimal', precision: 9, scale: 3 }
      },
      { kind: 'column.require', table: 't_dose', column: 'c_dose_unit_cost', required: false }
    )
    await proveDesign(renewing, dialect, engine.query)
    await engine.query(`UPDATE dose SET ${at} = ${OLD}`)
    const plan = planMigration(renewing, to, dialect)
    for (const { sql } of statementsOf(plan, 'up')) await engine.query(sql)
    expect((await values(at)).every(isOld)).toBe(true)
    for (const { sql } of statementsOf(plan, 'down')) await engine.query(sql)
    expect((await values(at)).every(isOld)).toBe(true)
    await engine.query('UPDATE dose SET quantity = quantity + 1')
    expect((await values(at)).filter(isOld)).toEqual([])
  })

  describe('a copied value', () => {
    const made = async (design: Design): Promise<void> => {
      await proveDesign(design, dialect, engine.query)
      await engine.query('DELETE FROM dose')
      await engine.query('UPDATE medicine SET unit_cost = 5 WHERE medicine_id = 1')
      await engine.query('UPDATE medicine SET unit_cost = 7 WHERE medicine_id = 2')
    }
    const give = (medicine: number, time: string, cost?: number): Promise<string> =>
      failure(
        `INSERT INTO dose (admission_id, medicine_id, given_at, quantity, given_by${cost === undefined ? '' : ', unit_cost'}) VALUES (1, ${medicine}, '2026-05-03 ${time}:00', 1, 1${cost === undefined ? '' : `, ${cost}`})`
      )

    it('is taken when a row is made, and is the row’s own from then on', async () => {
      await made(copying())
      expect(await give(1, '07:00')).toBe('taken')
      expect(await give(1, '08:00', 3)).toBe('taken')
      await engine.query('UPDATE medicine SET unit_cost = 6 WHERE medicine_id = 1')
      expect(await give(1, '09:00')).toBe('taken')
      expect((await costs()).sort()).toEqual([3, 5, 6])
      await engine.query('UPDATE dose SET medicine_id = 2')
      expect((await costs()).sort()).toEqual([3, 5, 6])
    })

    it('is taken again where the row refers to another, unless something else is said', async () => {
      await made(copying({ again: true }))
      expect(await give(1, '07:00')).toBe('taken')
      await engine.query('UPDATE dose SET medicine_id = 2')
      expect(await costs()).toEqual([7])
      await engine.query('UPDATE dose SET medicine_id = 1, unit_cost = 4')
      expect(await costs()).toEqual([4])
      await engine.query('UPDATE dose SET quantity = 2')
      expect(await costs()).toEqual([4])
    })

    it('can be nothing else where that is wanted', async () => {
      await made(copying({ again: true, fixed: true }))
      expect(await give(1, '07:00', 3)).toContain('can be nothing else')
      expect(await give(1, '07:00', 5)).toBe('taken')
      expect(await give(1, '08:00')).toBe('taken')
      expect(await failure('UPDATE dose SET unit_cost = 4')).toContain('can be nothing else')
      expect(await failure('UPDATE dose SET unit_cost = NULL')).toContain('can be nothing else')
      await engine.query('UPDATE medicine SET unit_cost = 6 WHERE medicine_id = 1')
      expect(await failure('UPDATE dose SET quantity = 3')).toBe('taken')
      expect(await costs()).toEqual([5, 5])
      expect(await failure('UPDATE dose SET medicine_id = 2')).toBe('taken')
      expect(await costs()).toEqual([7, 7])
    })

    it('is required and filled all the same, where the engine waits with asking', async () => {
      await made(after(start, requireCost(true), copied({ byTrigger: true })))
      const said = await give(1, '07:00')
      if (dialect.facts.triggers.fillsRequired) expect([said, await costs()]).toEqual(['taken', [5]])
      else expect(said).toMatch(/NOT NULL/)
    })
  })
})
