import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findingsIn } from '../../core/check/index.ts'
import {
  emptyDesign,
  emptyTable,
  type Design,
  type ForeignKey,
  type Row,
  type Table
} from '../../core/design/model.ts'
import { DIALECTS, type Provable } from '../../core/dialect/index.ts'
import { runOnEngine, type EngineRun } from '../../core/rehearse/on-engine.ts'
import { rulebookOf } from '../../core/rehearse/rules.ts'
import { rehearse } from '../../core/rehearse/run.ts'
import type { TrialRefusal, Rehearsed, Trial } from '../../core/rehearse/trial.ts'
import { column } from '../../tests/columns.ts'
import { times } from '../../tests/times.ts'
import { Draws, drawnDesign, drawnTrial } from '../../tests/trials.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

/** What an engine calls each kind of refusal. */
const CALLED: Record<TrialRefusal['kind'], string> = {
  reference: 'reference',
  nothing: 'reference',
  minimum: 'check',
  key: 'key',
  required: 'required',
  check: 'check',
  value: 'other',
  again: 'reference',
  depth: 'other'
}

/** Enough numbers for a design, its rows and what is done to them. */
const numbers = fc.array(fc.nat(9999), { minLength: 700, maxLength: 700 })

interface Tried {
  design: Design
  trial: Trial
  rehearsed: Rehearsed
}

/** A random trial; nothing where the engine would refuse the tables, which findings say. */
function tried(drawn: readonly number[], dialect: Provable): Tried | undefined {
  const draws = new Draws(drawn)
  const design = { ...drawnDesign(draws, dialect.facts), dialects: [dialect.name] }
  const isRefused = [...findingsIn(design).values()].flat().some(({ severity }) => severity === 'refused')
  if (isRefused) return undefined
  const trial = drawnTrial(draws, design, dialect.facts)
  return { design, trial, rehearsed: rehearse(design, rulebookOf(design, dialect), trial) }
}

/** The kinds of refusals, and the references that refused where the engine names them. */
function refusalsBeside(
  design: Design,
  dialect: Provable,
  { refusals }: Rehearsed,
  run: EngineRun
): unknown[][] {
  const { tables } = dialect.catalog(design).catalog
  const nameOf = (id: string | undefined): string | undefined =>
    tables.flatMap(({ foreignKeys }) => foreignKeys).find((key) => key.id === id)?.name
  const isNamed = run.refusals.map(({ by }) => by?.kind === 'reference' && by.name !== undefined)
  const here = refusals.map(({ kind, of }, at) => [CALLED[kind], isNamed[at] ? nameOf(of) : undefined])
  const there = run.refusals.map(({ by }, at) => [by?.kind, isNamed[at] ? by?.name : undefined])
  return [here, there]
}

