import type { ColumnId } from '../design/model.ts'
import type { Order, Projected, RowQuery, TypedColumn } from '../design/row-query.ts'

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

/** Rows that have a number, and rows that are to get one. */
interface Numbering {
  had: RowQuery
  since: RowQuery
  /** The order in which the others are numbered. */
  by: readonly Order[]
  number: TypedColumn
  /** The columns beside the number. */
  beside: readonly ColumnId[]
}

/** All rows with a number each: the others go on from the largest. */
export function numberedOn({ had, since, by, number, beside }: Numbering): RowQuery {
  const columns = beside.map((id): Projected => ({ id, from: id }))
  const any = (id: string): Projected => ({ id, type: number.type, value: 1 })
  const largest: RowQuery = {
    kind: 'first',
    of: { kind: 'project', of: had, columns: [{ id: 'j_largest', from: number.id }, any('j_one')] },
    per: ['j_one'],
    by: [{ column: 'j_largest', descending: true }]
  }
  const counted: RowQuery = {
    kind: 'number',
    of: { kind: 'project', of: since, columns: [...columns, any('j_any')] },
    as: 'j_next',
    by: [...by]
  }
  const after: RowQuery = {
    kind: 'join',
    left: counted,
    right: largest,
    on: [{ left: 'j_any', right: 'j_one' }],
    unmatched: 'kept'
  }
  const next: Projected = { ...number, is: 'coalesce({j_largest}, 0) + {j_next}' }
  return {
    kind: 'union',
    of: [
      { kind: 'project', of: had, columns: [...columns, { id: number.id, from: number.id }] },
      { kind: 'project', of: after, columns: [...columns, next] }
    ]
  }
}
