import type { Result } from '../design/carry.ts'
import { keysOf, tableOf } from '../design/directory.ts'
import { expressionOf } from '../design/expressions.ts'
import type { ColumnId, Design, Table } from '../design/model.ts'
import type { Projected, RowQuery } from '../design/row-query.ts'
import type { Expression } from '../sql/expression.ts'

type Join = Extract<RowQuery, { kind: 'join' }>

/**
 * What can be told of the rows that a query gives without looking at any, from the keys, the references
 * and the required columns of the tables that it reads. What cannot be told is not promised.
 */
export class Promises {
  private readonly results: ReadonlyMap<string, RowQuery>

  constructor(
    private readonly design: Design,
    results: readonly Result[] = []
  ) {
    this.results = new Map(results.map(({ name, query }) => [name, query]))
  }

  /** Sets of columns in which no two of the rows are the same. */
  unique(query: RowQuery): readonly ColumnId[][] {
    switch (query.kind) {
      case 'table':
        return this.keys(tableOf(this.design, query.table))
      case 'result': {
        const of = this.results.get(query.name)
        return of ? this.unique(of) : []
      }
      case 'filter':
        return this.unique(query.of)
      case 'project':
        return this.unique(query.of).flatMap((set) => renamedSets(set, query.columns))
      case 'join':
        return this.uniqueInJoin(query)
      case 'number':
        return [...this.unique(query.of), [query.as]]
      case 'first':
        return [...this.unique(query.of), query.per]
      case 'distinct': {
        const own = this.unique(query.of)
        return query.of.kind === 'project' ? [...own, query.of.columns.map(({ id }) => id)] : own
      }
      case 'constant':
      case 'union':
        return []
    }
  }

  private keys(table: Table | undefined): ColumnId[][] {
    return table ? keysOf(table).map((key) => key.columns) : []
  }

  /**
   * Where the right side has at most one row for each of the left, the left's keys stay; and columns that
   * lead to one row, as those that a key of it does, may stand for each other.
   */
  private uniqueInJoin({ left, right, on }: Join): ColumnId[][] {
    const other = this.unique(right)
    const agreed = on.map((each) => each.right)
    const isSingle = other.some((set) => set.every((id) => agreed.includes(id)))
    if (!isSingle) return []
    const own = on.map((each) => each.left)
    return this.unique(left).flatMap((set) => {
      if (!own.every((id) => set.includes(id))) return [set]
      const rest = set.filter((id) => !own.includes(id))
      return [set, ...other.map((key) => [...rest, ...key])]
    })
  }

  /** The columns that have a value in every row. */
  filled(query: RowQuery): ReadonlySet<ColumnId> {
    switch (query.kind) {
      case 'table': {
        const columns = tableOf(this.design, query.table)?.columns ?? []
        return new Set(columns.filter(({ required }) => required).map(({ id }) => id))
      }
      case 'result': {
        const of = this.results.get(query.name)
        return of ? this.filled(of) : new Set()
      }
      case 'constant': {
        const isFilled = (at: number): boolean => query.rows.every((row) => (row[at] ?? null) !== null)
        return new Set(query.columns.filter((_, at) => isFilled(at)).map(({ id }) => id))
      }
      case 'filter':
        return new Set([...this.filled(query.of), ...neverEmpty(expressionOf(query.where))])
      case 'project': {
        const of = this.filled(query.of)
        return new Set(query.columns.filter((column) => isProjectedFilled(column, of)).map(({ id }) => id))
      }
      case 'join':
        return this.filledInJoin(query)
      case 'union': {
        const [first, ...others] = query.of.map((each) => this.filled(each))
        return new Set([...(first ?? [])].filter((id) => others.every((each) => each.has(id))))
      }
      case 'number':
        return new Set([...this.filled(query.of), query.as])
      case 'distinct':
      case 'first':
        return this.filled(query.of)
    }
  }

  /** Where a reference leads to the right side, and is filled, there is a row for each of the left. */
  private filledInJoin(join: Join): ReadonlySet<ColumnId> {
    const [left, right] = [this.filled(join.left), this.filled(join.right)]
    if (join.unmatched === 'dropped') {
      const agreed = join.on.filter(({ empty }) => !empty).flatMap((each) => [each.left, each.right])
      return new Set([...left, ...right, ...agreed])
    }
    const isSure = join.on.every((each) => left.has(each.left)) && this.isReference(join)
    return isSure ? new Set([...left, ...right]) : left
  }