/** How often each is tried; and whether of several reasons for one refusal the engine says the one that comes first. */
describe.each([
  ['sqlite', 500, true],
  ['postgresql', 100, true],
  ['mariadb', 100, false]
] as const)('what is worked out of statements, on %s', (name, often, namesFirst) => {
  const dialect = DIALECTS[name]
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())

  it(`is what the engine does, row by row and refusal by refusal, ${often} times`, async () => {
    const seen = new Map<string, number>()
    const note = (what: string): void => void seen.set(what, (seen.get(what) ?? 0) + 1)
    let [compared, others] = [0, 0]
    await fc.assert(
      fc.asyncProperty(numbers, async (drawn) => {
        const found = tried(drawn, dialect)
        fc.pre(found !== undefined)
        const { design, trial, rehearsed } = found as Tried
        const run = await runOnEngine(design, dialect, engine.query, trial, rehearsed)
        expect(run.differences).toEqual([])
        expect(run.same).toBe(true)
        const [here, there] = refusalsBeside(design, dialect, rehearsed, run)
        if (namesFirst) expect(there).toEqual(here)
        else if (JSON.stringify(there) !== JSON.stringify(here)) others++
        compared++
        for (const { kind, cause } of rehearsed.effects) note(cause ? `${kind} by a reference` : kind)
        for (const { kind } of rehearsed.refusals) note(`refused: ${kind}`)
      }),
      { numRuns: times(often) }
    )
    expect(compared).toBeGreaterThanOrEqual(times(often))
    expect(others).toBeLessThanOrEqual(compared / 20)
    // A run in which little happens would say little.
    const wanted = ['deleted by a reference', 'changed by a reference', 'emptied by a reference']
    const refused = ['refused: reference', 'refused: nothing', 'refused: key', 'refused: required']
    for (const what of [...wanted, ...refused]) expect([what, seen.get(what) ?? 0]).not.toEqual([what, 0])
  })

  it.each([14, 15, 16, 999, 1000, 1001])(
    'is the same for %i replies, each to the one before',
    async (length) => {
      const design = replies(length)
      const trial: Trial = {
        statements: [{ kind: 'delete', table: 't_note', rows: [0] }],
        together: true
      }
      const rehearsed = rehearse(design, rulebookOf(design, dialect), trial)
      const run = await runOnEngine(design, dialect, engine.query, trial, rehearsed)
      expect(run.same).toBe(true)
      const { deepest = Infinity } = dialect.facts.actions
      expect(rehearsed.refusals.map(({ kind }) => kind)).toEqual(length - 1 > deepest ? ['depth'] : [])
    }
  )

  it('is the same for a row that refers to itself by what it is kept by, and is kept elsewhere', async () => {
    const change = (values: Row): Trial['statements'] => [
      { kind: 'update', table: 't_ward', rows: [0], values }
    ]
    const tries: Trial['statements'][] = [
      change({ c_no: 20 }),
      change({ c_id: 3 }),
      change({ c_id: 3, c_code: 3 }),
      change({ c_code: 9 }),
      change({ c_no: 20, c_code: 9 }),
      [{ kind: 'insert', table: 't_ward', rows: [{ c_id: 7, c_no: 0, c_code: 7 }] }]
    ]
    for (const statements of tries) {
      const trial: Trial = { statements, together: true }
      const design = { ...ownHeads, dialects: [dialect.name] }
      const rehearsed = rehearse(design, rulebookOf(design, dialect), trial)
      const run = await runOnEngine(design, dialect, engine.query, trial, rehearsed)
      expect({ statements, differences: run.differences }).toEqual({ statements, differences: [] })
    }
  })
})

/** Wards of which each refers by the beginning of its primary key to one by its code: to itself at first. */
const ownHeads: Design = {
  ...emptyDesign('Wards', 'd_wards'),
  tables: [
    {
      ...emptyTable('ward', 't_ward'),
      columns: ['id', 'no', 'code'].map((name) => column(name, 'integer', { required: name !== 'code' })),
      primaryKey: { id: 'k_ward', columns: ['c_id', 'c_no'] },
      uniques: [{ id: 'k_code', columns: ['c_code'] }],
      foreignKeys: [
        {
          id: 'f_head',
          table: 't_ward',
          key: 'k_code',
          pairs: [{ column: 'c_id', refersTo: 'c_code' }],
          onDelete: 'NO ACTION',
          onUpdate: 'NO ACTION'
        }
      ],
      rows: [
        { c_id: 2, c_no: 0, c_code: 2 },
        { c_id: 3, c_no: 0, c_code: 3 }
      ]
    }
  ]
}

/** Notes that reply to each other in a row, and go with the one that they reply to. */
function replies(length: number): Design {
  const [id, to] = [column('id', 'integer', { required: true }), column('to', 'integer')]
  const foreignKey: ForeignKey = {
    id: 'f_note',
    table: 't_note',
    key: 'k_note',
    pairs: [{ column: to.id, refersTo: id.id }],
    onDelete: 'CASCADE',
    onUpdate: 'NO ACTION'
  }
  const note: Table = {
    ...emptyTable('carer_note', 't_note'),
    columns: [id, to],
    primaryKey: { id: 'k_note', columns: [id.id] },
    foreignKeys: [foreignKey],
    rows: Array.from({ length }, (_, n) => ({ [id.id]: n + 1, ...(n > 0 && { [to.id]: n }) }))
  }
  return { ...emptyDesign('Notes', 'd_notes'), tables: [note] }
}
