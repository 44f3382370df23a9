import { columnsOf, type Ground } from '../carry/columns.ts'
import { composeFlows, type Composed, type OwnedFlow } from '../carry/compose.ts'
import { flowing } from '../carry/earlier.ts'
import { groundOf } from '../carry/ground.ts'
import { Promises } from '../carry/promises.ts'
import type { Carry, Fill, Flow } from '../design/carry.ts'
import { byId } from '../design/by-id.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import type { ColumnId, Design, Key, Table, TableId } from '../design/model.ts'
import {
  idsNamed,
  partsOfQuery,
  saidEmpty,
  tablesRead,
  type RowQuery,
  type TypedColumn
} from '../design/row-query.ts'
import type { ColumnOfTable } from '../dialect/migration.ts'

/** What a migration moves. */
export interface Moves {
  flow: Composed
  /** New columns that must be there before anything is read: the engine counts them, or they are put back. */
  early: ColumnOfTable[]
  /** The state that the flow reads: the one before, with those columns. */
  grown: Design
}

/** The flows that lead from one state to the other: back from what only the first has, then on. */
export function stepsBetween(from: Design, to: Design): OwnedFlow[] {
  const designs = [to, from]
  const onlyIn = (one: Design, other: Design): readonly Carry[] =>
    one.carries.filter((carry) => !byId(other.carries).has(carry.id))
  const undone = [...onlyIn(from, to)].reverse().map((carry) => flowing(carry, designs))
  const done = onlyIn(to, from).map((carry) => flowing(carry, designs))
  return [
    ...undone.map(({ id, back, reads }): OwnedFlow => ({ id, flow: back, reads })),
    ...done.map(({ id, there, reads }): OwnedFlow => ({ id, flow: there, reads }))
  ]
}

/**
 * What is moved from one state to the other.
 * @param early new columns that are there before anything is read, by their table
 */
export function movesBetween(from: Design, to: Design, early: readonly ColumnOfTable[] = []): Moves {
  const grown = early.length === 0 ? from : withColumns(from, to, early)
  return { flow: composeFlows(grown, withoutOthers(to), stepsBetween(from, to)), early: [...early], grown }
}

/** The columns that were there and get something from one state to the other where they have nothing. */
export function filledWhereEmpty(from: Design, to: Design): Set<ColumnId> {
  const fills = stepsBetween(from, to).flatMap(({ flow }) => flow.fills.filter((fill) => fill.whereEmpty))
  return new Set(fills.flatMap(({ columns }) => columns.map(({ id }) => id)))
}

/**
 * Those of the columns that a flow between two states speaks of, and does not fill by itself: what is counted is
 * given its numbers by the engine.
 */
export function readOnTheWay(from: Design, to: Design, places: readonly ColumnOfTable[]): ColumnOfTable[] {
  const flows = stepsBetween(from, to).map(({ flow }) => flow)
  const named = idsNamed(flows)
  const isCounted = (table: TableId, id: ColumnId): boolean => {
    const after = tableOf(to, table)
    return after !== undefined && columnOf(after, id)?.default?.kind === 'generated'
  }
  const given = new Set(
    flows.flatMap((flow) => {
      const lookedUp = lookedUpIn(flow)
      const own = flow.fills.filter(
        (fill) => lookedUp.includes(fill) || !fill.columns.some(({ id }) => isCounted(fill.table, id))
      )
      return own.flatMap(({ columns }) => columns.map(({ id }) => id))
    })
  )
  return places.filter(({ column }) => !given.has(column) && named.has(column))
}

/** The fills of a flow that find what there is, and do not number anew. */
export function lookedUpIn({ fills, results }: Pick<Flow, 'fills' | 'results'>): Fill[] {
  const known = new Map(results.map(({ name, query }) => [name, query]))
  const numbers = (query: RowQuery): boolean => {
    const result = query.kind === 'result' ? known.get(query.name) : undefined
    return (
      query.kind === 'number' ||
      partsOfQuery(query).some(numbers) ||
      (result !== undefined && numbers(result))
    )
  }
  return fills.filter((fill) => !numbers(fill.from))
}

