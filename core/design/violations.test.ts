import { expect, it } from 'vitest'
import { column } from '../../tests/columns.ts'
import { emptyDesign, emptyTable, type Design, type Row, type Table } from './model.ts'
import { violations } from './violations.ts'

/** How often a value of any row is looked at. */
let looks = 0
const row = (column: string, value: number): Row =>
  Object.defineProperty({}, column, {
    enumerable: true,
    get: () => {
      looks++
      return value
    }
  }) as Row

const table = (at: number): Table => ({
  ...emptyTable(`table_${at}`, `t_${at}`),
  columns: [column(`no_${at}`, 'integer', { required: true })],
  checks: [{ id: `x_${at}`, condition: `{c_no_${at}} > 0` }],
  rows: [row(`c_no_${at}`, 0), row(`c_no_${at}`, 2)]
})

it('looks only at the rows of what changed, however many rules there are', () => {
  const tables = Array.from({ length: 900 }, (_, at) => table(at))
  const design: Design = { ...emptyDesign('Rules', 'd_rules'), tables }
  expect(violations(design)).toHaveLength(900)
  const all = looks
  expect(all).toBeGreaterThan(900 * 4 - 1)
  looks = 0
  const renamed = { ...tables[450], name: 'another' } as Table
  expect(violations({ ...design, tables: tables.with(450, renamed) })).toHaveLength(900)
  expect(looks).toBe(all / 900)
})
