import Papa from 'papaparse'
import { BOUNDS } from '../bounds.ts'
import { columnOf, fold, keyOf, namesIn } from '../design/directory.ts'
import type { Column, ColumnId, Design, Row, Table } from '../design/model.ts'
import { laterOnes, violations } from '../design/violations.ts'
import { filledRow, type Counters } from '../design/filled.ts'
import { cellText, plainText, referenceAt, typedInto } from './cells.ts'

/** What a file of rows was read as, which a person can put right. */
export interface CsvForm {
  encoding: (typeof ENCODINGS)[number]
  separator: string
  /** Whether the first line names the columns. */
  named: boolean
}

export interface CsvText {
  text: string
  form: CsvForm
}

/** What may stand between fields. */
export const SEPARATORS = [',', ';', '\t', '|']

/**
 * The text of a file: UTF-16 and UTF-8 by the mark that they begin with, UTF-8 where all of it is that, else the
 * characters of western Windows; or as one that is said. What separates is what stands as often in each of the first lines.
 */
export function recogniseCsv(bytes: Uint8Array, encoding = encodingOf(bytes)): CsvText {
  const text = new TextDecoder(decoderOf(encoding, bytes)).decode(bytes)
  return { text, form: { encoding, separator: separatorOf(text), named: true } }
}

export const ENCODINGS = ['UTF-8', 'UTF-16', 'Windows-1252'] as const

function decoderOf(encoding: CsvForm['encoding'], bytes: Uint8Array): string {
  if (encoding === 'UTF-16') return bytes[0] === 0xfe ? 'utf-16be' : 'utf-16le'
  return encoding.toLowerCase()
}

function encodingOf(bytes: Uint8Array): CsvForm['encoding'] {
  if ((bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff)) return 'UTF-16'
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes)
    return 'UTF-8'
  } catch {
    return 'Windows-1252'
  }
}

function separatorOf(text: string): string {
  const counts = SEPARATORS.map((separator) => {
    const { data } = Papa.parse<string[]>(text, {
      delimiter: separator,
      preview: 20,
      skipEmptyLines: 'greedy'
    })
    const [first = []] = data
    const alike = data.filter((line) => line.length === first.length).length
    return { separator, score: first.length > 1 ? (alike / data.length) * first.length : 0 }
  })
  return counts.sort((a, b) => b.score - a.score)[0]?.separator ?? ','
}

/** A line that is not taken, and why. */
export interface BadLine {
  /** Counted from 1, as the file has it. */
  line: number
  text: string
  why: string[]
}

/** What would be taken of a file into a table. */
export interface CsvRead {
  /** The fields of a line, and the column that each is taken into; nothing where it is left out. */
  fields: { name: string; column: ColumnId | undefined }[]
  rows: Row[]
  bad: BadLine[]
  lines: number
}

/** A name as it is compared: `Admitted at` is admitted_at. */
const plain = (name: string): string => fold(name).replace(/[^\p{L}\p{N}]+/gu, '')

/** The column that a field's name means: its name, or what it refers to without what the key is called. */
function columnNamed(table: Table, name: string): Column | undefined {
  const wanted = plain(name)
  if (wanted === '') return undefined
  const writable = table.columns.filter(({ computed }) => computed === undefined)
  return (
    writable.find((column) => plain(column.name) === wanted) ??
    writable.find(
      (column) =>
        referenceAt(table, column) && plain(column.name.replace(/_(id|code|no|key)$/i, '')) === wanted
    )
  )
}

/**
 * Reads a file's rows into a table: a reference by what the row referred to is called, or by its key; every other value
 * as it is typed. Lines that fit are taken, the others listed with what is wrong.
 * @param columns for each field the column that it goes into, where that was chosen; else by its name or place.
 */
