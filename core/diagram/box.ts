import { once } from '../once.ts'
import type { Column, Design, Rows, Table, TableId } from '../design/model.ts'
import { fullName, tableOf } from '../design/directory.ts'
import { typeText } from '../design/type.ts'
import { counted } from '../naming/words.ts'
import { isJunction } from '../relate/junction.ts'
import { leadsAway } from './hubs.ts'
import { columnMarks, MARK, tableMarks, type MarkedKey } from './mark.ts'

/** Sizes of a table in the diagram, in pixels. */
export const BOX = { head: 30, row: 20, foot: 6, pad: 10, markColumn: MARK.width + 10, most: 420, cut: 10 }

export interface BoxRow {
  id: string
  name: string
  type: string
  required: boolean
  mark: MarkedKey | undefined
  /** The table that it refers to, where no line is drawn to it. */
  leadsTo?: string
  /** Distance of the row's middle from the top. */
  middle: number
}

/** A table as it is drawn, before it has a place. */
export interface Box {
  id: string
  name: string
  width: number
  height: number
  junction: boolean
  /** Another system's, drawn with a dotted outline. */
  external: boolean
  /** At the edge of a drawing that is about others: its name alone. */
  slim: boolean
  marks: MarkedKey[]
  /** Key columns first. */
  rows: BoxRow[]
  /**
   * Where the line between the key columns and the rest runs; at the foot of the head where there is no
   * key.
   */
  rule: number
}

/** How wide a text is, near enough for a box: letters by their kind, in the fonts that the diagram names. */
export function textWidth(text: string, size: number, mono = false): number {
  let units = 0
  for (const char of text)
    units +=
      (char.codePointAt(0) ?? 0) > 0x1100
        ? 1.05
        : mono
          ? 0.605
          : /[mwMW@%]/.test(char)
            ? 0.86
            : /[ilj.,:;'|! ]/.test(char)
              ? 0.3
              : 0.57
  return units * size
}

/** The text, cut with an ellipsis where it would be wider. */
export function clip(text: string, width: number, size: number, mono = false): string {
  if (textWidth(text, size, mono) <= width) return text
  let kept = ''
  for (const char of text) {
    if (textWidth(`${kept}${char}…`, size, mono) > width) break
    kept += char
  }
  return `${kept}…`
}

/** What stands in a row of a table: the name of the column, and as much as there is room for of what it is or leads to. */
export function rowTexts({ name, type, leadsTo }: BoxRow, width: number): { name: string; type: string } {
  const room = width - BOX.pad * 2 - BOX.markColumn
  const named = clip(name, room * 0.66, SIZE.name, true)
  const left = room - textWidth(named, SIZE.name, true) - GAP
  const said = leadsTo === undefined ? type : `→ ${leadsTo}`
  return { name: named, type: left < GAP ? '' : clip(said, left, SIZE.type, true) }
}
/** The sizes of what stands in a row, and the room between (pixels). */
const SIZE = { name: 12.5, type: 12 }
const GAP = 12

/** How far below the top of a table the row of a column is, by its middle. */
export const rowMiddle = (box: Box, column: string): number =>
  box.rows.find((row) => row.id === column)?.middle ?? box.height / 2

/** How much of a design is drawn. */
export interface Extent {
  rows: Rows
  /** Whether columns are drawn without their types. */
  bare?: boolean | undefined
  /** The design of which it is a part, where it is one. */
  whole?: Design | undefined
  /** Tables that stand at the edge, of which only the names are drawn. */
  slim?: ReadonlySet<TableId> | undefined
  /** How many tables that are not drawn refer to one, which is told at its foot. */
  more?: ReadonlyMap<TableId, number> | undefined
}

/** The boxes of all tables; worked out once for each design value and each way to draw it. */
export function boxesOf(design: Design, extent: Extent = { rows: 'all' }): Map<string, Box> {
  const { rows, bare = false, whole = design, slim = [], more = [] } = extent
  const ways = known(design)
  const name = JSON.stringify([rows, bare, [...slim], [...more]])
  const way = ways.get(name)
  if (way?.whole === whole) return way.boxes
  const boxes = new Map(design.tables.map((table) => [table.id, makeBox(design, whole, table, extent)]))
  ways.set(name, { whole, boxes })
  return boxes
}
const known = once((_: Design) => new Map<string, { whole: Design; boxes: Map<string, Box> }>())

/** The names of tables that the columns of one lead to without a line, by the ids of those columns. */
function leading(design: Design, whole: Design, table: Table): Map<string, string> {
  return new Map(
    table.foreignKeys.flatMap(({ table: to, pairs: [pair] }): [string, string][] => {
      const parent = tableOf(whole, to)
      return pair && parent && leadsAway(design, table, to) ? [[pair.column, fullName(whole, parent)]] : []
    })
  )
}

function makeBox(design: Design, whole: Design, table: Table, extent: Extent): Box {
  const isSlim = extent.slim?.has(table.id) ?? false
  const rows = isSlim ? 'none' : extent.rows
  const marks = tableMarks(whole, table)
  const places = columnMarks(whole, table)
  const leads = leading(design, whole, table)
  const key = table.primaryKey?.columns ?? []
  const isKeyed = ({ id }: Column): boolean => key.includes(id) || places.has(id)
  const columns = table.columns
    .filter((column) => rows === 'all' || (rows === 'keys' && isKeyed(column)))
    .sort((a, b) => Number(key.includes(b.id)) - Number(key.includes(a.id)))
  const saidOf = (column: Column): string => {
    const leadsTo = leads.get(column.id)
    return leadsTo === undefined ? typeOf(column) : `→ ${leadsTo}`
  }
  const typeOf = (column: Column): string => (extent.bare ? '' : typeText(column.type, design.enums))
  const head =
    BOX.pad * 2 + marks.length * (MARK.width + 4) + 4 + textWidth(fullName(design, table), 14) * 1.05
  const lines = columns.map(
    (column) =>
      BOX.pad * 2 +
      BOX.markColumn +
      textWidth(column.name, 12.5, true) +
      18 +
      textWidth(saidOf(column), 12, true)
  )
  const width = Math.round(Math.min(BOX.most, Math.max(130, head, ...lines)))
  const others = extent.more?.get(table.id) ?? 0
  const middle = BOX.head + columns.length * BOX.row + BOX.row / 2 + 3
  const said = `← ${counted(others, 'other table')}`
  const foot = others > 0 ? [{ id: '', name: said, type: '', required: true, mark: undefined, middle }] : []
  const keyRows = columns.filter((column) => key.includes(column.id)).length
  const isKeysAlone = rows !== 'all' && keyRows === columns.length
  return {
    id: table.id,
    name: fullName(design, table),
    width,
    junction: isJunction(table),
    external: table.external === true,
    slim: isSlim,
    marks,
    height: BOX.head + (columns.length + foot.length) * BOX.row + BOX.foot,
    rows: [
      ...columns.map((column, at) => ({
        id: column.id,
        name: column.name,
        type: typeOf(column),
        required: column.required,
        mark: places.get(column.id)?.[0],
        ...(leads.has(column.id) && { leadsTo: leads.get(column.id) as string }),
        middle: BOX.head + at * BOX.row + BOX.row / 2 + (at >= keyRows ? 3 : 0)
      })),
      ...foot
    ],
    rule: keyRows === 0 || isKeysAlone ? BOX.head : BOX.head + keyRows * BOX.row + 1.5
  }
}
