import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findingsIn } from '../../core/check/index.ts'
import type { Finding } from '../../core/check/finding.ts'
import { writeSql } from '../../core/definitions/create-script.ts'
import { readExpression } from '../../core/design/expressions.ts'
import { emptyDesign, emptyTable, type Column, type Design, type Table } from '../../core/design/model.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import { readRule, ruleText } from '../../core/typing/rules.ts'
import { planMigration } from '../../core/version/plan.ts'
import { proveDesign, proveMigration, sayTrouble } from '../../core/version/proof.ts'
import { statementsOf } from '../../core/version/script.ts'
import { mariadbClient } from '../../tests/clients.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'
import { column } from '../../tests/columns.ts'

const dialect = DIALECTS.mariadb

const COLUMNS = [
  column('pen_id', 'integer', { required: true, default: { kind: 'generated' } }),
  column('capacity', 'integer', { required: true }),
  column('half', 'integer'),
  column('note', 'text(80)')
]
const kept = (text: string, wanted?: Column['type']): string => {
  const read = readExpression(text, { columns: COLUMNS, enums: [], ...(wanted && { wanted }) })
  return read.ok ? read.value : expect.fail(read.message)
}

/** Pens of which the number that is counted stands in checks; the last has a text with everything in it. */
const pens = (everywhere?: true, more: Partial<Table> = {}): Design => {
  const conditions = [
    'pen_id <= 40',
    "pen_id > 0 or note = 'it''s \\ a NEW.pen; END IF //'",
    'half < pen_id + 100'
  ]
  return {
    ...emptyDesign('Pens', 'd_pens'),
    dialects: ['mariadb'],
    tables: [
      {
        ...emptyTable('pen', 't_pen'),
        columns: COLUMNS.map((each) =>
          each.id === 'c_half' ? { ...each, computed: kept('capacity / 2', each.type) } : each
        ),
        primaryKey: { id: 'k_pen', columns: ['c_pen_id'] },
        checks: conditions.map((text, at) => ({
          id: `x_${at}`,
          condition: kept(text),
          ...(everywhere && { everywhere })
        })),
        rows: [
          { c_pen_id: 1, c_capacity: 4 },
          { c_pen_id: 7, c_capacity: 2, c_note: 'by the pool' }
        ],
        ...more
      }
    ]
  }
}
const all = (design: Design): Finding[] => [...findingsIn(design).values()].flat()

describe('checks that MariaDB does not take, held by triggers', () => {
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())
  const failure = (sql: string): Promise<string> =>
    engine.query(sql).then(
      () => 'taken',
      (error: Error) => error.message
    )

  it('are offered where they are lost, and then are found no more', () => {
    const lost = all(pens()).filter(({ rule }) => rule === 'check that is lost')
    expect(lost.length).toBeGreaterThan(0)
    const [fix] = lost.map((each) => each.fix)
    const mended = fix && apply(pens(), fix.operation)
    expect(mended?.ok && all(mended.design)).toEqual([])
    expect(mended?.ok && mended.design.tables[0]?.checks.every(({ everywhere }) => everywhere)).toBe(true)
    const back = mended?.ok && apply(mended.design, mended.inverse)
    expect(back && back.ok && back.design).toEqual(pens())
  })

  it('are typed and shown as a check that is held everywhere', () => {
    const design = pens(true)
    const [table] = design.tables as [Table]
    const [check] = table.checks
    const text = check && ruleText('check', table, check)
    expect(text).toBe('pen_id <= 40 everywhere')
    expect(readRule('check', design, table, text ?? '', check)).toEqual({ ok: true, value: check })
    const plain = readRule('check', design, table, 'pen_id <= 40', check)
    expect(plain.ok && 'everywhere' in plain.value).toBe(false)
  })

  it('refuse rows that are made and rows that are changed, and are read back as they were written', async () => {
    expect(sayTrouble(await proveDesign(pens(true), dialect, engine.query))).toEqual([])
    expect(await failure('INSERT INTO pen (capacity) VALUES (3)')).toBe('taken')
    expect(await failure('UPDATE pen SET pen_id = 41 WHERE pen_id = 7')).toContain('pen_pen_id_ck is not met')
    expect(await failure('INSERT INTO pen (pen_id, capacity) VALUES (41, 2)')).toContain('is not met')
    expect(await failure('UPDATE pen SET capacity = 9999 WHERE pen_id = 7')).toContain('is not met')
    expect(await engine.query('SELECT pen_id FROM pen ORDER BY pen_id')).toEqual([
      { pen_id: 1 },
      { pen_id: 7 },
      { pen_id: 8 }
    ])
    await engine.query('DROP TRIGGER pen_pen_id_ck_made')
    const { tables } = await dialect.engine.read(engine.query)
    expect(tables[0]?.checks.map(({ name }) => name)).not.toContain('pen_pen_id_ck')
  })

  it('come, go and follow what they are about in a migration, there and back', async () => {
    const renamed = (design: Design): Design => ({
      ...design,
      tables: design.tables.map((table) => ({
        ...table,
        name: 'cage',
        columns: table.columns.map((each) => (each.id === 'c_pen_id' ? { ...each, name: 'cage_id' } : each))
      }))
    })
    const states = [pens(), pens(true), renamed(pens(true)), pens(true, { checks: [] })]
    for (const from of states)
      for (const to of states)
        if (from !== to) expect(sayTrouble(await proveMigration(from, to, dialect, engine.query))).toEqual([])
  })

  it('stop a migration at rows that do not meet them, and it goes on when they do', async () => {
    const bad = pens(undefined, { rows: [{ c_pen_id: 41, c_capacity: 2 }] })
    await proveDesign(bad, dialect, engine.query)
    const plan = planMigration(bad, { ...pens(true, { rows: [] }) }, dialect)
    expect(plan.warnings.up.some(({ effect }) => effect === 'stops')).toBe(true)
    const run = async (): Promise<void> => {
      for (const { sql } of statementsOf(plan, 'up')) await engine.query(sql)
    }
    await expect(run()).rejects.toThrow('pen_pen_id_ck')
    await engine.query('UPDATE pen SET pen_id = 40')
    await run()
    expect(await failure('UPDATE pen SET pen_id = 42')).toContain('is not met')
    await run()
  })

  it('stand in a script that the engine’s own client runs', async () => {
    const client = await mariadbClient()
    const folder = mkdtempSync(join(tmpdir(), 'patient-key-triggers-'))
    try {
      await client.begin()
      writeFileSync(join(folder, 'pens.sql'), writeSql(pens(true), dialect, { rows: true }))
      const said = client.run(folder, 'pens.sql')
      expect(said.err).toBe('')
      const { tables } = await dialect.engine.read(client.query)
      expect(tables[0]?.checks.filter(({ byTrigger }) => byTrigger)).toHaveLength(3)
    } finally {
      await client.close()
      rmSync(folder, { recursive: true })
    }
  })
})
