import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { apply } from '../edit/apply.ts'
import { times } from '../../tests/times.ts'
import { column } from '../../tests/columns.ts'
import { sizeOf } from './size.ts'
import { figureValue } from '../rows/figures.ts'
import { standFigure, type StandingFigure } from './figure.ts'
import { emptyDesign, emptyTable, type Design, type Figure, type Row, type Table } from './model.ts'
import { rowIndex, wayBy } from './row-index.ts'
import { violations } from './violations.ts'

/** Enough rows that what is known of them is followed through their changes. */
const ROWS = 1200

const ward: Table = {
  ...emptyTable('ward', 't_ward'),
  columns: [column('ward_no', 'integer', { required: true }), column('name', 'text(20)')],
  primaryKey: { id: 'k_ward', columns: ['c_ward_no'] },
  rows: Array.from({ length: ROWS }, (_, at) => ({ c_ward_no: at, c_name: `ward ${at}` }))
}
const patient: Table = {
  ...emptyTable('patient', 't_patient'),
  columns: [
    column('no', 'integer', { required: true }),
    column('ring', 'text(20)'),
    column('in_ward', 'integer', { required: true })
  ],
  primaryKey: { id: 'k_patient', columns: ['c_no'] },
  uniques: [{ id: 'k_ring', columns: ['c_ring'] }],
  foreignKeys: [
    {
      id: 'f_ward',
      table: 't_ward',
      key: 'k_ward',
      pairs: [{ column: 'c_in_ward', refersTo: 'c_ward_no' }],
      onDelete: 'RESTRICT',
      onUpdate: 'CASCADE'
    }
  ],
  checks: [{ id: 'x_no', condition: '{c_no} <> 13' }],
  rows: Array.from({ length: ROWS }, (_, at) => ({ c_no: 20 + at, c_in_ward: at % 50 }))
}
const begin: Design = { ...emptyDesign('Wards', 'd_wards'), tables: [ward, patient] }

const figures: Figure[] = [
  { id: 'g_count', name: 'patients', table: 't_ward', of: 't_patient', by: 'f_ward', measure: 'count' },
  {
    id: 'g_last',
    name: 'last_ring',
    table: 't_ward',
    of: 't_patient',
    by: 'f_ward',
    measure: 'last',
    column: 'c_ring',
    order: 'c_no'
  }
]
function standing(design: Design, figure: Figure): StandingFigure {
  const stands = standFigure(design, figure)
  if (!stands.ok) throw new Error(stands.message)
  return stands.value
}

/** What may become of a table's rows in one step: some go, some change, some come. */
const step = fc.record({
  table: fc.constantFrom('t_ward', 't_patient'),
  gone: fc.array(fc.nat(ROWS + 50), { maxLength: 3 }),
  changed: fc.array(fc.tuple(fc.nat(ROWS + 50), fc.nat(40)), { maxLength: 3 }),
  come: fc.array(fc.tuple(fc.nat(ROWS), fc.nat(40)), { maxLength: 3 })
})

/** The number whose row holds what does not fit its column. */
const UNFIT = 39

/** A row by a small number, so that many are the same in something, refer to nothing or break a check. */
function made(table: string, n: number): Row {
  if (table === 't_ward') return { c_ward_no: n, c_name: `ward ${n}` }
  return {
    ...(n % 7 !== 0 && { c_no: n === UNFIT ? 'none' : n }),
    ...(n % 3 === 0 && { c_ring: `ring ${n % 5}` }),
    c_in_ward: n % 4 === 0 ? 5000 + n : n
  }
}

/** The same design, of which nothing is known. */
const forgotten = (design: Design): Design => structuredClone(design)

describe('what is followed through changes of rows', () => {
  it('is what is found when all of them are looked at: violations, places by key, size, figures', () => {
    let [broken, compared, refused, said] = [0, 0, 0, 0]
    fc.assert(
      fc.property(fc.array(step, { minLength: 1, maxLength: 8 }), (steps) => {
        let design = begin
        violations(design)
        for (const { table: id, ...some } of steps) {
          const table = design.tables.find((each) => each.id === id) as Table
          const length = table.rows.length
          const gone = [...new Set(some.gone.filter((at) => at < length))].map((at) => ({
            at,
            row: table.rows[at] as Row
          }))
          const taken = new Set(gone.map(({ at }) => at))
          const changed = some.changed.flatMap(([at, n]) => {
            if (at >= length || taken.has(at)) return []
            taken.add(at)
            return [{ at, was: table.rows[at] as Row, row: made(id, n) }]
          })
          const places = new Set<number>()
          const come = some.come.flatMap(([at, n]) => {
            if (at > length - gone.length || places.has(at)) return []
            places.add(at)
            return [{ at, row: made(id, n) }]
          })
          const result = apply(design, { kind: 'rows.change', table: id, changed, gone, come })
          const isUnfit = [...changed, ...come].some(({ row }) => row.c_no === 'none')
          if (isUnfit) {
            expect(result.ok).toBe(false)
            refused++
          }
          if (!result.ok) continue
          design = result.design
          const whole = forgotten(design)
          const found = violations(design)
          expect(found).toEqual(violations(whole))
          expect(sizeOf(design)).toBe(sizeOf(whole))
          for (const [at, columns] of [
            [0, ['c_ward_no']],
            [1, ['c_in_ward']],
            [1, ['c_no']]
          ] as const) {
            const [one, other] = [design.tables[at] as Table, whole.tables[at] as Table]
            for (let n = 0; n < 60; n++)
              expect(rowIndex(one, wayBy(columns)).get(String(n))).toEqual(
                rowIndex(other, wayBy(columns)).get(String(n))
              )
          }
          for (const figure of figures) {
            const [one, other] = [standing(design, figure), standing(whole, figure)]
            for (let at = 0; at < 60; at++) {
              const value = figureValue(design, one, one.table.rows[at] as Row)
              expect(value).toEqual(figureValue(whole, other, other.table.rows[at] as Row))
              if (value !== null && value !== 0) said++
            }
          }
          compared++
          if (found.length > 2) broken++
        }
      }),
      { numRuns: times(40) }
    )
    expect(compared).toBeGreaterThan(100)
    expect(broken).toBeGreaterThan(20)
    expect(refused).toBeGreaterThan(5)
    expect(said).toBeGreaterThan(1000)
  })
})
