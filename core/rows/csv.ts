import Papa from 'papaparse'
import { BOUNDS } from '../bounds.ts'
import { columnOf, fold, keyOf, namesIn, tableOf } from '../design/directory.ts'
import type { Column, ColumnId, Design, ForeignKey, Row, Table } from '../design/model.ts'
import type { Parsed } from '../design/type.ts'
import { parseValue, type Value } from '../design/value.ts'
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
    // A quote within a field is one that belongs around several, which another separator keeps together.
    const cuts = data.some((line) => line.some((field) => field.includes('"')))
    const share = (alike / data.length) * (cuts ? 0.1 : 1)
    return { separator, score: first.length > 1 ? share * first.length : 0 }
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
  /** How many rows more the file has than the table can hold. */
  over: number
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
  const { data, errors } = Papa.parse<string[]>(text, { delimiter: form.separator, skipEmptyLines: false })
  const misquoted = new Map(errors.flatMap(({ type, code, row }) => (type === 'Quotes' ? [[row, code]] : [])))
  const head = form.named ? (data[0] ?? []) : []
  const width = Math.max(head.length, form.named ? 0 : (data[0]?.length ?? 0))
  const writable = table.columns.filter(({ computed }) => computed === undefined)
  const fields = Array.from({ length: width }, (_, at) => ({
    name: form.named ? (head[at] ?? '') : `field ${at + 1}`,
    column: columns ? columns[at] : form.named ? columnNamed(table, head[at] ?? '')?.id : writable[at]?.id
  }))
  const [rows, bad]: [{ row: Row; line: number; text: string }[], BadLine[]] = [[], []]
  const counters: Counters = new Map()
  const reading = new Reading(design, table, fields)
  const most = BOUNDS.rows - table.rows.length
  const needsSomething = table.columns.some(({ required, default: begins }) => required && !begins)
  const isSpaced = standsBehindBlanks(data, form.named)
  let [lines, next, over] = [0, 1, 0]
  for (const [at, line] of data.entries()) {
    const number = next
    next += 1 + line.reduce((sum, field) => sum + field.split('\n').length - 1, 0)
    if (form.named && at === 0) continue
    const isBlank = line.every((field) => field.trim() === '') && !misquoted.has(at)
    // A row in which nothing is said is one, where there may be such.
    if (isBlank && (line.length === 1 || needsSomething)) continue
    lines++
    const said = line.join(form.separator).slice(0, 1000)
    const code = misquoted.get(at)
    if (code !== undefined) {
      bad.push({ line: number, text: said, why: [MISQUOTED[code] ?? 'Its quotes do not go together.'] })
      continue
    }
    const read = reading.row(
      isSpaced ? line.map((field, place) => (place > 0 ? field.replace(/^ /, '') : field)) : line
    )
    if (read.why.length > 0) bad.push({ line: number, text: said, why: read.why })
    else if (rows.length >= most) over++
    else rows.push({ row: filledRow(design, table, read.row, counters, now), line: number, text: said })
  }
  const taken = withoutBroken(design, table, rows, bad)
  return { fields, rows: taken, bad: bad.sort((a, b) => a.line - b.line), lines, over }
}

const MISQUOTED: Record<string, string> = {
  MissingQuotes:
    'A quote is opened here and not closed, so that all that comes behind it would be one field.',
  InvalidQuotes: 'Something stands between a quote that is closed and the next field.'
}

/** Whether a blank stands behind each separator, as people write lists: it is none of the fields. */
function standsBehindBlanks(data: readonly (readonly string[])[], named: boolean): boolean {
  const lines = (named ? data.slice(0, 1) : data).filter((line) => line.length > 1)
  return lines.length > 0 && lines.every((line) => line.slice(1).every((field) => field.startsWith(' ')))
}

/** Reads lines of a file into a table's rows. */
class Reading {
  /** For each field its column, and how it is read. */
  private readonly columns: ({ column: Column; reference: ForeignKey | undefined } | undefined)[]
  private readonly keys = new Map<ForeignKey, ReadonlySet<Value>>()

