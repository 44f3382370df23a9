import type { Fill, Flow } from '../design/carry.ts'
import { byId } from '../design/by-id.ts'
import type { TableId } from '../design/model.ts'
import type { Projected, RowQuery, TypedColumn } from '../design/row-query.ts'
import { columnsOf, type Ground } from './columns.ts'

/** A table's rows as they are after a flow, in parts: those that were there, and those that come. */
export interface Parts {
  own: RowQuery | undefined
  added: readonly RowQuery[]
}

/**
 * The rows that a table has after a flow, as a query over the tables before it: what it had, with what is
 * filled in, and what comes beside that. Nothing where the flow leaves the table alone.
 * @param before the columns that its rows have before, or nothing where there is no such table
 */
export function rowsAfter(
  flow: Flow,
  table: TableId,
  before: readonly TypedColumn[] | undefined,
  ground: Ground
): RowQuery | undefined {
  const fills = flow.fills.filter((fill) => fill.table === table)
  const adds = flow.adds.filter((each) => each.table === table).map(({ rows }) => rows)
  if (fills.length + adds.length === 0) return undefined
  const own: RowQuery[] = before ? [filledRows({ kind: 'table', table }, before, fills, ground)] : []
  return united([...own, ...adds])
}

/** Several queries as one. */
export function united(parts: readonly RowQuery[]): RowQuery | undefined {
  const [only, ...others] = parts
  return others.length === 0 ? only : { kind: 'union', of: [...parts] }
}

/** Rows with what fills put into them; a column that is there already keeps what it has, where it has something. */
export function filledRows(
  rows: RowQuery,
  columns: readonly TypedColumn[],
  fills: readonly Fill[],
  ground: Ground
): RowQuery {
  let filled = rows
  const known = new Map(columns.map((column) => [column.id, column]))
  for (const fill of fills) {
    const taken = fill.columns.filter(({ id }) => fill.whereEmpty || !known.has(id))
    if (taken.length > 0) filled = filledBy(filled, known, { ...fill, columns: taken })
    const given = byId(columnsOf(fill.from, ground))
    for (const { id, from } of taken) {
      const type = given.get(from)?.type
      if (type && !known.has(id)) known.set(id, { id, type })
    }
  }
  return filled
}

/**
 * Rows with the columns of a fill: joined with its rows, which go by passing names so that a table can be
 * filled from itself.
 */
function filledBy(
  rows: RowQuery,
  known: ReadonlyMap<string, TypedColumn>,
  { on, columns: taken, from }: Fill
): RowQuery {
  const passing = [...on.map(({ other }) => other), ...taken.map((each) => each.from)].map((id, at) => ({
    id: `j_${at}`,
    from: id
  }))
  const right: RowQuery = { kind: 'project', of: from, columns: passing }
  return {
    kind: 'project',
    of: {
      kind: 'join',
      left: rows,
      right,
      on: on.map(({ own, empty }, at) => ({ left: own, right: `j_${at}`, empty })),
      unmatched: 'kept'
    },
    columns: [
      ...[...known.keys()]
        .filter((id) => taken.every((column) => column.id !== id))
        .map((id): Projected => ({ id, from: id })),
      ...taken.map(({ id }, at): Projected => {
        const [column, other] = [known.get(id), `j_${on.length + at}`]
        return column ? { ...column, is: `coalesce({${id}}, {${other}})` } : { id, from: other }
      })
    ]
  }
}