  /** Whether the columns of the left side lead to a row of the right: those of a reference, or its own key. */
  private isReference({ left, right, on }: Join): boolean {
    const pairs = on.map((each) => ({
      own: this.origin(left, each.left),
      other: this.wholeOrigin(right, each.right)
    }))
    const leadsTo = (own: string, other: string): boolean =>
      pairs.some((pair) => pair.own === own && pair.other === other)
    return this.design.tables.some(
      (table) =>
        table.foreignKeys.some(
          (key) =>
            key.pairs.length === pairs.length &&
            key.pairs.every((pair) => leadsTo(`${table.id} ${pair.column}`, `${key.table} ${pair.refersTo}`))
        ) ||
        keysOf(table).some(
          (key) =>
            key.columns.length === pairs.length &&
            key.columns.every((id) => leadsTo(`${table.id} ${id}`, `${table.id} ${id}`))
        )
    )
  }

  /** The table and column that a column comes from as it is, as a text; some of the rows may be missing. */
  private origin(query: RowQuery, id: ColumnId): string | undefined {
    if (query.kind === 'join') return this.origin(query.left, id)
    if (query.kind === 'filter' || query.kind === 'distinct' || query.kind === 'first')
      return this.origin(query.of, id)
    return this.through(query, id, (of, column) => this.origin(of, column))
  }

  /** The same, where no row of the table is missing. */
  private wholeOrigin(query: RowQuery, id: ColumnId): string | undefined {
    if (query.kind === 'join' && query.unmatched === 'kept') return this.wholeOrigin(query.left, id)
    return this.through(query, id, (of, column) => this.wholeOrigin(of, column))
  }

  /** What is asked of a column, asked of where it comes from, through what leaves the rows as they are. */
  private through(
    query: RowQuery,
    id: ColumnId,
    ask: (of: RowQuery, id: ColumnId) => string | undefined
  ): string | undefined {
    switch (query.kind) {
      case 'table':
        return `${query.table} ${id}`
      case 'result': {
        const of = this.results.get(query.name)
        return of && ask(of, id)
      }
      case 'number':
        return query.as === id ? undefined : ask(query.of, id)
      case 'project': {
        const column = query.columns.find((each) => each.id === id)
        return column && 'from' in column ? ask(query.of, column.from) : undefined
      }
      default:
        return undefined
    }
  }
}

/** A set of columns under the names that a projection gives them, where it gives all of them one. */
function renamedSets(set: readonly ColumnId[], columns: readonly Projected[]): ColumnId[][] {
  const named = set.map((id) => columns.find((column) => 'from' in column && column.from === id)?.id)
  return named.every((id) => id !== undefined) ? [named] : []
}

function isProjectedFilled(column: Projected, of: ReadonlySet<ColumnId>): boolean {
  if ('from' in column) return of.has(column.from)
  return 'value' in column ? column.value !== null : isWorkedFilled(expressionOf(column.is), of)
}

/** Whether an expression gives something in every row; what divides may not. */
function isWorkedFilled(expression: Expression, of: ReadonlySet<ColumnId>): boolean {
  const isFilled = (each: Expression): boolean => isWorkedFilled(each, of)
  switch (expression.kind) {
    case 'number':
    case 'text':
    case 'boolean':
    case 'isNull':
      return true
    case 'column':
      return of.has(expression.name)
    case 'call':
      return expression.name === 'coalesce' && expression.args.some(isFilled)
    case 'binary':
      return !['/', '%'].includes(expression.op) && isFilled(expression.left) && isFilled(expression.right)
    default:
      return false
  }
}

/** The columns that a condition asks to be filled. */
function neverEmpty(condition: Expression): ColumnId[] {
  if (condition.kind === 'binary' && condition.op === 'and')
    return [...neverEmpty(condition.left), ...neverEmpty(condition.right)]
  const asks = condition.kind === 'isNull' && condition.not && condition.of.kind === 'column'
  return asks && condition.of.kind === 'column' ? [condition.of.name] : []
}
