import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { choices, grow, Maker } from '../../tests/designs.ts'
import { times } from '../../tests/times.ts'
import type { Design } from '../design/model.ts'
import type { Catalog, CatalogTable } from '../dialect/catalog.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { DIALECTS } from '../dialect/index.ts'
import { once } from '../once.ts'
import { State } from '../dialect/state.ts'
import { constraintsOf, type Step } from '../dialect/step.ts'
import { waysBetween } from './ways.ts'

/** A catalog in which nothing is left of the order in which it was put together; logical types are the design's. */
function plain({ schemas, enums, tables }: Catalog, of: (table: CatalogTable) => boolean, inOrder: boolean) {
  return {
    schemas: sorted(schemas),
    enums: sorted(enums),
    tables: sorted(tables.filter(of)).map(inOrder ? ordered : unordered)
  }
}

const sorted = <T extends { id: string }>(list: readonly T[]): T[] =>
  [...list].sort((a, b) => (a.id < b.id ? -1 : 1))

/** A table as text, once for each value that it has been, since the same come up again and again. */
const [ordered, unordered] = [true, false].map((inOrder) =>
  once((table: CatalogTable): string =>
    JSON.stringify({
      id: table.id,
      name: table.name,
      note: table.note,
      columns: (inOrder ? table.columns : sorted(table.columns)).map(({ type, ...column }) =>
        Object.entries({ ...column, type: [type.sql, type.list] }).sort()
      ),
      constraints: constraintsOf(table)
        .map(({ kind, key }) => JSON.stringify([kind, Object.entries(key).sort()]))
        .sort(),
      rowPolicies: table.rowPolicies
    })
  )
) as [(table: CatalogTable) => string, (table: CatalogTable) => string]

/** The steps over the first catalog come to the second, there and back. */
function holds(from: Design, to: Design, dialect: Dialect, count: (steps: readonly Step[]) => void): void {
  const ways = waysBetween(from, to, dialect)
  const [before, after] = [from, to].map((design) => dialect.catalog(design).catalog) as [Catalog, Catalog]
  const others = new Set(
    [...before.tables, ...after.tables].filter((table) => table.external).map(({ id }) => id)
  )
  const isOwn = (table: CatalogTable): boolean => !others.has(table.id)
  for (const [start, end, way] of [
    [before, after, ways.up.steps],
    [after, before, ways.down.steps]
  ] as const) {
    const state = new State({ ...start, tables: start.tables.filter(isOwn) })
    for (const step of way) state.take(step)
    const { ordersColumns } = dialect.inPlace
    expect(plain(state.catalog, isOwn, ordersColumns)).toEqual(plain(end, isOwn, ordersColumns))
    count(way)
  }
}

/** A step by its kind; a constraint that comes or goes also by what it is. */
const kindsOf = (step: Step): string[] => [
  step.kind,
  ...(step.kind === 'addConstraint' ? [`add ${step.constraint.kind}`] : []),
  ...(step.kind === 'dropConstraint' ? [`drop ${step.of}`] : [])
]

const EVERY_KIND: readonly string[] = [
  'makeTable',
  'dropTable',
  'renameTable',
  'addColumn',
  'dropColumn',
  'renameColumn',
  'changeColumn',
  'addConstraint',
  'dropConstraint',
  'keep',
  'putBack',
  'putBackRows',
  'fill',
  'addRows',
  'noteNarrowed',
  'putBackNarrowed'
]

const ALL = Object.values<Dialect>(DIALECTS)

describe('the steps of a migration', () => {
  it(
    'come to the catalog that is wanted, from any state to any other and back, in every dialect',
    () => {
      const seen = new Map<string, number>()
      const inAll = (from: Design, to: Design): void => {
        for (const dialect of ALL)
          holds(from, to, dialect, (steps) => {
            for (const kind of steps.flatMap(kindsOf)) {
              const key = `${dialect.title}: ${kind}`
              seen.set(key, (seen.get(key) ?? 0) + 1)
            }
          })
      }
      fc.assert(
        fc.property(choices(25), choices(20), (first, second) => {
          const maker = new Maker()
          const from = grow(first, undefined, maker)
          inAll(from, grow(second, from, maker))
        }),
        { numRuns: times(450) }
      )
      const demo = fernhollow().versions[3]?.design as Design
      fc.assert(
        fc.property(choices(14, 1), (taken) => {
          const keys = taken.map(([kind, ...rest], at) => [at % 2 ? kind : 25 + (kind % 2), ...rest])
          inAll(demo, grow(keys as typeof taken, demo))
        }),
        { numRuns: times(90) }
      )
      const wanted = ALL.flatMap(({ title, facts }) => [
        ...EVERY_KIND.map((kind) => `${title}: ${kind}`),
        ...(facts.triggers.lacks === undefined ? [`${title}: add trigger`, `${title}: drop trigger`] : [])
      ])
      const missing = wanted.filter((kind) => (seen.get(kind) ?? 0) < 3)
      expect(missing.map((kind) => `${kind}: ${seen.get(kind) ?? 0}`)).toEqual([])
    },
    times(400_000)
  )

  it.each(ALL)('lead from every version of the demo to every other in $title', (dialect) => {
    const states = fernhollow().versions.map(({ design }) => design)
    for (const from of states) for (const to of states) holds(from, to, dialect, () => undefined)
  })
})
