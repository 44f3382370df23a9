import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { choices, grow } from '../../tests/designs.ts'
import { times } from '../../tests/times.ts'
import { Draws, drawnDesign } from '../../tests/trials.ts'
import { referencesTo, tableOf } from '../design/directory.ts'
import { flawsOf } from '../design/integrity.ts'
import type { Design } from '../design/model.ts'
import { violations } from '../design/violations.ts'
import { DIALECTS } from '../dialect/index.ts'
import { generateRows, type GeneratedRows, type Wanted } from './generate.ts'

function made(design: Design, wanted: Wanted): GeneratedRows {
  const making = generateRows(design, wanted)
  for (;;) {
    const step = making.next()
    if (step.done) return step.value
  }
}
const all = (design: Design, count: number): Wanted['rows'] =>
  new Map(design.tables.filter(({ external }) => !external).map(({ id }) => [id, count]))

const numbers = fc.array(fc.nat(9999), { minLength: 700, maxLength: 700 })

describe('believable rows', () => {
  it('fit their columns, are apart, refer to rows that are there and meet every check, for any design', () => {
    const told = { rows: 0, short: 0 }
    const design = fc.oneof(
      numbers.map((drawn) => drawnDesign(new Draws(drawn), DIALECTS.sqlite.facts)),
      choices(60, 20).map((taken) => grow(taken))
    )
    fc.assert(
      fc.property(design, fc.nat(1000), (random, seed) => {
        const empty = { ...random, tables: random.tables.map((table) => ({ ...table, rows: [] })) }
        const before = flawsOf(empty).length
        const { design: filled, short } = made(empty, { seed, rows: all(empty, 25) })
        expect(flawsOf(filled)).toHaveLength(before)
        const broken = violations(filled).filter(({ kind }) => kind !== 'minimum')
        expect(broken).toEqual([])
        for (const table of filled.tables) {
          const count = short.find((each) => each.table === table.id)?.made ?? (table.external ? 0 : 25)
          expect([table.name, table.rows.length]).toEqual([table.name, count])
          told.rows += table.rows.length
        }
        told.short += short.length
      }),
      { numRuns: times(150) }
    )
    expect(told.rows).toBeGreaterThan(2000)
  })

  it('are the same from the same seed, and others from another', () => {
    const { design } = fernhollow()
    const say = (seed: number): string =>
      JSON.stringify(made(design, { seed, rows: all(design, 20) }).design.tables)
    expect(say(7)).toBe(say(7))
    expect(say(7)).not.toBe(say(8))
  })

  it('leave empty, and crowd, as many as is said', () => {
    const { design } = fernhollow()
    const admission = tableOf(design, 't_admission') ?? expect.fail()
    const finder = admission.foreignKeys.find(({ table }) => table === 't_finder') ?? expect.fail()
    const patient = admission.foreignKeys.find(({ table }) => table === 't_patient') ?? expect.fail()
    const after = (empty: number, uneven: number) => {
      const wanted = {
        seed: 3,
        rows: new Map([['t_admission', 2000]]),
        empty: new Map([[finder.id, empty]]),
        uneven: new Map([[patient.id, uneven]])
      }
      const rows = tableOf(made(design, wanted).design, 't_admission')?.rows.slice(15) ?? []
      const counts = new Map<unknown, number>()
      for (const row of rows)
        counts.set(row.c_admission_patient_id, (counts.get(row.c_admission_patient_id) ?? 0) + 1)
      const without = rows.filter((row) => (row[finder.pairs[0]?.column ?? ''] ?? null) === null).length
      return { without: without / rows.length, most: Math.max(...counts.values()) / rows.length }
    }
    expect(after(0, 1).without).toBe(0)
    expect(after(60, 1).without).toBeCloseTo(0.6, 1)
    expect(after(0, 1).most).toBeLessThan(0.15)
    expect(after(0, 4).most).toBeGreaterThan(0.35)
  })

  it('are fewer than wanted where no more are apart, with the reason', () => {
    const { design } = fernhollow()
    const pairs = referencesTo(design, 't_volunteer').find(
      ({ table }) => table.id === 't_volunteer_skill'
    )?.table
    const { short } = made(design, { seed: 1, rows: new Map([[pairs?.id ?? '', 100]]) })
    expect(short).toEqual([
      {
        table: 't_volunteer_skill',
        made: expect.any(Number) as number,
        why: expect.stringMatching(/apart in a key of volunteer_skill/) as string
      }
    ])
    expect((short[0]?.made ?? 0) + (pairs?.rows.length ?? 0)).toBeLessThanOrEqual(24)
  })
})
