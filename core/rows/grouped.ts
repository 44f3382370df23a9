import type { Design, Row, Table } from '../design/model.ts'
import { referenceAt } from './cells.ts'
import { orderBy, shownText, type Keyed, type RowOrder, type ShownColumn } from './shown.ts'

/** Rows that hold the same in a column, or refer to the same by it, one after the other. */
export interface RowGroup {
  /** Where its first row stands among all that are shown. */
  at: number
  count: number
  /** What they hold, as it is read; empty where they hold nothing. */
  label: string
}

/** Those that hold the same, before it is known where they stand. */
export interface Gathered extends Keyed {
  label: string
  places: number[]
}

/** Puts the places of rows together by a column, as they come: two rows that are called the same stay apart. */
export class Gathering {
  private readonly found = new Map<string, Gathered>()
  private readonly identity: readonly string[]
  private readonly order: RowOrder

  constructor(
    private readonly design: Design,
    private readonly table: Table,
    private readonly shown: ShownColumn
  ) {
    const key = shown.kind === 'own' ? referenceAt(table, shown.column) : undefined
    this.identity = key?.pairs.map(({ column }) => column) ?? []
    this.order = orderBy(design, table, shown, false)
  }

  add(place: number): void {
    const row = this.table.rows[place] ?? {}
    const isReference = this.identity.length > 0
    const key = isReference ? JSON.stringify(this.identity.map((id) => row[id] ?? null)) : this.label(row)
    const gathered = this.found.get(key)
    if (gathered) gathered.places.push(place)
    else this.found.set(key, { ...this.order.keyed(place), label: this.label(row), places: [place] })
  }

  get all(): Gathered[] {
    return [...this.found.values()]
  }

  /** Those that hold nothing come last. */
  get compare(): RowOrder['compare'] {
    return this.order.compare
  }

  private label(row: Row): string {
    return shownText(this.design, this.table, this.shown, row)
  }
}

/** Groups one after the other, and the places of all their rows in that order. */
export function groupsOf(gathered: readonly Gathered[]): { groups: RowGroup[]; order: number[] } {
  const groups: RowGroup[] = []
  const order: number[] = []
  for (const { label, places } of gathered) {
    groups.push({ at: order.length, count: places.length, label })
    for (const place of places) order.push(place)
  }
  return { groups, order }
}

/** How many groups begin at a row or before it. */
function groupsUpTo(groups: readonly RowGroup[], at: number): number {
  let [low, high] = [0, groups.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if ((groups[middle] as RowGroup).at <= at) low = middle + 1
    else high = middle
  }
  return low
}

/** The line on which a row stands, where each group has a line for its head. */
export const lineOf = (groups: readonly RowGroup[], at: number): number => at + groupsUpTo(groups, at)

/** A line of rows in groups: a row, by where it stands among all, or the head of a group. */
export type GroupedLine = { line: number; at: number } | { line: number; head: RowGroup }

/** The lines from one to before another. */
export function linesBetween(
  groups: readonly RowGroup[],
  rows: number,
  from: number,
  to: number
): GroupedLine[] {
  const lines: GroupedLine[] = []
  // The first row that stands on a line or below it.
  let [low, high] = [0, rows]
  while (low < high) {
    const middle = (low + high) >> 1
    if (lineOf(groups, middle) < from) low = middle + 1
    else high = middle
  }
  for (let at = low; at < rows; at++) {
    const line = lineOf(groups, at)
    const head = groups[line - at - 1]
    if (head?.at === at && line - 1 >= from && line - 1 < to) lines.push({ line: line - 1, head })
    if (line >= to) break
    lines.push({ line, at })
  }
  return lines
}

/** Where the next group begins, or the one before: from within a group first its own beginning. */
export function nextGroup(groups: readonly RowGroup[], at: number, by: 1 | -1): number | undefined {
  const here = groupsUpTo(groups, at) - 1
  if (by === 1) return groups[here + 1]?.at
  const own = groups[here]?.at
  return own !== undefined && own < at ? own : groups[here - 1]?.at
}
