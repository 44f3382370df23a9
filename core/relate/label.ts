import { columnOf, columnsIn, fold, tableOf } from '../design/directory.ts'
import { textOfKey } from '../design/key-text.ts'
import { placesBy } from '../design/row-index.ts'
import type { Column, ColumnId, Design, ForeignKey, Row, Table } from '../design/model.ts'
import type { Parsed } from '../design/type.ts'

/** How far a label looks for words behind references. */
const DEEPEST = 3

/**
 * What a row is called for a person: by the columns that its designer has named, where one that refers stands for
 * what the row referred to is called; else by what is likely. Never a bare number where there is anything better.
 */
export function rowLabel(design: Design, table: Table, row: Row, depth = 0): string {
  const parts = partsOf(design, table, table.label ?? proposedFor(table, row), row, depth)
  return parts.join(', ') || keyOf(table, row)
}

/** The same beside a row that it refers to by a reference: without what that row is called, where more is left. */
export function labelBeside(design: Design, table: Table, row: Row, foreignKey: string): string {
  const referring = table.foreignKeys.find(({ id }) => id === foreignKey)?.pairs.map(({ column }) => column)
  const label = table.label ?? proposedFor(table, row)
  const left = label.filter((id) => !referring?.includes(id))
  const beside = partsOf(design, table, left, row, 0).join(', ')
  // A number alone says nothing.
  return beside === '' || /^\d+$/.test(beside) ? rowLabel(design, table, row) : beside
}

/** What the columns say of a row, each once: a reference of several columns is one thing. */
function partsOf(
  design: Design,
  table: Table,
  label: readonly ColumnId[],
  row: Row,
  depth: number
): string[] {
  const told = new Set<ForeignKey>()
  return label.flatMap((id) => {
    const key = table.foreignKeys.find(({ pairs }) => pairs.some(({ column }) => column === id))
    if (key && told.has(key)) return []
    if (key) told.add(key)
    const referred = key && depth < DEEPEST ? referredLabel(design, table, key, row, depth) : undefined
    const value = referred ?? said(table, id, row)
    return value === undefined ? [] : [value]
  })
}

function said(table: Table, id: ColumnId, row: Row): string | undefined {
  const value = row[id]
  if (value === null || value === undefined || value === '') return undefined
  const kind = columnOf(table, id)?.type.kind
  return kind === 'timestamp' ? String(value).slice(0, 16) : String(value)
}

const keyOf = (table: Table, row: Row): string =>
  (table.primaryKey?.columns ?? table.columns.slice(0, 1).map(({ id }) => id))
    .map((id) => said(table, id, row) ?? '–')
    .join(', ')

function referredLabel(
  design: Design,
  table: Table,
  key: ForeignKey,
  row: Row,
  depth: number
): string | undefined {
  const parent = tableOf(design, key.table)
  if (!parent) return undefined
  const its = key.pairs.map(({ refersTo }) => refersTo)
  const own = key.pairs.map(({ column }) => column)
  const text = textOfKey(table, own, row, columnsIn(parent, its))
  const place = text === undefined ? undefined : placesBy(parent, its, text)[0]
  const found = place === undefined ? undefined : parent.rows[place]
  return found ? rowLabel(design, parent, found, depth + 1) : undefined
}

const isText = ({ type }: Column): boolean => type.kind === 'text' || type.kind === 'char'
const isMoment = ({ type }: Column): boolean => type.kind === 'timestamp' || type.kind === 'date'

/** The columns that say something by themselves. */
function plainColumns(table: Table): Column[] {
  const referring = new Set(table.foreignKeys.flatMap(({ pairs }) => pairs.map(({ column }) => column)))
  return table.columns.filter(({ id }) => !referring.has(id))
}

/**
 * What a table's rows may be called by: a name; or what they refer to, with a moment, or what else tells them
 * apart.
 */
export function proposeLabel(table: Table): ColumnId[] {
  return proposed(table, () => true)
}

/** The same by what there is in a row. */
const proposedFor = (table: Table, row: Row): ColumnId[] =>
  proposed(table, ({ id }) => said(table, id, row) !== undefined)

function proposed(table: Table, has: (column: Column) => boolean): ColumnId[] {
  const plain = plainColumns(table)
  const texts = plain.filter((column) => isText(column) && has(column))
  const named = texts.find(({ name }) => /name|title|label|description/i.test(name)) ?? texts[0]
  if (named) return [named.id]
  const key = table.primaryKey?.columns ?? []
  // What is renewed with each change says nothing of which row it is.
  const moments = plain.filter((column) => isMoment(column) && has(column) && !column.renewed)
  const moment = moments.find(({ id }) => key.includes(id)) ?? (isPair(table) ? undefined : moments[0])
  const filled = table.foreignKeys.filter(({ pairs }) =>
    pairs.every(({ column }) => {
      const own = columnOf(table, column)
      return own !== undefined && has(own)
    })
  )
  // A pair is called by both.
  const paired = filled.filter(({ pairs }) => pairs.every(({ column }) => key.includes(column)))
  const called = paired.length > 1 ? paired : filled.slice(0, 1)
  const referred = called.flatMap(({ pairs }) => pairs[0]?.column ?? [])
  // A number within what it belongs to says which one it is.
  const within = moment ? [] : key.filter((id) => plain.some((column) => column.id === id) && key.length > 1)
  const told = [...referred, moment?.id, ...within].filter((id) => id !== undefined)
  return told.length > 0 ? told : key.length > 0 ? [...key] : table.columns.slice(0, 1).map(({ id }) => id)
}

/** Whether rows stand for pairs: two references or more are in the key. */
const isPair = ({ primaryKey, foreignKeys }: Table): boolean =>
  foreignKeys.filter(({ pairs }) => pairs.every(({ column }) => primaryKey?.columns.includes(column)))
    .length > 1

/** A label as it is typed and shown: the names of its columns. */
export const labelText = (table: Table, label: readonly ColumnId[]): string =>
  label.flatMap((id) => columnOf(table, id)?.name ?? []).join(', ')

/** Reads what a row is to be called by: names of columns, with commas between. */
export function readLabel(table: Table, typed: string): Parsed<ColumnId[] | null> {
  const names = typed
    .split(/[,;+]/)
    .map((name) => name.trim())
    .filter((name) => name !== '')
  if (names.length === 0) return { ok: true, value: null }
  const label: ColumnId[] = []
  for (const name of names) {
    const column = table.columns.find((each) => fold(each.name) === fold(name))
    if (!column) return { ok: false, message: `${table.name} has no column called ${name}.` }
    if (!label.includes(column.id)) label.push(column.id)
  }
  return label.length <= 8
    ? { ok: true, value: label }
    : { ok: false, message: 'A row is called by eight columns at the most.' }
}

/** Some pairs of rows as a junction would hold them, in words; none where a side has no rows. */
export function pairPreview(design: Design, first: Table, second: Table): string[] {
  const count = Math.min(3, first.rows.length * second.rows.length)
  // A row is hardly paired with itself.
  const ahead = first.id === second.id ? 1 : 0
  return Array.from({ length: count }, (_, at) => {
    const left = first.rows[Math.floor(at / 2) % first.rows.length]
    const right = second.rows[(at + ahead) % second.rows.length]
    return left && left !== right && right
      ? `${rowLabel(design, first, left)} · ${rowLabel(design, second, right)}`
      : ''
  }).filter(Boolean)
}
