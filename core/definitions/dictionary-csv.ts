import Papa from 'papaparse'
import type { Design } from '../design/model.ts'
import { dictionaryOf } from './dictionary.ts'

/** Every column of a design as a line of a CSV file (RFC 4180), with what is known of it. */
export function dictionaryToCsv(design: Design): string {
  const lines = dictionaryOf(design).tables.flatMap(({ name: table, kind, columns }) =>
    columns.map(({ name, type, holds, given, refersTo, note }) => ({
      table,
      kind,
      column: name,
      type,
      holds,
      'begins with': given,
      'refers to': refersTo,
      note
    }))
  )
  // What a spreadsheet would take for a formula is marked as text.
  return `${Papa.unparse(lines, { escapeFormulae: true, newline: '\r\n' })}\r\n`
}
