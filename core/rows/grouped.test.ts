import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { tableOf } from '../design/directory.ts'
import type { Row } from '../design/model.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { times } from '../../tests/times.ts'
import { Gathering, groupsOf, lineOf, linesBetween, nextGroup, type RowGroup } from './grouped.ts'
import { ownShown } from './shown.ts'

const { design } = fernhollow()
const dose = tableOf(design, 't_dose') ?? expect.fail()

/** Sizes of groups, none of them empty. */
const sizes = fc.array(fc.integer({ min: 1, max: 5 }), { maxLength: 12 })
function groupsOfSizes(list: readonly number[]): RowGroup[] {
  let at = 0
  return list.map((count, index) => {
    at += count
    return { at: at - count, count, label: `group ${index}` }
  })
}

describe('rows that are put together', () => {
  it('by what they refer to stand together, each once, those that refer to nothing last', () => {
    const admission = ownShown(design, dose).find(({ name }) => name === 'admission_id') ?? expect.fail()
    const id = 'c_dose_admission_id'
    const rows: Row[] = [{ ...dose.rows[0], [id]: null }, ...dose.rows, { ...dose.rows[0], [id]: null }]
    const gathering = new Gathering(design, { ...dose, rows }, admission)
    for (const place of rows.keys()) gathering.add(place)
    const { groups, order } = groupsOf(gathering.all.sort(gathering.compare))

    expect([...order].sort((one, other) => one - other)).toEqual([...rows.keys()])
    const referred = groups.map(({ at, count }) =>
      order.slice(at, at + count).map((place) => rows[place]?.[id])
    )
    for (const held of referred) expect(new Set(held).size).toBe(1)
    expect(new Set(referred.map(([first]) => first)).size).toBe(groups.length)
    expect(groups.at(-1)).toMatchObject({ label: '', count: 2 })
    expect(groups.slice(0, 2).map(({ label }) => label)).toEqual([
      'Admiral, 2026-05-09 10:00',
      'Ash, 2026-04-29 18:05'
    ])
  })

  it('have a line each, and one for the head of each group above its first', () => {
    fc.assert(
      fc.property(sizes, fc.nat(70), fc.nat(20), (list, from, long) => {
        const groups = groupsOfSizes(list)
        const every = list.flatMap((count, group) => [
          `head ${group}`,
          ...Array.from({ length: count }, (_, at) => `row ${(groups[group]?.at ?? 0) + at}`)
        ])
        const rows = every.length - list.length
        const shown = linesBetween(groups, rows, from, from + long).map((each) => {
          const said = 'at' in each ? `row ${each.at}` : `head ${groups.indexOf(each.head)}`
          expect(every[each.line]).toBe(said)
          return said
        })
        expect(shown).toEqual(every.slice(from, from + long))
        for (let at = 0; at < rows; at++) expect(every[lineOf(groups, at)]).toBe(`row ${at}`)
      }),
      { numRuns: times(300) }
    )
  })

  it('are walked through from group to group, back to the beginning of the own one first', () => {
    const groups = groupsOfSizes([3, 1, 4])
    expect([0, 2, 3, 7].map((at) => nextGroup(groups, at, 1))).toEqual([3, 3, 4, undefined])
    expect([0, 2, 3, 7].map((at) => nextGroup(groups, at, -1))).toEqual([undefined, 0, 0, 4])
    expect(nextGroup([], 5, 1)).toBeUndefined()
  })
})
