import { isSameRow, type Design, type Row } from '../design/model.ts'
import type { ChangedRows, Rehearsed } from './trial.ts'

/** Whether two engines leave the same rows of a trial on a design's rows, and refuse the same of it. */
export function isSameEnd({ tables }: Design, one: Rehearsed, other: Rehearsed): boolean {
  const refused = ({ refusals }: Rehearsed): string => refusals.map(({ statement }) => statement).join()
  if (refused(one) !== refused(other) || one.changed.size !== other.changed.size) return false
  return tables.every(({ id, rows }) => {
    const [mine, its] = [one.changed.get(id), other.changed.get(id)]
    return mine === its || (mine !== undefined && its !== undefined && isSameOf(rows.length, mine, its))
  })
}

/** The same of one table that had so many rows: where those that came stand is of no account. */
function isSameOf(had: number, one: ChangedRows, other: ChangedRows): boolean {
  const came = (changed: ChangedRows): (Row | undefined)[] =>
    [...changed].flatMap(([place, row]) => (place < had ? [] : [row]))
  const [mine, its] = [came(one), came(other)]
  return (
    one.size === other.size &&
    mine.length === its.length &&
    mine.every((row, at) => isSameRow(row, its[at])) &&
    [...one].every(([place, row]) => place >= had || (other.has(place) && isSameRow(row, other.get(place))))
  )
}
