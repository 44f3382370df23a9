import type { Column } from '../design/model.ts'
import { type RowQuery, type TypedColumn } from '../design/row-query.ts'
import { BrokenQuery } from './columns.ts'

/** What flows are put together of. */

export const has = (columns: readonly { id: string }[], id: string): boolean =>
  columns.some((each) => each.id === id)

/** Rows with all of the columns wanted: those that are missing are empty. */
export function completed(
  rows: RowQuery,
  given: readonly TypedColumn[],
  wanted: readonly TypedColumn[]
): RowQuery {
  const missing = wanted.filter(({ id }) => !has(given, id))
  if (missing.length === 0) return rows
  return {
    kind: 'project',
    of: rows,
    columns: wanted.map((column) =>
      has(given, column.id) ? { id: column.id, from: column.id } : { ...column, value: null }
    )
  }
}

export const typed = ({ id, type }: Column): TypedColumn => ({ id, type })

export function typeIn(columns: readonly TypedColumn[], id: string): TypedColumn['type'] {
  const found = columns.find((column) => column.id === id)
  if (!found) throw new BrokenQuery(`There is no column ${id}.`)
  return found.type
}

/** What a column has in the rows that are there when it comes. */
export function beginsWith({ default: value }: Column): string | number | boolean | null {
  return value?.kind === 'value' ? value.value : null
}
