import { once } from '../once.ts'
import { textOfKey } from './key-text.ts'
import type { Column, ColumnId, Table } from './model.ts'

/** Columns by which rows are looked for, and the columns of another table that they are compared as. */
export interface Way {
  columns: readonly ColumnId[]
  as: readonly Column[]
  /** The same for ways that find the same rows. */
  name: string
}

export const wayBy = (columns: readonly ColumnId[], as: readonly Column[] = []): Way => ({
  columns,
  as,
  name: columns.join() + (as.length > 0 ? ` as ${as.map(({ id, type }) => `${id} ${type.kind}`).join()}` : '')
})

type RowIndex = ReadonlyMap<string, readonly number[]>

const indexes = once((_: Table): Map<string, RowIndex> => new Map())

const NONE: readonly number[] = []

/** The places of a table's rows by what they hold in columns; worked out once for each table and way. */
export function rowIndex(table: Table, way: Way): RowIndex {
  const known = indexes(table)
  const found = known.get(way.name)
  if (found) return found
  const made = new Map<string, number[]>()
  table.rows.forEach((row, place) => {
    const text = textOfKey(table, way.columns, row, way.as)
    if (text === undefined) return
    const places = made.get(text)
    if (places) places.push(place)
    else made.set(text, [place])
  })
  known.set(way.name, made)
  return made
}

/** The places of the rows that hold a text in columns, in order. */
export const placesBy = (table: Table, columns: readonly ColumnId[], text: string): readonly number[] =>
  rowIndex(table, wayBy(columns)).get(text) ?? NONE