/** Another system's rows are not moved. */
function withoutOthers(design: Design): Design {
  return { ...design, tables: design.tables.filter((table) => !table.external) }
}

function withColumns(from: Design, to: Design, places: readonly ColumnOfTable[]): Design {
  const grown = (table: Table): Table => {
    const made = places.filter((place) => place.table === table.id)
    const after = tableOf(to, table.id)
    const columns = made.flatMap(({ column }) => (after && columnOf(after, column)) ?? [])
    if (columns.length === 0) return table
    // What is counted is another number in every row.
    const counted = columns.filter((column) => column.default?.kind === 'generated')
    const keys = counted.map(({ id }): Key => ({ id: `k_of_${id}`.slice(0, 40), columns: [id] }))
    return { ...table, columns: [...table.columns, ...columns], uniques: [...table.uniques, ...keys] }
  }
  return { ...from, tables: from.tables.map(grown) }
}

/** Whether a fill gives the rows of a table a column. */
export function fillsColumn(fill: Fill, table: TableId, column: ColumnId): boolean {
  return fill.table === table && fill.columns.some(({ id }) => id === column)
}

/** Whether the rows that are there get a column from a flow. */
export function isFilled({ fills }: Pick<Composed, 'fills'>, table: TableId, column: ColumnId): boolean {
  return fills.some((fill) => fillsColumn(fill, table, column))
}

/** Whether every row of the table that has something in a fill's columns gets it back. */
export function reachesEveryRow(fill: Fill, table: Table): boolean {
  const isRequired = (id: ColumnId): boolean => columnOf(table, id)?.required ?? false
  const goes = fill.on.length === 1 || fill.on.every(({ own }) => isRequired(own))
  const comes = fill.columns.length === 1 || fill.columns.every(({ id }) => isRequired(id))
  return goes && comes
}

/** What can be told of rows that come into a table. */
export interface AddedRows {
  /** The tables that they come from. */
  sources: readonly TableId[]
  columns: ReadonlySet<ColumnId>
  unique: readonly ColumnId[][]
  filled: ReadonlySet<ColumnId>
}

/** The columns that rows may have something in. */
function given(rows: RowQuery, ground: Ground): Set<ColumnId> {
  const empty = saidEmpty(rows)
  const ids = columnsOf(rows, ground).map(({ id }) => id)
  return new Set(ids.filter((id) => !empty.has(id)))
}

/** What can be told of a table's rows as a flow leaves them. */
export class RowsAfter {
  private readonly promises: Promises

  constructor(private readonly moves: Moves) {
    this.promises = new Promises(moves.grown, moves.flow.everyResult)
  }

  /** Whether the rows that were there have the column, or get it. */
  has(table: TableId, column: ColumnId): boolean {
    const before = tableOf(this.moves.grown, table)
    return (
      before !== undefined &&
      (columnOf(before, column) !== undefined || isFilled(this.moves.flow, table, column))
    )
  }

  /** Sets of columns in which no two of the rows that were there are the same. */
  unique(table: TableId): readonly ColumnId[][] {
    return this.promises.unique(this.own(table))
  }

  /** The columns that have a value in every row that was there. */
  filled(table: TableId): ReadonlySet<ColumnId> {
    return this.promises.filled(this.own(table))
  }

  /** The rows that come into a table, part by part. */
  added(table: TableId): AddedRows[] {
    const { adds, everyResult } = this.moves.flow
    if (adds.every((each) => each.table !== table)) return []
    const types = new Map<string, readonly TypedColumn[]>()
    const ground = groundOf(this.moves.grown, types)
    for (const { name, query } of everyResult) types.set(name, columnsOf(query, ground))
    return adds
      .filter((each) => each.table === table)
      .map(({ rows }) => ({
        sources: tablesRead(rows),
        columns: given(rows, ground),
        unique: this.promises.unique(rows),
        filled: this.promises.filled(rows)
      }))
  }

  private own(table: TableId): RowQuery {
    return this.moves.flow.tables.get(table)?.own ?? { kind: 'table', table }
  }
}
