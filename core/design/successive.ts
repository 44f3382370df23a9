import type { Row, Table, TableId } from './model.ts'

/** Where two states of a table's rows differ: behind the first `head` rows `before` rows became `after` others. */
export interface RowsDelta {
  head: number
  before: number
  after: number
}

/** By the rows as they became: what they were, and where they differ, as it was told last. */
const told = new WeakMap<readonly Row[], { before: readonly Row[]; delta: RowsDelta }>()

/**
 * Rows that are the same value in both states, at the beginning and at the end, are the same. Many ask it of the same
 * two states, which then are gone through once.
 */
export function rowsDelta(before: readonly Row[], after: readonly Row[]): RowsDelta {
  const last = told.get(after)
  if (last?.before === before) return last.delta
  const delta = deltaOf(before, after)
  told.set(after, { before, delta })
  return delta
}

function deltaOf(before: readonly Row[], after: readonly Row[]): RowsDelta {
  const most = Math.min(before.length, after.length)
  let head = 0
  while (head < most && before[head] === after[head]) head++
  let tail = 0
  while (tail < most - head && before[before.length - 1 - tail] === after[after.length - 1 - tail]) tail++
  return { head, before: before.length - head - tail, after: after.length - head - tail }
}

/** Of tables with fewer rows everything is worked out anew. */
export const MANY = 1000
/** So many tables of many rows are remembered as they were last. */
const REMEMBERED = 4

/**
 * What is worked out of a table's rows: from what was worked out of them before they changed, where that is known and
 * few are others; else anew.
 */
export class Successive<R> {
  private readonly known = new WeakMap<Table, R>()
  private readonly last = new Map<TableId, Table>()

  constructor(
    /** Whether two states of a table are told the same by, but for their rows. */
    private readonly isAlike: (before: Table, after: Table) => boolean,
    private readonly anew: (table: Table) => R,
    private readonly next: (result: R, delta: RowsDelta, before: Table, after: Table) => R
  ) {}

  of(table: Table): R {
    return this.found(table) ?? this.keep(table, this.anew(table))
  }

  /** What is known of it, or follows from what was known before. */
  found(table: Table): R | undefined {
    const known = this.known.get(table)
    if (known !== undefined || table.rows.length < MANY) return known
    const before = this.last.get(table.id)
    const result = before && this.known.get(before)
    if (!before || result === undefined || !this.isAlike(before, table)) return undefined
    const delta = rowsDelta(before.rows, table.rows)
    if (Math.max(delta.before, delta.after) > table.rows.length / 4) return undefined
    return this.keep(table, this.next(result, delta, before, table))
  }

  keep(table: Table, result: R): R {
    this.known.set(table, result)
    if (table.rows.length < MANY) return result
    this.last.delete(table.id)
    this.last.set(table.id, table)
    for (const id of this.last.keys())
      if (this.last.size > REMEMBERED) this.last.delete(id)
      else break
    return result
  }
}

/** Places of rows after a change: those within it are found anew, those behind it move along. */
export function movedPlaces(
  places: readonly number[],
  { head, before, after }: RowsDelta,
  within: readonly number[]
): readonly number[] {
  const isUntouched = within.length === 0 && before === after
  if (isUntouched && !places.some((at) => at >= head && at < head + before)) return places
  const moved: number[] = []
  for (const at of places) if (at < head) moved.push(at)
  moved.push(...within)
  for (const at of places) if (at >= head + before) moved.push(at + after - before)
  return moved
}
