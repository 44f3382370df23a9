import type { Design, Table } from '../design/model.ts'
import { waitsForEnd, type Catalog, type Statement } from '../dialect/catalog.ts'
import type { Dialect, Query } from '../dialect/dialect.ts'
import type { Provable } from '../dialect/index.ts'
import { insertRows } from '../rows/statements.ts'
import { withSampleRows } from '../rows/sample.ts'
import { judgeAll, sayBroken, trialOf } from '../rehearse/ruling.ts'
import { soundRows } from '../rehearse/sound-rows.ts'
import { planMigration } from './plan.ts'
import type { Proof, ProofOptions } from './proof-step.ts'
import type { StepRun } from './proof-run.ts'
import { type StepPlan, Run } from './proof-run.ts'
import { standIns } from './stand-ins.ts'

/**
 * A proof that the design's SQL runs on the engine, its catalog reads back as the design, and its rows go
 * in. The engine's current schema is emptied first.
 */
export function proveDesign(
  design: Design,
  anyVersion: Provable,
  query: Query,
  options: ProofOptions = {}
): Promise<Proof> {
  const dialect = anyVersion.for(design)
  const filled = withSampleRows(design, { together: dialect.facts.deferrable })
  const { catalog } = dialect.catalog(filled)
  // What triggers see to when rows come is not what these rows hold already.
  const plain = { ...catalog, tables: catalog.tables.map((table) => ({ ...table, triggers: [] })) }
  const triggers = dialect.triggers(catalog)
  const others = standIns([catalog], dialect)
  return new Run(dialect, query, options, [...unprovenOf(filled, dialect), ...untriedRulings(design)]).all([
    ...others.steps,
    { name: 'make the tables', run: (step) => step.execute(dialect.create(others.without(plain))) },
    { name: 'read them back', run: (step) => step.compare(plain, true) },
    {
      name: `put ${countRows(filled)} rows in`,
      run: (step) => step.execute(insertedTogether(filled, catalog, dialect))
    },
    { name: 'read the rows back', run: (step) => step.rows(filled, catalog) },
    ...(triggers.length === 0
      ? []
      : [
          { name: 'make the triggers', run: (step: StepRun) => step.execute(triggers) },
          { name: 'read them back', run: (step: StepRun) => step.compare(catalog, true) }
        ]),
    ...rulingSteps(design, dialect)
  ])
}

/** Each ruling of the design that can be tried, on the engine, with the design's own rows, from the beginning. */
function rulingSteps(whole: Design, dialect: Provable): StepPlan[] {
  const { design } = soundRows(whole)
  return (design.rulings ?? []).flatMap((ruling): StepPlan[] => {
    const trial = trialOf(design, ruling)
    if (!trial.ok) return []
    const name = `keep to the ruling “${ruling.says}”`
    return [{ name, run: (step) => step.ruling(design, ruling, trial.value, dialect) }]
  })
}

/** The rulings that cannot be tried, since what they name is gone. */
function untriedRulings(whole: Design): string[] {
  const { design } = soundRows(whole)
  return (design.rulings ?? []).flatMap((ruling) => {
    const trial = trialOf(design, ruling)
    return trial.ok ? [] : [`The ruling “${ruling.says}” was not tried: ${trial.message}`]
  })
}

/**
 * A proof that a migration does what it says: the state before with rows, up, compared with the state
 * after; down, compared with the state before, rows and all; and up once more.
 */
