import { columnOf, nameOfTable, sameSet, tableOf } from '../design/directory.ts'
import { carryRows } from '../carry/apply.ts'
import type { Column, Design, Row, Ruling, Table } from '../design/model.ts'
import { sameType } from '../design/type.ts'
import {
  bareTable,
  compareCatalogs,
  waitsForEnd,
  type Catalog,
  type CatalogKey,
  type CatalogTable,
  type Difference,
  type Statement
} from '../dialect/catalog.ts'
import type { Dialect, DialectName, Query } from '../dialect/dialect.ts'
import type { Provable } from '../dialect/index.ts'
import { compareRows, insertRows, selectRows } from '../rows/statements.ts'
import { withSampleRows } from '../rows/sample.ts'
import type { Place } from '../dialect/migration.ts'
import { canonicalValue } from '../design/same.ts'
import type { Moves } from './moves.ts'
import { runOnEngine } from '../rehearse/on-engine.ts'
import { rulebookOf } from '../rehearse/rules.ts'
import { breakOf, judgeAll, sayBroken, sayVerdict, trialOf } from '../rehearse/ruling.ts'
import { rehearse } from '../rehearse/run.ts'
import { soundRows } from '../rehearse/sound-rows.ts'
import type { Trial } from '../rehearse/trial.ts'
import { planMigration } from './plan.ts'

/** How one step of a proof stands. `done` and `of` count its statements or tables. */
export interface ProofStep {
  name: string
  state: 'waiting' | 'running' | 'good' | 'failed' | 'cancelled'
  done: number
  of: number
  differences: Difference[]
  /** What the engine said, and the statement that it said it of. */
  error?: { message: string; sql: string }
}

export interface Proof {
  engine: DialectName
  steps: ProofStep[]
  good: boolean
  cancelled: boolean
  /** What it says nothing of: rules that the dialect has no words for, tables without a row. */
  unproven: string[]
}

/** Told of every change of a proof as it runs. */
export type Report = (proof: Proof) => void

export interface ProofOptions {
  report?: Report
  signal?: { readonly aborted: boolean }
}

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

/**
 * What another system would have: its tables, made up for the proof.
 */
function standIns(
  catalogs: readonly Catalog[],
  dialect: Provable
): { steps: StepPlan[]; /** What is left to make. */ without(catalog: Catalog): Catalog } {
  // A table that changes hands is made once, by whoever has it at first.
  const first = new Map<string, CatalogTable>()
  for (const table of catalogs.flatMap((catalog) => catalog.tables))
    if (!first.has(table.id)) first.set(table.id, table)
  const external = new Map([...first].filter(([, table]) => table.external))
  const tables = [...external.values()].map((table) => standIn(table, catalogs))
  const enums =
    catalogs[0]?.enums.filter((list) =>
      tables.some((table) => table.columns.some((column) => column.type.list === list.id))
    ) ?? []
  const without = (catalog: Catalog): Catalog => ({
    ...catalog,
    enums: catalog.enums.filter((list) => !enums.includes(list))
  })
  if (external.size === 0) return { steps: [], without }
  const steps = [
    {
      name: 'make stand-ins for what other systems have',
      run: async (step: StepRun) => {
        await step.execute(
          dialect.create({
            schemas: [...new Set(catalogs.flatMap((catalog) => catalog.schemas))],
            enums,
            tables
          })
        )
      }
    }
  ]
  return { steps, without }
}

/** Of another system's table what the design's own lean on: its columns, and the keys that they refer by. */
function standIn(table: CatalogTable, catalogs: readonly Catalog[]): CatalogTable {
  const references = catalogs.flatMap((catalog) =>
    catalog.tables.flatMap((each) =>
      each.foreignKeys.filter((key) => !each.external && key.table === table.id)
    )
  )
  const isUsed = (key: CatalogKey): boolean => references.some((each) => sameSet(each.refersTo, key.columns))
  // Its rows come with their numbers: nothing is counted, for which some engines would need a key.
  const columns = table.columns.map((column) => ({ ...column, generated: false }))
  return {
    ...bareTable(table.id, table.name),
    columns,
    primaryKey: table.primaryKey && isUsed(table.primaryKey) ? table.primaryKey : undefined,
    uniques: table.uniques.filter(isUsed)
  }
}

const countRows = (design: Design): number => design.tables.reduce((sum, table) => sum + table.rows.length, 0)

class Cancelled extends Error {}

interface StepPlan {
  name: string
  run(step: StepRun): Promise<void>
}

class Run {
  constructor(
    readonly dialect: Provable,
    private readonly query: Query,
    private readonly options: ProofOptions,
    private readonly unproven: string[]
  ) {}

