import { once } from '../once.ts'
import { Successive } from './successive.ts'
import type { Design, Row, Table } from './model.ts'
import { IN_DESIGN } from './parts/all.ts'
import { property } from './parts/held.ts'
import { eachInTurn, type Paused } from './paused.ts'

/** How long a design is as text, near enough: what changed is measured, the rest is known. */

/** About how many characters the design has as JSON. */
export function sizeOf(design: Design): number {
  const shared = IN_DESIGN.filter((name) => name !== 'table')
    .map((name) => property(name, design))
    .reduce<number>((sum, held) => sum + (isObject(held) ? sizeOfHeld(held) : 0), 0)
  return design.tables.reduce((sum, table) => sum + sizeOfTable(table), shared)
}

/** Measures a design table by table, so that the first change of it has only what it changes to measure. */
export function* sizeInTurns(design: Design): Paused<number> {
  yield* eachInTurn(design.tables, sizeOfTable)
  return sizeOf(design)
}

const isObject = (held: unknown): held is object => typeof held === 'object' && held !== null

const textLength = (value: object): number => JSON.stringify(value).length

const sizeOfHeld = once(textLength)

const sizeOfTable = once((table: Table): number => {
  return textLength({ ...table, rows: [] }) + sizeOfRows.of(table)
})

/** One value may stand in many rows and be held once; as text it is as long as it stands there. */
const sizeOfRows = new Successive<number>(
  () => true,
  ({ rows }) => sizeBetween(rows, 0, rows.length),
  (size, { head, before, after }, was, now) =>
    size - sizeBetween(was.rows, head, head + before) + sizeBetween(now.rows, head, head + after)
)

function sizeBetween(rows: readonly Row[], from: number, to: number): number {
  let size = 0
  for (let at = from; at < to; at++) {
    const row = rows[at] as Row
    for (const id in row) {
      const value = row[id]
      size += id.length + (typeof value === 'string' ? value.length : 8) + 6
    }
  }
  return size
}