  constructor(
    private readonly design: Design,
    private readonly table: Table,
    private readonly fields: CsvRead['fields']
  ) {
    const given = new Set(fields.flatMap(({ column }) => column ?? []))
    this.columns = fields.map(({ column: id }) => {
      const column = id === undefined ? undefined : columnOf(table, id)
      if (!column) return undefined
      const key = referenceAt(table, column)
      // Where all columns of a reference come by themselves, each has its own value.
      const isWhole =
        key !== undefined && key.pairs.length > 1 && key.pairs.every((pair) => given.has(pair.column))
      return { column, reference: isWhole ? undefined : key }
    })
  }

  row(line: readonly string[]): { row: Row; why: string[] } {
    const { fields } = this
    if (line.length !== fields.length)
      return {
        row: {},
        why: [
          `It has ${line.length} ${line.length === 1 ? 'field' : 'fields'}, and ${fields.length} are named.`
        ]
      }
    let row: Row = {}
    const why: string[] = []
    for (const [at, found] of this.columns.entries()) {
      if (!found) continue
      const read = this.cell(row, found.column, found.reference, line[at] ?? '')
      if (read.ok) row = read.value
      else why.push(`${found.column.name}: ${read.message}`)
    }
    return { row, why }
  }

  /** An exact key is one before anything is called so; a text is taken as it is, to its last blank. */
  private cell(row: Row, column: Column, reference: ForeignKey | undefined, field: string): Parsed<Row> {
    const isText = column.type.kind === 'text' || column.type.kind === 'char'
    const typed = isText ? armed(field) : armed(field.trim())
    if (field === '' || (!isText && typed === '')) {
      const isLeft = column.required || column.copied !== undefined || column.id in row
      return { ok: true, value: isLeft ? row : { ...row, [column.id]: null } }
    }
    const own = parseValue(typed, column.type, this.design.enums)
    const isOwn = own.ok && (!reference || this.keysOf(reference).has(own.value))
    if (own.ok && isOwn) return { ok: true, value: { ...row, [column.id]: own.value } }
    if (reference) return typedInto(this.design, this.table, column, row, typed.trim())
    return own.ok ? { ok: true, value: row } : own
  }

  /** The values of a key of one column. */
  private keysOf(key: ForeignKey): ReadonlySet<Value> {
    let known = this.keys.get(key)
    if (!known) {
      const [pair, ...others] = key.pairs
      const rows = tableOf(this.design, key.table)?.rows ?? []
      const values = pair && others.length === 0 ? rows.map((row) => row[pair.refersTo] ?? null) : []
      this.keys.set(key, (known = new Set(values)))
    }
    return known
  }
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
 * What a sheet would take for a formula, or not show at all: an empty text that is one. Such a text is written behind
 * a quote mark, and so is one that begins with quote marks before the like, so that the mark can be taken off again.
 */
const DISARMED = /^'*(?:[=+\-@\t\r]|$)/

/** A text as it is written into a field, and as it was before. */
const disarmed = (text: string): string => (DISARMED.test(text) ? `'${text}` : text)
const armed = (field: string): string =>
  field.startsWith("'") && DISARMED.test(field.slice(1)) ? field.slice(1) : field

/**
 * The rows of a table as CSV, each reference as its key, with a column more for what is referred to where labels are
 * wanted. What is written is read back the same by {@link readCsv}. A text that a sheet would take for a formula stands
 * behind a quote mark, and whatever holds a separator of any kind in quotes, so that no sheet finds one in it.
 */
export function writeCsv(design: Design, table: Table, { labels = false, separator = ',' } = {}): string {
  const columns = table.columns.flatMap((column) => {
    const isReference = labels && referenceAt(table, column) !== undefined
    const isText = column.type.kind === 'text' || column.type.kind === 'char'
    const own = (row: Row): string => {
      const text = plainText(table, column, row)
      const isSaid = isText && (row[column.id] ?? null) !== null
      return isSaid ? disarmed(text) : text
    }
    return [
      { name: column.name, text: own },
      ...(isReference
        ? [
            {
              name: `${column.name} is`,
              text: (row: Row) => disarmed(cellText(design, table, column, row))
            }
          ]
        : [])
    ]
  })
  const isCut = (field: unknown): boolean => SEPARATORS.some((each) => String(field).includes(each))
  return `${Papa.unparse(
    {
      fields: columns.map(({ name }) => disarmed(name)),
      data: table.rows.map((row) => columns.map(({ text }) => text(row)))
    },
    { delimiter: separator, newline: '\r\n', quotes: isCut }
  )}\r\n`
}