export function readCsv(
  design: Design,
  table: Table,
  { text, form }: CsvText,
  columns?: readonly (ColumnId | undefined)[],
  now?: string
): CsvRead {
  const { data } = Papa.parse<string[]>(text, { delimiter: form.separator, skipEmptyLines: false })
  const head = form.named ? (data[0] ?? []) : []
  const width = Math.max(head.length, form.named ? 0 : (data[0]?.length ?? 0))
  const writable = table.columns.filter(({ computed }) => computed === undefined)
  const fields = Array.from({ length: width }, (_, at) => ({
    name: form.named ? (head[at] ?? '') : `field ${at + 1}`,
    column: columns ? columns[at] : form.named ? columnNamed(table, head[at] ?? '')?.id : writable[at]?.id
  }))
  const [rows, bad]: [{ row: Row; line: number; text: string }[], BadLine[]] = [[], []]
  const counters: Counters = new Map()
  let lines = 0
  for (const [at, line] of data.entries()) {
    if (form.named && at === 0) continue
    if (line.every((field) => field.trim() === '')) continue
    lines++
    const said = line.join(form.separator)
    const read = rowIn(design, table, fields, line)
    if (read.why.length > 0) bad.push({ line: at + 1, text: said, why: read.why })
    else rows.push({ row: filledRow(design, table, read.row, counters, now), line: at + 1, text: said })
    if (table.rows.length + rows.length >= BOUNDS.rows) break
  }
  const taken = withoutBroken(design, table, rows, bad)
  return { fields, rows: taken, bad: bad.sort((a, b) => a.line - b.line), lines }
}

function rowIn(
  design: Design,
  table: Table,
  fields: CsvRead['fields'],
  line: readonly string[]
): { row: Row; why: string[] } {
  if (line.length !== fields.length)
    return {
      row: {},
      why: [
        `It has ${line.length} ${line.length === 1 ? 'field' : 'fields'}, and ${fields.length} are named.`
      ]
    }
  let row: Row = {}
  const why: string[] = []
  for (const [at, { column: id }] of fields.entries()) {
    const column = id === undefined ? undefined : columnOf(table, id)
    const typed = (line[at] ?? '').trim()
    if (!column || typed === '') continue
    const read = typedInto(design, table, column, row, typed)
    if (read.ok) row = read.value
    else why.push(`${column.name}: ${read.message}`)
  }
  return { row, why }
}

/** Those that break no rule beside the rows that are there; the others are listed. */
function withoutBroken(
  design: Design,
  table: Table,
  rows: readonly { row: Row; line: number; text: string }[],
  bad: BadLine[]
): Row[] {
  const before = table.rows.length
  const joined = { ...table, rows: [...table.rows, ...rows.map(({ row }) => row)] }
  const among = { ...design, tables: design.tables.map((each) => (each.id === table.id ? joined : each)) }
  const why = new Map<number, string[]>()
  for (const violation of violations(among)) {
    if (violation.table !== table.id) continue
    const broken = violation.kind === 'key' ? laterOnes(joined, violation) : violation.rows
    for (const place of broken)
      if (place >= before)
        why.set(place - before, [...(why.get(place - before) ?? []), wordsOf(table, violation)])
  }
  return rows.flatMap(({ row, line, text }, at) => {
    const broken = why.get(at)
    if (broken) bad.push({ line, text, why: broken })
    return broken ? [] : [row]
  })
}

function wordsOf(table: Table, { kind, of, message }: ReturnType<typeof violations>[number]): string {
  const name = columnOf(table, of)?.name
  switch (kind) {
    case 'required':
      return `${name ?? 'A column'} is required, and nothing is said of it.`
    case 'key':
      return `A row of ${table.name} with the same ${keyWords(table, of)} is there already.`
    case 'reference':
      return `What it refers to is not there.`
    case 'check':
      return `It does not meet a check of ${table.name}.`
    case 'minimum':
      return message
  }
}

function keyWords(table: Table, of: string): string {
  const index = table.indexes.find(({ id }) => id === of)
  const columns = keyOf(table, of)?.columns ?? index?.columns.map(({ column }) => column) ?? []
  return namesIn(table, columns)
}

/**
 * The rows of a table as CSV, each reference as its key, with a column more for what is referred to where labels are
 * wanted. A field that a sheet would take for a formula stands behind a quote mark, so that it is none.
 */
export function writeCsv(design: Design, table: Table, { labels = false, separator = ',' } = {}): string {
  const columns = table.columns.flatMap((column) => {
    const isReference = labels && referenceAt(table, column) !== undefined
    return [
      { name: column.name, text: (row: Row) => plainText(table, column, row) },
      ...(isReference
        ? [{ name: `${column.name} is`, text: (row: Row) => cellText(design, table, column, row) }]
        : [])
    ]
  })
  return `${Papa.unparse(
    {
      fields: columns.map(({ name }) => name),
      data: table.rows.map((row) => columns.map(({ text }) => text(row)))
    },
    { delimiter: separator, newline: '\r\n', escapeFormulae: /^[=+@\t\r]|^-(?![\d.])/ }
  )}\r\n`
}
