import { carryRows, type FlowOutcome } from '../carry/apply.ts'
import { BrokenQuery } from '../carry/columns.ts'
import { composeFlows, type OwnedFlow } from '../carry/compose.ts'
import { flowing } from '../carry/earlier.ts'
import { NeedsEngine } from '../carry/evaluate.ts'
import type { Flow, ReadColumn } from '../design/carry.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import {
  newId,
  tidyRow,
  type Column,
  type Design,
  type Row,
  type Table,
  type TableId
} from '../design/model.ts'
import { idsNamed } from '../design/row-query.ts'
import type { Parsed } from '../design/type.ts'
import { apply, replay } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { rowLabel } from '../relate/label.ts'

/** Why a restructuring cannot be: what stands in the way, and what would make it possible. */
export class Stuck extends Error {}

export function stuck(message: string): never {
  throw new Stuck(message)
}

/** The most rows that are named where rows stand in the way. */
const NAMED = 3

/**
 * A restructuring as it is put together: operations in turn, each on what those before it made, with the
 * design's own rows taken along.
 */
export class Restructuring {
  readonly operations: Operation[] = []

  constructor(public design: Design) {}

  /** A table as it is by now. */
  table(id: TableId): Table {
    return tableOf(this.design, id) ?? stuck('That table is no longer in the design.')
  }

  column(table: TableId, id: string): Column {
    const of = this.table(table)
    return columnOf(of, id) ?? stuck(`${of.name} no longer has that column.`)
  }

  do(...operations: Operation[]): void {
    for (const operation of operations) {
      const done = replay(this.design, operation)
      if (!done.ok) stuck(done.refusal.message)
      this.design = done.design
      this.operations.push(operation)
    }
  }

  /**
   * Moves rows: `make` makes what they are moved into. What the flow there gives the design's own rows they
   * have at once.
   */
  carry(there: Flow, back: Flow, ...make: Operation[]): void {
    const outcome = this.outcome(there)
    const hindrance = outcome?.hindrances[0]
    if (hindrance) stuck(`${hindrance.says} ${sayRows(this.design, hindrance.rows)}`.trim())
    const before = this.design
    this.do(...make)
    const reads = columnsRead([there, back], [before, this.design])
    this.do({ kind: 'carry.add', carry: { id: newId('y'), there, back, reads } })
    for (const [id, rows] of outcome?.rows ?? []) this.setRows(id, rows)
  }

  private setRows(id: TableId, carried: readonly Row[]): void {
    const table = tableOf(this.design, id)
    if (!table || (carried.length === 0 && table.rows.length === 0)) return
    const isPlain = (column: string): boolean => columnOf(table, column)?.computed === undefined
    const has = (column: string): boolean => columnOf(table, column) !== undefined && isPlain(column)
    const rows = carried.map((row) =>
      tidyRow(Object.fromEntries(Object.entries(row).filter(([column]) => has(column))))
    )
    this.do({ kind: 'table.setRows', table: id, rows })
  }

  /** Nothing where only an engine can work it out. */
  private outcome(flow: Flow): FlowOutcome | undefined {
    try {
      return carryRows(flow, this.design)
    } catch (error) {
      if (error instanceof NeedsEngine) return undefined
      if (error instanceof BrokenQuery) stuck(NOT_FOUND)
      throw error
    }
  }
}

function beginning(value: Column['default']): Pick<ReadColumn, 'begins' | 'counted'> {
  if (value?.kind === 'value') return { begins: value.value }
  return value?.kind === 'generated' ? { counted: true } : {}
}

/** The columns that flows name, as they are in the states before and after. */
function columnsRead(flows: readonly Flow[], states: readonly Design[]): ReadColumn[] {
  const named = idsNamed(flows)
  const found = new Map<string, ReadColumn>()
  for (const table of states.flatMap(({ tables }) => tables)) {
    if (!named.has(table.id)) continue
    for (const { id, type, default: value } of table.columns.filter((column) => named.has(column.id)))
      found.set(id, { table: table.id, id, type, ...beginning(value) })
  }
  return [...found.values()]
}

/** What a restructuring comes to as one step, judged as a whole; or why it cannot be, in words. */
export function restructure(
  design: Design,
  label: string,
  body: (restructuring: Restructuring) => void
): Parsed<Operation> {
  const restructuring = new Restructuring(design)
  try {
    body(restructuring)
  } catch (error) {
    if (error instanceof Stuck) return { ok: false, message: error.message }
    throw error
  }
  return judged(design, { kind: 'batch', label, operations: restructuring.operations })
}

/** A restructuring as one step, if it can be done, and rows found again by what it goes by, there and back. */
export function judged(design: Design, operation: Operation): Parsed<Operation> {
  const result = apply(design, operation)
  if (!result.ok) return { ok: false, message: result.refusal.message }
  const had = new Set(design.carries.map(({ id }) => id))
  const made = result.design.carries
    .filter(({ id }) => !had.has(id))
    .map((carry) => flowing(carry, [result.design]))
  const there = made.map(({ id, there: flow, reads }): OwnedFlow => ({ id, flow, reads }))
  const back = [...made].reverse().map(({ id, back: flow, reads }): OwnedFlow => ({ id, flow, reads }))
  const isWhole =
    composeFlows(design, result.design, there).left.length === 0 &&
    composeFlows(result.design, design, back).left.length === 0
  return isWhole ? { ok: true, value: operation } : { ok: false, message: NOT_FOUND }
}

const NOT_FOUND =
  'Rows cannot be found again by these columns: engines do not compare such values alike. Give them another type, or make other columns the key first.'

/** Some rows by their labels: those of the table whose columns they have. */
function sayRows(design: Design, rows: readonly Row[]): string {
  const [first] = rows
  const ids = Object.keys(first ?? {})
  const table = design.tables.find((each) => ids.some((id) => columnOf(each, id) !== undefined))
  if (!table) return ''
  const named = rows.slice(0, NAMED).map((row) => `“${rowLabel(design, table, row)}”`)
  const more = rows.length > NAMED ? ` and ${rows.length - NAMED} more` : ''
  return `These are in the way: ${named.join(', ')}${more}.`
}
