import { columnOf } from './directory.ts'
import { evaluate } from './evaluate.ts'
import type { Column, ColumnId, Row, Table } from './model.ts'
import { canonicalValue } from './same.ts'

/** What a column holds in a row, in one spelling: of the column's own type, or compared as another's. */
export function valueIn(table: Table, row: Row, id: ColumnId, as?: Column): string | null {
  const column = columnOf(table, id)
  return column ? valueOf(table, row, column, as ?? column) : null
}

function valueOf(table: Table, row: Row, column: Column, as: Column): string | null {
  const value = column.computed === undefined ? row[column.id] : evaluate(column.computed, table, row)
  if (value === null || value === undefined) return null
  return canonicalValue(value, as.type)
}

/** Values as one text; none where one is empty. */
export function textOfValues(values: readonly (string | null)[]): string | undefined {
  if (values.includes(null)) return undefined
  return values.length === 1 ? (values[0] as string) : JSON.stringify(values)
}

/**
 * A row's values in columns as one text: the same for values that are the same to an engine; none where one is empty.
 * @param as columns of another table that these are compared with, one for each.
 */
export function textOfKey(
  table: Table,
  ids: readonly ColumnId[],
  row: Row,
  as: readonly Column[] = []
): string | undefined {
  return textOfValues(ids.map((id, at) => valueIn(table, row, id, as[at])))
}

/** The same for many rows of a table. */
export function keyTexts(
  table: Table,
  ids: readonly ColumnId[],
  as: readonly Column[] = []
): (row: Row) => string | undefined {
  const [only] = ids
  const column = only === undefined || ids.length > 1 ? undefined : columnOf(table, only)
  if (!column) return (row) => textOfKey(table, ids, row, as)
  const like = as[0] ?? column
  return (row) => valueOf(table, row, column, like) ?? undefined
}
