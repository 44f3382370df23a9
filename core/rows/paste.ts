import Papa from 'papaparse'
import { filledRow } from '../design/filled.ts'
import type { Column, Design, Row, Table } from '../design/model.ts'
import { typedInto } from './cells.ts'

/** What a pasted block does to a table's rows. */
export interface PastedRows {
  changed: { at: number; was: Row; row: Row }[]
  come: Row[]
  /** What cannot stand in its cell, by the place that its row has then. */
  waits: { place: number; column: string; text: string; why: string }[]
}

/**
 * A block of lines with fields between tabs, as it is copied from a sheet, written over cells: each field is read as if
 * it were typed. Lines behind the last row become new rows; fields beyond the last column are left out.
 * @param places the places of the rows from where it is pasted on, in their order.
 * @param columns the columns from where it is pasted on; nothing where one is not written into.
 */
export function pasteBlock(
  design: Design,
  table: Table,
  places: readonly number[],
  columns: readonly (Column | undefined)[],
  text: string,
  now?: string
): PastedRows {
  const { data } = Papa.parse<string[]>(text.replace(/\r?\n$/, ''), { delimiter: '\t' })
  const pasted: PastedRows = { changed: [], come: [], waits: [] }
  const counters = new Map<string, bigint>()
  for (const [line, fields] of data.entries()) {
    const at = places[line]
    const was = at === undefined ? undefined : table.rows[at]
    const place = at !== undefined && was ? at : table.rows.length + pasted.come.length
    let row = was ?? {}
    for (const [index, field] of fields.entries()) {
      const column = columns[index]
      if (!column || column.computed !== undefined) continue
      const read = typedInto(design, table, column, row, field)
      if (read.ok) row = read.value
      else pasted.waits.push({ place, column: column.id, text: field, why: read.message })
    }
    if (at !== undefined && was) {
      if (row !== was) pasted.changed.push({ at, was, row })
    } else pasted.come.push(filledRow(design, table, row, counters, now))
  }
  return pasted
}
