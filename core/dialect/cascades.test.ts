import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { times } from '../../tests/times.ts'
import { bareTable, type Catalog, type CatalogForeignKey } from './catalog.ts'
import { withoutMeetingCascades } from './cascades.ts'

type Reference = [child: number, parent: number, acts: boolean]

const reference = (at: number, parent: number, acts: boolean): CatalogForeignKey => ({
  id: `f_${at}`,
  name: `f_${at}`,
  columns: [`c_${at}`],
  table: `t_${parent}`,
  refersTo: ['c'],
  onDelete: acts ? 'CASCADE' : 'NO ACTION',
  onUpdate: 'NO ACTION'
})

const catalogOf = (references: readonly Reference[]): Catalog => ({
  schemas: [],
  enums: [],
  tables: Array.from({ length: 7 }, (_, at) => ({
    ...bareTable(`t_${at}`, `t${at}`),
    foreignKeys: references.flatMap(([child, parent, acts], n) =>
      child === at ? [reference(n, parent, acts)] : []
    )
  }))
})

const actions = ({ tables }: Catalog): [from: string, to: string][] =>
  tables.flatMap(({ id, foreignKeys }) =>
    foreignKeys
      .filter(({ onDelete }) => onDelete !== 'NO ACTION')
      .map((key): [string, string] => [key.table, id])
  )

/** Follows every way from a table, and fails where one comes to a table that it has seen. */
function reachesOnce(from: string, ways: readonly [string, string][]): boolean {
  const seen = new Set([from])
  const open = [from]
  for (let at = open.pop(); at !== undefined; at = open.pop())
    for (const [, to] of ways.filter(([parent]) => parent === at)) {
      if (seen.has(to)) return false
      seen.add(to)
      open.push(to)
    }
  return true
}

describe('cascades where two may not meet', () => {
  it.each<[string, Reference[], string[]]>([
    [
      'one after another stay',
      [
        [1, 0, true],
        [2, 1, true]
      ],
      []
    ],
    ['to itself go', [[0, 0, true]], ['f_0']],
    [
      'two to one parent: the second goes',
      [
        [1, 0, true],
        [1, 0, true]
      ],
      ['f_1']
    ],
    [
      'of a diamond: the last goes',
      [
        [1, 0, true],
        [2, 0, true],
        [3, 1, true],
        [3, 2, true]
      ],
      ['f_3']
    ],
    [
      'in a circle: the last goes',
      [
        [1, 0, true],
        [0, 1, true]
      ],
      ['f_0']
    ],
    [
      'beside one without an action stay',
      [
        [1, 0, true],
        [1, 0, false]
      ],
      []
    ]
  ])('%s', (_, references, gone) => {
    const before = catalogOf(references)
    const { catalog, remarks } = withoutMeetingCascades(before, { title: 'SQL Server' })
    const lost = before.tables.flatMap(({ foreignKeys }, at) =>
      foreignKeys
        .filter((key, n) => key.onDelete !== catalog.tables[at]?.foreignKeys[n]?.onDelete)
        .map(({ name }) => name)
    )
    expect(lost).toEqual(gone)
    expect(remarks.map(({ message }) => message)).toEqual(
      lost.map((name) => expect.stringContaining(name) as string)
    )
  })

  it('reach no table by two ways, whatever refers to whatever, and none goes that could have stayed', () => {
    let went = 0
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(6), fc.nat(6), fc.boolean()), { maxLength: 12 }), (references) => {
        const before = catalogOf(references)
        const { catalog } = withoutMeetingCascades(before, { title: 'SQL Server' })
        const ways = actions(catalog)
        expect(catalog.tables.every(({ id }) => reachesOnce(id, ways))).toBe(true)
        const all = actions(before)
        went += all.length - ways.length
        for (const way of all.filter((each) => !ways.some((one) => one.join() === each.join()))) {
          const with_ = [...ways, way]
          expect(catalog.tables.every(({ id }) => reachesOnce(id, with_))).toBe(false)
        }
      }),
      { numRuns: times(400) }
    )
    expect(went).toBeGreaterThan(200)
  })
})
