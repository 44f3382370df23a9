import type { ColumnId } from '../design/model.ts'
import type { Order, RowQuery } from '../design/row-query.ts'

/** Queries that several restructurings ask. */

/** The rows that are not the first of those that agree in some columns: those that are there once too often. */
export function beyondFirst(of: RowQuery, per: readonly ColumnId[], by: readonly Order[]): RowQuery {
  const numbered: RowQuery = { kind: 'number', of, as: 'j_no', by: [...by] }
  const first: RowQuery = { kind: 'first', of: numbered, per: [...per], by: [{ column: 'j_no' }] }
  const joined: RowQuery = {
    kind: 'join',
    left: numbered,
    right: { kind: 'project', of: first, columns: [{ id: 'j_first', from: 'j_no' }] },
    on: [{ left: 'j_no', right: 'j_first' }],
    unmatched: 'kept'
  }
  return { kind: 'filter', of: joined, where: '{j_first} is null' }
}

/** A text in an expression. */
export const said = (value: string): string => `'${value.replaceAll("'", "''")}'`
