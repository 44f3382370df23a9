import { byId } from '../design/by-id.ts'
import { isEqual } from '../design/equal.ts'
import type { Column, ColumnId, Row, Table } from '../design/model.ts'
import { canonicalValue } from '../design/same.ts'

/**
 * What rows of a table are in two states of it. A value in a column that only one state has, or that holds something
 * else in the other (another type, or worked out from others), comes and goes with the column, and is no change of the
 * row.
 */

/** What became of the rows of a table. */
export interface RowsBetween {
  added: Row[]
  removed: Row[]
  /** Rows of which a value is another, and in which columns. */
  changed: { before: Row; after: Row; columns: ColumnId[] }[]
}

/** Whether the rows of a table hold the same in both states, in the same order. */
export function haveSameRows(before: Table, after: Table): boolean {
  if (before.rows === after.rows) return true
  if (before.rows.length !== after.rows.length) return false
  const alike = columnsAlike(before, after)
  return before.rows.every((row, at) => isSameIn(alike, row, after.rows[at] as Row))
}

/** What becomes of the rows of a table, by what tells them apart. */
export function rowsBetween(before: Table, after: Table): RowsBetween {
  const was = placesBefore(before, after)
  const alike = columnsAlike(before, after)
  const kept = new Set(was)
  const changed = after.rows.flatMap((now, at): RowsBetween['changed'] => {
    const old = before.rows[was[at] ?? -1]
    const columns = old ? alike.filter((id) => !isSameIn([id], old, now)) : []
    return old && columns.length > 0 ? [{ before: old, after: now, columns }] : []
  })
  return {
    added: after.rows.filter((_, at) => was[at] === undefined),
    removed: before.rows.filter((_, at) => !kept.has(at)),
    changed
  }
}

/** For each row of the second state, where it stood in the first; nothing for one that is new. */
export function placesBefore(before: Table, after: Table): readonly (number | undefined)[] {
  if (haveSameRows(before, after)) return after.rows.map((_, at) => at)
  const apart = tellingApart(before, after)
  const waiting = new Map<string, number[]>()
  for (let at = before.rows.length - 1; at >= 0; at--) {
    const key = keyIn(apart, before.rows[at] as Row)
    const alike = waiting.get(key)
    if (alike) alike.push(at)
    else waiting.set(key, [at])
  }
  return after.rows.map((row) => waiting.get(keyIn(apart, row))?.pop())
}

/** The columns that hold the same kind of values in both states. */
export function columnsAlike(before: Table, after: Table): ColumnId[] {
  const had = byId(before.columns)
  return after.columns
    .filter((column) => {
      const old = had.get(column.id)
      return old !== undefined && old.computed === column.computed && isEqual(old.type, column.type)
    })
    .map(({ id }) => id)
}

/** The columns by which a row is known in both states: those of a primary key, else all that are alike. */
function tellingApart(before: Table, after: Table): Column[] {
  const alike = new Set(columnsAlike(before, after))
  const keys = [before.primaryKey, after.primaryKey].flatMap((key) => (key ? [key.columns] : []))
  const ids = keys.find((key) => key.every((id) => alike.has(id))) ?? [...alike]
  return after.columns.filter(({ id }) => ids.includes(id))
}

const keyIn = (columns: readonly Column[], row: Row): string =>
  JSON.stringify(columns.map(({ id, type }) => canonicalValue(row[id] ?? null, type)))

const isSameIn = (columns: readonly ColumnId[], one: Row, other: Row): boolean =>
  one === other || columns.every((id) => (one[id] ?? null) === (other[id] ?? null))
