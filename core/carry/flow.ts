import type { Flow } from '../design/carry.ts'
import type { ColumnId } from '../design/model.ts'
import type { RowQuery } from '../design/row-query.ts'

/** What flows are put together of. */

/** A flow that moves nothing. */
export const STILL: Flow = { results: [], adds: [], fills: [], requires: [] }

/** Those of the rows in which all of the columns are filled. */
export function filled(of: RowQuery, columns: readonly ColumnId[]): RowQuery {
  if (columns.length === 0) return of
  return { kind: 'filter', of, where: columns.map((id) => `{${id}} is not null`).join(' and ') }
}