export function proveMigration(
  from: Design,
  to: Design,
  anyVersion: Provable,
  query: Query,
  options: ProofOptions & { names?: { from: string; to: string } } = {}
): Promise<Proof> {
  const dialect = anyVersion.for(to)
  const filled = withSampleRows(from, { together: dialect.facts.deferrable })
  const plan = planMigration(filled, to, dialect)
  const { catalog: before } = dialect.catalog(filled)
  const { catalog: after } = dialect.catalog(to)
  const { from: old = 'the state before', to: fresh = 'the state after' } = options.names ?? {}
  const [kept, since] = [plan.keepsakes.up, plan.keepsakes.down].map((all) =>
    all.map(({ name }) => name)
  ) as [string[], string[]]
  const stands = standIns([before, after], dialect)
  const others = [...before.tables, ...after.tables]
    .filter((table) => table.external)
    .map((table) => table.name)
  const order = dialect.engine.ordersColumns
  return new Run(dialect, query, options, [...unprovenOf(filled, dialect), ...brokenRulings(to)]).all([
    ...stands.steps,
    {
      name: `make ${old} with ${countRows(filled)} rows`,
      run: async (step) => {
        await step.execute([
          ...dialect.create(stands.without(before), insertedTogether(filled, before, dialect))
        ])
      }
    },
    { name: 'up', run: (step) => step.execute(plan.up) },
    { name: `compare with ${fresh}`, run: (step) => step.compare(after, order, [...kept, ...others]) },
    { name: 'look for the rows', run: (step) => step.survivors(plan.moves.up, filled, to, after) },
    { name: 'down', run: (step) => step.execute(plan.down) },
    { name: `compare with ${old}`, run: (step) => step.compare(before, order, [...since, ...others]) },
    { name: 'look for the rows again', run: (step) => step.rows(filled, before) },
    {
      name: 'up once more',
      run: async (step) => {
        await step.execute(plan.up)
        await step.compare(after, order, [...kept, ...others])
      }
    }
  ])
}

/** Rows of tables that need each other go in with one transaction. */
function insertedTogether(design: Design, catalog: Catalog, dialect: Provable): Statement[] {
  const rows = insertRows(design, catalog, dialect)
  const isDeferred = catalog.tables.some(waitsForEnd)
  if (!isDeferred || !dialect.client.whole) return rows
  const [begin, end] = dialect.client.whole
  const plain = (sql: string): Statement => ({ sql, says: 'all rows or none' })
  return [...begin.map(plain), ...rows, plain(end)]
}

/** What a proof of the design says nothing of. */
function unprovenOf(design: Design, dialect: Dialect): string[] {
  const lost = dialect.catalog(design).remarks.filter(({ finding }) => finding?.weight === 'wrong')
  const empty = design.tables.filter((table) => table.rows.length === 0 && !table.external)
  const names = sayTables(empty)
  return [
    ...lost.map(({ message }) => message),
    ...(empty.length === 0
      ? []
      : [
          `${names} had no row: what ${empty.length > 1 ? 'their rows are' : 'its rows are'} held to was not tried.`
        ])
  ]
}

/** `a, b and c`; of many, the first and how many more. */
function sayTables(tables: readonly Table[]): string {
  const [named, more] = [tables.slice(0, 12).map(({ name }) => name), tables.length - 12]
  if (more > 0) return `${named.join(', ')} and ${more} more`
  const last = named.pop() ?? ''
  return named.length === 0 ? last : `${named.join(', ')} and ${last}`
}

const countRows = (design: Design): number => design.tables.reduce((sum, table) => sum + table.rows.length, 0)

/** The rulings that a state does not keep to: its migration may be right all the same. */
const brokenRulings = (design: Design): string[] =>
  judgeAll(design).flatMap((each) => {
    const why = sayBroken(design, each)
    return why === undefined ? [] : [`The ruling “${each.ruling.says}” is not kept to from then on. ${why}`]
  })

/** What went wrong in a proof, a line for each thing; nothing where it is good. */
export function sayTrouble(proof: Proof): string[] {
  return proof.steps
    .filter((step) => step.state === 'failed')
    .flatMap((step) => [
      ...(step.error
        ? [`${step.name}: ${step.error.message}${step.error.sql && `, at: ${step.error.sql}`}`]
        : []),
      ...step.differences.map(
        (each) => `${step.name}: ${each.table}: ${each.what}: expected ${each.expected}, found ${each.found}`
      )
    ])
}
