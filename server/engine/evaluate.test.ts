import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readExpression } from '../../core/design/expressions.ts'
import { emptyDesign, emptyTable, type Column, type Design, type Row } from '../../core/design/model.ts'
import { PROVABLE } from '../../core/dialect/index.ts'
import { evaluate } from '../../core/design/evaluate.ts'
import { insertRows } from '../../core/rows/statements.ts'
import type { Engine } from './engine.ts'
import { nameOfColumn, plainSql } from '../../core/dialect/written.ts'
import { openEngine } from './open.ts'
import { times } from '../../tests/times.ts'

const columns: Column[] = [
  { id: 'c_id', name: 'id', type: { kind: 'integer', size: 'normal' }, required: true },
  { id: 'c_n', name: 'n', type: { kind: 'integer', size: 'normal' }, required: false },
  { id: 'c_d', name: 'd', type: { kind: 'decimal', precision: 8, scale: 2 }, required: false },
  { id: 'c_t', name: 't', type: { kind: 'text', length: 20 }, required: false },
  { id: 'c_b', name: 'b', type: { kind: 'boolean' }, required: false },
  { id: 'c_on', name: 'd_on', type: { kind: 'date' }, required: false }
]
const number = fc.constantFrom(
  'n',
  'd',
  '0',
  '-2',
  '1.5',
  'abs(n)',
  'n + d',
  'n * 2 - d',
  'coalesce(n, 7)',
  'case when b then n else 3 end'
)
const text = fc.constantFrom(
  't',
  "'a'",
  "'A%'",
  'upper(t)',
  "t || 'x'",
  'trim(t)',
  'substring(t, 2, 3)',
  "replace(t, 'a', 'b')",
  "coalesce(t, '')",
  "nullif(t, 'a')"
)
const comparison = fc.constantFrom('=', '<>', '<', '<=', '>', '>=')
const simple = fc.oneof(
  fc.tuple(number, comparison, number).map((parts) => parts.join(' ')),
  fc.tuple(text, fc.constantFrom('=', '<>'), text).map((parts) => parts.join(' ')),
  fc.constantFrom(
    'b',
    'n is null',
    't is not null',
    "t like 'a%'",
    "t not like '%_b'",
    'n in (1, 2, 3)',
    'd not in (1.5, 2)',
    'n between 0 and 2',
    'd not between -1 and 1',
    "d_on >= '2026-02-01'",
    'length(t) > 1',
    "d_on is null or d_on < '2026-06-30'"
  )
)
const condition = fc
  .array(fc.tuple(fc.constantFrom(' and ', ' or '), fc.constantFrom('', 'not '), simple), {
    minLength: 1,
    maxLength: 4
  })
  .map((parts) => parts.map(([join, not, each], at) => `${at === 0 ? '' : join}${not}(${each})`).join(''))
const ROWS: Row[] = [
  { c_id: 1, c_n: 1, c_d: '1.50', c_t: 'a', c_b: true, c_on: '2026-01-31' },
  { c_id: 2, c_n: 0, c_d: '-2.00', c_t: 'Abc', c_b: false, c_on: '2026-07-01' },
  { c_id: 3 },
  { c_id: 4, c_n: -2, c_t: ' ab ', c_b: true },
  { c_id: 5, c_n: 3, c_d: '0.00', c_t: '', c_on: '2026-02-01' }
]

/** What rows are tried with before an engine sees them must say what the engine says. */
describe.each(PROVABLE.map((dialect) => [dialect.title, dialect] as const))(
  'a condition on a row, on %s,',
  (_, dialect) => {
    let engine: Engine
    const table = {
      ...emptyTable('trial', 't_trial'),
      columns,
      primaryKey: { id: 'k_trial', columns: ['c_id'] },
      rows: ROWS
    }
    const design: Design = { ...emptyDesign('Trial', 'd_trial'), tables: [table] }
    beforeAll(async () => {
      engine = await openEngine(dialect)
      await dialect.engine.reset(engine.query)
      for (const sql of dialect.engine.onConnect) await engine.query(sql)
      const { catalog } = dialect.catalog(design)
      for (const { sql } of [...dialect.create(catalog), ...insertRows(design, catalog, dialect)])
        await engine.query(sql)
    })
    afterAll(() => engine.close())

    it('is met, not met or open as it is worked out here', async () => {
      await fc.assert(
        fc.asyncProperty(condition, async (typed) => {
          const read = readExpression(typed, { columns, enums: [] })
          if (!read.ok) throw new Error(`${typed}: ${read.message}`)
          const [made] = dialect.catalog({
            ...design,
            tables: [{ ...table, checks: [{ id: 'x_c', condition: read.value }] }]
          }).catalog.tables
          const checked = plainSql(made?.checks[0]?.condition ?? [], (id) =>
            dialect.quote(made ? nameOfColumn(made, id) : id)
          )
          const found = await engine.query(
            `SELECT id, CASE WHEN ${checked} THEN 1 WHEN NOT (${checked}) THEN 0 END AS said FROM trial ORDER BY id`
          )
          const said = found.map((row) => (row.said === null ? null : Number(row.said) === 1))
          expect({ typed, said }).toEqual({
            typed,
            said: ROWS.map((row) => evaluate(read.value, table, row))
          })
        }),
        { numRuns: times(150) }
      )
    })
  }
)
