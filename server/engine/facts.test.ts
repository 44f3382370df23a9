import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  emptyDesign,
  emptyTable,
  type Action,
  type Column,
  type Design,
  type Row,
  type Table
} from '../../core/design/model.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { newTable, proposeRelationship } from '../../core/relate/propose.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { planMigration } from '../../core/version/plan.ts'
import { proveDesign, proveMigration, sayTrouble } from '../../core/version/proof.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import type { Engine } from './engine.ts'
import { openPostgresql } from './postgresql.ts'
import { openSqlite } from './sqlite.ts'

/** What the generated SQL leans on, seen on the engines themselves. */
describe.each([
  ['sqlite', openSqlite],
  ['postgresql', openPostgresql]
] as const)('%s', (name, open) => {
  let engine: Engine
  const dialect = DIALECTS[name]
  beforeAll(async () => {
    engine = await open()
  })
  afterAll(() => engine.close())

  const ward = newTable('ward')
  const pen = newTable('pen')
  const [wardId, penId] = [ward.columns[0]?.id as string, pen.columns[0]?.id as string]
  const run = (design: Design, ...operations: Operation[]): Design =>
    operations.reduce((current, operation) => {
      const result = apply(current, operation)
      if (!result.ok) throw new Error(result.refusal.message)
      return result.design
    }, design)
  const base = run(
    emptyDesign('Facts', 'd_facts'),
    { kind: 'table.add', table: ward },
    { kind: 'table.add', table: pen }
  )

  function related(onDelete: Action): Design {
    const proposed = proposeRelationship(base, {
      parent: ward.id,
      child: pen.id,
      required: onDelete !== 'SET NULL',
      single: false
    })
    const design = run(base, { ...(proposed as Extract<Operation, { kind: 'relationship.add' }>), onDelete })
    const reference = design.tables[1]?.columns[1]?.id as string
    return run(
      design,
      { kind: 'table.setRows', table: ward.id, rows: [{ [wardId]: 1 }, { [wardId]: 2 }] },
      {
        kind: 'table.setRows',
        table: pen.id,
        rows: [
          { [penId]: 1, [reference]: 1 },
          { [penId]: 2, [reference]: 2 }
        ]
      }
    )
  }

  it.each<[Action, unknown]>([
    ['CASCADE', [2]],
    ['SET NULL', [null, 2]],
    ['RESTRICT', 'refused'],
    ['NO ACTION', 'refused']
  ])('does on delete what %s says, because references are enforced', async (action, expected) => {
    expect(sayTrouble(await proveDesign(related(action), dialect, engine.query))).toEqual([])
    const outcome = await engine.query('DELETE FROM ward WHERE ward_id = 1').then(
      async () => (await engine.query('SELECT ward_id FROM pen ORDER BY pen_id')).map((row) => row.ward_id),
      () => 'refused'
    )
    expect(outcome).toEqual(expected)
  })

  it('counts a generated key on behind the rows that were put in, and fills no other integer key by itself', async () => {
    const plain = run(
      base,
      { kind: 'column.setDefault', table: pen.id, column: penId, default: null },
      { kind: 'table.setRows', table: ward.id, rows: [{ [wardId]: 41 }] }
    )
    expect(sayTrouble(await proveDesign(plain, dialect, engine.query))).toEqual([])
    await engine.query('DELETE FROM ward')
    await engine.query('INSERT INTO ward DEFAULT VALUES')
    expect(await engine.query('SELECT ward_id FROM ward')).toEqual([{ ward_id: 42 }])
    await expect(engine.query('INSERT INTO pen DEFAULT VALUES')).rejects.toThrow(/null/i)
  })

  it('takes a failed migration back as a whole', async () => {
    const { versions } = fernhollow()
    const [first, second] = versions.map((version) => version.design) as [Design, Design]
    expect((await proveDesign(first, dialect, engine.query)).good).toBe(true)
    const before = await dialect.engine.read(engine.query)
    const plan = planMigration(first, second, dialect)
    const until = plan.up.findIndex((statement) => statement.sql === 'COMMIT')
    for (const { sql } of plan.up.slice(0, until)) await engine.query(sql)
    await expect(engine.query('INSERT INTO nowhere VALUES (1)')).rejects.toThrow()
    await engine.query('ROLLBACK')
    expect(await dialect.engine.read(engine.query)).toEqual(before)
  })

  it('cuts no text to make it fit: it stops there', async () => {
    const text = (length: number): Column => ({
      id: 'c_code',
      name: 'code',
      type: { kind: 'text', length },
      required: true
    })
    const ward = (length: number, rows: Row[]): Design => ({
      ...base,
      tables: [
        {
          ...emptyTable('ward', 't_ward'),
          columns: [text(length)],
          primaryKey: { id: 'k_ward', columns: ['c_code'] },
          rows
        }
      ]
    })
    const codes = Array.from({ length: 12 }, (_, at) => `ABC${at + 1}`)
    const from = ward(
      8,
      codes.map((code) => ({ c_code: code }))
    )
    const { up } = planMigration(ward(8, []), ward(4, []), dialect)
    const { catalog } = dialect.catalog(from)
    await dialect.engine.reset(engine.query)
    for (const { sql } of [...dialect.create(catalog), ...insertRows(from, catalog, dialect)])
      await engine.query(sql)
    const run = async (): Promise<void> => {
      for (const { sql } of up) await engine.query(sql)
    }
    const stopped = await run().then(
      () => '',
      (error: unknown) => String(error)
    )
    await engine.query('ROLLBACK').catch(() => undefined)
    const rows = await engine.query('SELECT code FROM ward')
    expect(rows.map((row) => String(row.code)).sort()).toEqual([...codes].sort())
    expect(stopped).toMatch(/too long|CHECK constraint failed/)
  })

  it('exchanges two names, keeps what is narrowed, and leaves alone what was changed since', async () => {
    const table: Table = {
      ...newTable('patient'),
      rows: []
    }
    const id = table.columns[0]?.id as string
    const columns: Table['columns'] = [
      ...table.columns,
      { id: 'c_a', name: 'a', type: { kind: 'decimal', precision: 8, scale: 3 }, required: false },
      { id: 'c_b', name: 'b', type: { kind: 'text', length: 20 }, required: false },
      { id: 'c_n', name: 'n', type: { kind: 'integer', size: 'normal' }, required: false }
    ]
    const from: Design = {
      ...base,
      tables: [
        {
          ...table,
          columns,
          rows: [
            { [id]: 1, c_a: '1.234', c_b: 'b', c_n: 7 },
            { [id]: 2, c_a: '2.500', c_b: 'bb' }
          ]
        }
      ]
    }
    const to = {
      ...from,
      tables: from.tables.map((each) => ({
        ...each,
        rows: [],
        columns: each.columns.map((column) =>
          column.id === 'c_a'
            ? { ...column, name: 'b', type: { kind: 'decimal' as const, precision: 8, scale: 2 } }
            : column.id === 'c_b'
              ? { ...column, name: 'a' }
              : column.id === 'c_n'
                ? { ...column, required: true, default: { kind: 'value' as const, value: 0 } }
                : column
        )
      }))
    }
    const proof = await proveMigration(from, to, dialect, engine.query)
    expect(sayTrouble(proof)).toEqual([])
    // Up has been run once more by the proof: somebody changes a narrowed value, then it is taken back.
    await engine.query('UPDATE patient SET b = 9.5 WHERE patient_id = 1')
    for (const { sql } of planMigration(from, to, dialect).down) await engine.query(sql)
    const rows = await engine.query('SELECT patient_id, a, b, n FROM patient ORDER BY patient_id')
    expect(rows.map((row) => ({ ...row, a: Number(row.a) }))).toEqual([
      { patient_id: 1, a: 9.5, b: 'b', n: 7 },
      { patient_id: 2, a: 2.5, b: 'bb', n: null }
    ])
  })
})

describe('sqlite alone', () => {
  it('leaves references unchecked on a connection that does not ask for it', async () => {
    const engine = await openSqlite()
    await engine.query('CREATE TABLE ward (ward_id INTEGER PRIMARY KEY)')
    await engine.query('CREATE TABLE pen (ward_id INTEGER REFERENCES ward (ward_id))')
    await engine.query('INSERT INTO pen VALUES (7)')
    await engine.query(DIALECTS.sqlite.engine.onConnect[0] as string)
    await expect(engine.query('INSERT INTO pen VALUES (8)')).rejects.toThrow(/FOREIGN KEY/)
    await engine.close()
  })
})
