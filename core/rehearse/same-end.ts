import type { Row } from '../design/model.ts'
import type { Rehearsed } from './trial.ts'

/** Whether two engines leave the same rows of a trial, and refuse the same of it. */
export function isSameEnd(one: Rehearsed, other: Rehearsed): boolean {
  const refused = ({ refusals }: Rehearsed): string => refusals.map(({ statement }) => statement).join()
  if (refused(one) !== refused(other) || one.rows.size !== other.rows.size) return false
  return [...one.rows].every(([table, rows]) => {
    const others = other.rows.get(table)
    return others?.length === rows.length && rows.every((row, at) => isSameRow(row, others[at]))
  })
}

function isSameRow(one: Row, other: Row | undefined): boolean {
  if (one === other || other === undefined) return one === other
  const ids = Object.keys(one)
  return ids.length === Object.keys(other).length && ids.every((id) => one[id] === other[id])
}
