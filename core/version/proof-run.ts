import { columnOf, nameOfTable, tableOf } from '../design/directory.ts'
import { carryRows } from '../carry/apply.ts'
import type { Column, Design, Row, Ruling, Table } from '../design/model.ts'
import { sameType } from '../design/type.ts'
import { compareCatalogs, type Catalog, type Statement } from '../dialect/catalog.ts'
import type { Query } from '../dialect/dialect.ts'
import type { Provable } from '../dialect/index.ts'
import { compareRows, selectRows } from '../rows/statements.ts'
import type { ColumnOfTable } from '../dialect/migration.ts'
import { canonicalValue } from '../design/same.ts'
import type { Moves } from './moves.ts'
import { runOnEngine } from '../rehearse/on-engine.ts'
import { rulebookOf } from '../rehearse/rules.ts'
import { breakOf, sayVerdict } from '../rehearse/ruling.ts'
import { rehearse } from '../rehearse/run.ts'
import type { Trial } from '../rehearse/trial.ts'
import type { ProofStep, Proof, ProofOptions } from './proof-step.ts'

/** A proof at work: its steps one after the other, each told as it goes. */

class Cancelled extends Error {}

export interface StepPlan {
  name: string
  run(step: StepRun): Promise<void>
}

export class Run {
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

class StatementFailed extends Error {
  constructor(
    message: string,
    readonly sql: string
  ) {
    super(message)
  }
}

const sayError = (error: unknown): string => (error instanceof Error ? error.message : String(error))

export class StepRun {
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
    early: readonly ColumnOfTable[],
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
