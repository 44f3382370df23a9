import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { isSameRow, rowSchema, tidyRow, type Row, type Table } from '../design/model.ts'
import { ofTable } from './fields.ts'
import { needTable, withTable } from './handler.ts'
import { kind, noun, type Handler, type OperationOf, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'

/** Rows of a table, some at a time. */

const place = z.int().min(0)
const placedRows = z.array(z.strictObject({ at: place, row: rowSchema })).max(BOUNDS.rows)

const KINDS = [
  /**
   * Some rows of a table: those that become others, those that go, and those that come. `changed` and `gone` by their
   * places before, with what stands there, so that nobody else's rows are taken for them; `come` by their places after.
   */
  kind(
    'rows.change',
    {
      ...ofTable,
      changed: z.array(z.strictObject({ at: place, was: rowSchema, row: rowSchema })).max(BOUNDS.rows),
      gone: placedRows,
      come: placedRows
    },
    ({ table, changed, gone, come }, called) => {
      const did = [
        come.length > 0 && `put ${come.length} in`,
        changed.length > 0 && `change ${changed.length}`,
        gone.length > 0 && `take ${gone.length} out`
      ].filter(Boolean)
      return `${did.join(', ') || 'leave'} of the rows of ${called.table(table)}`
    }
  )
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

/** What puts rows into a table, behind those that it has. */
export function addRows({ id, rows: there }: Table, rows: readonly Row[]): OperationOf<'rows.change'> {
  const come = rows.map((row, at) => ({ at: there.length + at, row }))
  return { kind: 'rows.change', table: id, changed: [], gone: [], come }
}

/**
 * Rows are known by their places with what stands there: where somebody else has changed them meanwhile, nothing is
 * done. What rows then break of the table's rules is told, and stops nobody from writing them.
 */
const changeRows: Handler<'rows.change'> = (design, { table: id, changed, gone, come }) => {
  const table = needTable(design, id)
  const stands = ({ at, row }: { at: number; row: Row }): boolean => isSameRow(table.rows[at], row)
  if (!gone.every(stands) || !changed.every(({ at, was }) => stands({ at, row: was })))
    throw new Refused('missing', `Somebody else has changed those rows of ${table.name} meanwhile.`, {
      table: id
    })
  checkPlaces(table, changed, gone, come)
  // A slice is copied at once, where what is spread is copied one by one: it counts with a hundred thousand.
  const rows: Row[] = table.rows.slice()
  for (const { at, row } of changed) rows[at] = tidyRow(row)
  const isGone = new Set(gone.map(({ at }) => at))
  const left = isGone.size === 0 ? rows : rows.filter((_, at) => !isGone.has(at))
  const after = withThose(left, come)
  if (after.length > BOUNDS.rows)
    throw new Refused('invalid', `A table holds ${BOUNDS.rows.toLocaleString('en-GB')} rows at the most.`, {
      table: id
    })
  const placeAfter = placesAfter(
    gone.map(({ at }) => at),
    come.map(({ at }) => at)
  )
  return {
    design: withTable(design, id, (t) => ({ ...t, rows: after })),
    inverse: {
      kind: 'rows.change',
      table: id,
      changed: changed.map(({ at, was, row }) => ({ at: placeAfter(at), was: row, row: was })),
      gone: come,
      come: gone
    },
    touched: [id]
  }
}

type Placed = readonly { at: number }[]

/** Each place is named once, and no row comes behind more rows than there are. */
function checkPlaces(table: Table, changed: Placed, gone: Placed, come: Placed): void {
  const isTwice = (places: Placed): boolean => new Set(places.map(({ at }) => at)).size < places.length
  const length = table.rows.length - gone.length + come.length
  if (isTwice([...changed, ...gone]) || isTwice(come) || come.some(({ at }) => at >= length))
    throw new Refused('invalid', `Rows of ${table.name} are named twice, or at places that there are not.`, {
      table: table.id
    })
}

/** Rows with others among them, each at the place that it has then. */
function withThose(rows: Row[], come: readonly { at: number; row: Row }[]): Row[] {
  if (come.length === 0) return rows
  const byPlace = [...come].sort((a, b) => a.at - b.at)
  const first = Math.min(byPlace[0]?.at ?? 0, rows.length)
  const after = rows.slice(0, first)
  let next = first
  for (const { at, row } of byPlace) {
    while (after.length < at && next < rows.length) after.push(rows[next++] as Row)
    after.push(tidyRow(row))
  }
  return after.concat(rows.slice(next))
}

/** Where a row that stays stands once others are gone and have come. */
function placesAfter(gone: readonly number[], come: readonly number[]): (at: number) => number {
  const [left, added] = [[...gone].sort((a, b) => a - b), [...come].sort((a, b) => a - b)]
  return (at) => {
    const before = left.filter((place) => place < at).length
    return added.reduce((place, each) => (each <= place ? place + 1 : place), at - before)
  }
}

export const ROW = noun(KINDS, { 'rows.change': changeRows })