  async all(plans: StepPlan[]): Promise<Proof> {
    const proof: Proof = {
      engine: this.dialect.name,
      good: false,
      cancelled: false,
      unproven: this.unproven,
      steps: plans.map(({ name }) => ({ name, state: 'waiting', done: 0, of: 0, differences: [] }))
    }
    const report = (): void => this.options.report?.(structuredClone(proof))
    try {
      await this.dialect.engine.reset(this.query)
      for (const sql of this.dialect.engine.onConnect) await this.query(sql)
    } catch (error) {
      const [first] = proof.steps
      if (first) Object.assign(first, { state: 'failed', error: { message: sayError(error), sql: '' } })
      report()
      return proof
    }
    for (const [at, plan] of plans.entries()) {
      const step = proof.steps[at] as ProofStep
      step.state = 'running'
      report()
      try {
        await plan.run(new StepRun(step, this.dialect, this.query, report, this.options.signal))
        step.state = step.differences.length > 0 ? 'failed' : 'good'
      } catch (error) {
        step.state = error instanceof Cancelled ? 'cancelled' : 'failed'
        if (error instanceof Cancelled) proof.cancelled = true
        else
          step.error =
            error instanceof StatementFailed
              ? { message: error.message, sql: error.sql }
              : { message: sayError(error), sql: '' }
      }
      report()
      if (step.state !== 'good') return proof
    }
    proof.good = true
    report()
    return proof
  }
}

/** The rulings that a state does not keep to: its migration may be right all the same. */
const brokenRulings = (design: Design): string[] =>
  judgeAll(design).flatMap((each) => {
    const why = sayBroken(design, each)
    return why === undefined ? [] : [`The ruling “${each.ruling.says}” is not kept to from then on. ${why}`]
  })

class StatementFailed extends Error {
  constructor(
    message: string,
    readonly sql: string
  ) {
    super(message)
  }
}

const sayError = (error: unknown): string => (error instanceof Error ? error.message : String(error))

class StepRun {
  constructor(
    private readonly step: ProofStep,
    private readonly dialect: Provable,
    private readonly query: Query,
    private readonly report: () => void,
    private readonly signal: ProofOptions['signal']
  ) {}

  async execute(statements: readonly Statement[]): Promise<void> {
    this.step.of += statements.length
    for (const { sql } of statements) {
      if (this.signal?.aborted) throw new Cancelled()
      try {
        await this.query(sql)
      } catch (error) {
        await this.query('ROLLBACK').catch(() => undefined)
        throw new StatementFailed(sayError(error), sql)
      }
      this.tick()
    }
  }

  /** `besides`: tables that may be there as well. */
  async compare(expected: Catalog, columnOrder: boolean, besides: readonly string[] = []): Promise<void> {
    const found = await this.dialect.engine.read(this.query)
    const others = expected.tables.filter((table) => table.external).map((table) => table.name)
    const { oneDefault, oneExpression, oneType, asPrinted, sayTrigger } = this.dialect.engine
    this.step.differences.push(
      ...compareCatalogs(expected, found, {
        columnOrder,
        besides: new Set([...besides, ...others]),
        notes: this.dialect.facts.comments,
        quote: this.dialect.quote,
        oneDefault,
        oneExpression,
        oneType,
        sayTrigger,
        ...(asPrinted && { asPrinted })
      })
    )
  }

  /** Every row of the design, and no other. */
  async rows(design: Design, catalog: Catalog): Promise<void> {
    for (const table of design.tables) await this.compareTable(table, table, catalog, true)
  }

  /**
   * After the up step: every row of a table that stays, by the columns that stay as they were; and every
   * carried row.
   */
  async survivors(moves: Moves, from: Design, to: Design, catalog: Catalog): Promise<void> {
    for (const before of from.tables) {
      const after = tableOf(to, before.id)
      if (after && after.external === before.external)
        await this.compareTable(
          before,
          { ...before, columns: survivingColumns(before, after) },
          catalog,
          true
        )
    }
    await this.moved(moves, from, to, catalog)
  }

  /** What was moved, as it is worked out from the rows before: what comes into tables, and new columns. */
  private async moved(
    { flow, early, grown }: Moves,
    from: Design,
    to: Design,
    catalog: Catalog
  ): Promise<void> {
    const counted = await this.countedRows(grown, to, early, catalog)
    const { rows } = carryRows(flow, counted)
    for (const [id, wanted] of rows) {
      const [before, after] = [tableOf(from, id), tableOf(to, id)]
      if (!after) continue
      const moved = new Set(
        flow.fills.filter((fill) => fill.table === id).flatMap((fill) => fill.columns.map((each) => each.id))
      )
      const stays = new Set(before ? survivingColumns(before, after).map((column) => column.id) : [])
      const given = new Set(wanted.flatMap((row) => Object.keys(row)))
      const columns = after.columns.filter((column) =>
        before ? stays.has(column.id) || moved.has(column.id) : given.has(column.id)
      )
      await this.compareTable(after, { ...after, columns, rows: [...wanted] }, catalog, true)
    }
  }

