import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { choices, grow, Maker } from '../../tests/designs.ts'
import { fullName } from '../../core/design/directory.ts'
import type { Design } from '../../core/design/model.ts'
import { findingsIn } from '../../core/check/index.ts'
import type { DialectName } from '../../core/dialect/dialect.ts'
import { DIALECTS, type Provable } from '../../core/dialect/index.ts'
import { planMigration } from '../../core/version/plan.ts'
import type { Warning } from '../../core/version/warnings.ts'
import { nameParts, sayTable } from '../../core/dialect/qualified.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { proveDesign, proveMigration, sayTrouble } from '../../core/version/proof.ts'
import type { Engine } from './engine.ts'
import { testEngine } from '../../tests/engines.ts'
import { times } from '../../tests/times.ts'

/** A draft and what it grew into, with the same ids where they are the same things. */
function twoStates(
  first: readonly [number, number, number, number][],
  second: readonly [number, number, number, number][]
): [Design, Design] {
  const maker = new Maker()
  const from = grow(first, undefined, maker)
  return [from, grow(second, from, maker)]
}

const ENGINES: { name: 'sqlite' | 'postgresql' | 'mariadb'; designs: number; migrations: number }[] = [
  { name: 'sqlite', designs: 250, migrations: 200 },
  { name: 'postgresql', designs: 60, migrations: 60 },
  { name: 'mariadb', designs: 60, migrations: 60 }
]

describe.each(ENGINES)('a random design on $name', ({ name, designs, migrations }) => {
  const dialect = DIALECTS[name]
  let engine: Engine
  beforeAll(async () => {
    engine = await testEngine(dialect)
  })
  afterAll(() => engine.close())

  it('is written, runs, and reads back equal, rows and all', async () => {
    await fc.assert(
      fc.asyncProperty(choices(40), async (taken) => {
        const proof = await proveDesign(usable(grow(taken), name), dialect, engine.query)
        expect(sayTrouble(proof)).toEqual([])
        expect(proof.good).toBe(true)
      }),
      { numRuns: designs, endOnFailure: false }
    )
  })

  it('migrates to what it grows into and back, and the rows are there', async () => {
    await fc.assert(
      fc.asyncProperty(choices(25), choices(20), async (first, second) => {
        const [from, to] = twoStates(first, second).map((each) => usable(each, name)) as [Design, Design]
        if (!othersStay(from, to)) return
        const empty = { ...from, tables: from.tables.map((table) => ({ ...table, rows: [] })) }
        await migrates(empty, to, dialect, engine)
      }),
      { numRuns: times(migrations) }
    )
  })

  it('migrates from the demo with its rows, whatever its keys become', async () => {
    const demo = fernhollow().versions[3]?.design as Design
    await fc.assert(
      fc.asyncProperty(choices(12, 1), async (taken) => {
        // Every other choice is one of a key.
        const to = usable(
          grow(
            taken.map(([kind, ...rest], at) => [at % 2 ? kind : 25 + (kind % 2), ...rest]),
            demo
          ),
          name
        )
        if (othersStay(demo, to)) await migrates(demo, to, dialect, engine)
      }),
      { numRuns: times(Math.ceil(migrations / 4)) }
    )
  })
})

/**
 * Rows may stand in the way of a change: a column that becomes required, a value that cannot be converted, a
 * key that is not one any more. The engine refuses then; what the plan can know beforehand it has warned of.
 */
async function migrates(from: Design, to: Design, dialect: Provable, engine: Engine): Promise<void> {
  const proof = await proveMigration(from, to, dialect, engine.query)
  const failed = proof.steps.find((step) => step.state === 'failed')
  const { warnings } = planMigration(from, to, dialect)
  const names = (id: string): string[] =>
    [from, to].flatMap((design) => {
      const name = dialect.catalog(design).catalog.tables.find((table) => table.id === id)?.name
      return name === undefined ? [] : [name]
    })
  /** Whether it was said of the very tables: by a statement that failed, or where rows are not as they were. */
  const isSaidOf = (
    way: 'up' | 'down',
    effect: Warning['effect'],
    isOf: (name: string) => boolean
  ): boolean => warnings[way].some((warning) => warning.effect === effect && names(warning.table).some(isOf))
  // Where a table is made anew, what was there is called otherwise, and still by its name.
  const inStatement = (name: string): boolean => {
    const [own = name] = nameParts(name).reverse()
    return failed?.error?.sql.includes(dialect.quote(`${own} `).slice(1, -2)) ?? false
  }
  const isHindrance = STANDS_IN_THE_WAY.test(failed?.error?.message ?? '')
  if (failed?.name === 'up' && isHindrance && isSaidOf('up', 'stops', inStatement)) return
  if (failed?.name === 'down' && isSaidOf('down', 'stops', inStatement)) return
  const areLost =
    failed !== undefined &&
    failed.differences.length > 0 &&
    failed.differences.every(({ table }) => isSaidOf('up', 'lost', (name) => sayTable(name) === table))
  if (failed?.name === 'look for the rows again' && areLost) return
  expect(sayTrouble(proof)).toEqual([])
}

const STANDS_IN_THE_WAY =
  /NOT NULL|null value|null values|UNIQUE|unique|FOREIGN KEY|foreign key|out of range|overflow|invalid input|CHECK constraint failed|violate|too long|Data truncated|Incorrect|Duplicate entry|must_hold|yes|Truncated incorrect|CONSTRAINT `.*` failed/

/** What another system does to its tables no migration can do; both states must know them alike. */
function othersStay(from: Design, to: Design): boolean {
  const others = (design: Design, or: Design): string[] =>
    design.tables
      .filter((table) => table.external || or.tables.some((each) => each.id === table.id && each.external))
      .map(
        (table) =>
          `${fullName(design, table)} ${JSON.stringify([table.columns, table.primaryKey, table.uniques])}`
      )
  return others(from, to).sort().join() === others(to, from).sort().join()
}

/**
 * The design without the tables that a dialect or a check says beforehand an engine will refuse, and
 * without what refers to them.
 */
function usable(design: Design, name: DialectName): Design {
  const refused = (each: Design): Set<string> =>
    new Set([
      ...[...findingsIn({ ...each, dialects: [name] }).values()]
        .flat()
        .filter((finding) => finding.severity === 'refused')
        .map((finding) => finding.table),
      ...DIALECTS[name]
        .catalog(each)
        .remarks.filter((remark) => remark.message.includes('will refuse'))
        .flatMap((remark) => remark.table ?? [])
    ])
  let left = { ...design, tables: design.tables.filter((table) => table.columns.length > 0) }
  for (let out = refused(left); out.size > 0; out = refused(left)) {
    const stay = left.tables.filter((table) => !out.has(table.id))
    const ids = new Set(stay.map((table) => table.id))
    left = {
      ...left,
      tables: stay.map((table) => {
        const gone = new Set(table.foreignKeys.filter((key) => !ids.has(key.table)).map((key) => key.id))
        return {
          ...table,
          columns: table.columns.map((column) => ({ ...column, copied: undefined })),
          foreignKeys: table.foreignKeys.filter((key) => !gone.has(key.id))
        }
      })
    }
  }
  return left
}