  /** The state that a flow reads, with the numbers that the engine has counted by then. */
  private async countedRows(
    grown: Design,
    to: Design,
    early: readonly Place[],
    catalog: Catalog
  ): Promise<Design> {
    if (early.length === 0) return grown
    const tables = await Promise.all(
      grown.tables.map(async (table) => {
        const after = tableOf(to, table.id)
        const target = catalog.tables.find((each) => each.id === table.id)
        const isCounted = early.some((place) => place.table === table.id)
        if (!isCounted || !after || !target) return table
        const before = { ...table, columns: table.columns.filter((column) => columnOf(after, column.id)) }
        const found = await this.query(selectRows(before, target, this.dialect))
        return { ...table, rows: withFound(table, before, found) }
      })
    )
    return { ...grown, tables }
  }

  private async compareTable(
    named: Table,
    table: Table,
    catalog: Catalog,
    exact: boolean,
    select?: string
  ): Promise<void> {
    if (this.signal?.aborted) throw new Cancelled()
    const target = catalog.tables.find((each) => each.id === table.id)
    if (!target) return
    const found =
      table.columns.length > 0 ? await this.query(select ?? selectRows(table, target, this.dialect)) : []
    const { missing, unexpected } =
      table.columns.length > 0 ? compareRows(table, found) : { missing: 0, unexpected: 0 }
    if (missing > 0)
      this.step.differences.push({
        table: named.name,
        what: 'rows',
        expected: `${table.rows.length}`,
        found: `${missing} of them missing or changed`
      })
    if (exact && unexpected > 0)
      this.step.differences.push({
        table: named.name,
        what: 'rows',
        expected: `${table.rows.length}`,
        found: `${unexpected} more or changed`
      })
    this.tick()
  }

  /** What a ruling's statements come to on the engine is what it says, and what was worked out. */
  async ruling(design: Design, ruling: Ruling, trial: Trial, dialect: Provable): Promise<void> {
    if (this.signal?.aborted) throw new Cancelled()
    const table = nameOfTable(design, ruling.statements[0]?.table ?? '')
    const differ = (expected: string, found: string): void =>
      void this.step.differences.push({ table, what: 'ruling', expected, found })
    const rehearsed = rehearse(design, rulebookOf(design, dialect), trial)
    const broken = breakOf(design, ruling, rehearsed)
    if (broken !== undefined) return differ(sayVerdict(design, ruling), broken)
    const run = await runOnEngine(design, dialect, this.query, trial, rehearsed)
    this.tick()
    const [refused] = run.refusals
    const [different] = run.differences
    if (!run.same)
      differ(
        sayVerdict(design, ruling),
        refused?.message ?? `other rows in ${tableOf(design, different?.table ?? '')?.name ?? 'a table'}`
      )
  }

  private tick(): void {
    this.step.done++
    if (this.step.done % 20 === 0) this.report()
  }
}

/**
 * The rows of a table with what an engine has in columns that were not there: rows are known by what both
 * have.
 */
function withFound(table: Table, read: Table, found: readonly Record<string, unknown>[]): Row[] {
  const known = read.columns.filter((column) => table.rows.some((row) => (row[column.id] ?? null) !== null))
  const key = (value: (column: Column) => unknown): string =>
    JSON.stringify(known.map((column) => canonicalValue(value(column), column.type)))
  const waiting = new Map<string, Row[]>()
  for (const row of found) {
    const at = (column: Column): unknown => row[`v${read.columns.indexOf(column)}`]
    const all = read.columns.map((column) => [column.id, canonicalValue(at(column), column.type)] as const)
    const same = waiting.get(key(at)) ?? []
    waiting.set(key(at), [...same, Object.fromEntries(all.filter(([, value]) => value !== null))])
  }
  return table.rows.map((row) => ({ ...waiting.get(key((column) => row[column.id]))?.pop(), ...row }))
}

/**
 * The columns that are the same before and after, as they are before: what they hold must be the same too.
 */
function survivingColumns(before: Table, after: Table): Column[] {
  return before.columns.filter((old) => {
    const column = columnOf(after, old.id)
    return (
      column &&
      old.computed === column.computed &&
      sameType(old.type, column.type) &&
      old.required === column.required
    )
  })
}

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
