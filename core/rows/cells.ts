import { columnOf, fold, tableOf } from '../design/directory.ts'
import { evaluate } from '../design/evaluate.ts'
import type { Column, Design, ForeignKey, Row, Table } from '../design/model.ts'
import { shorten, type NamedValues, type Parsed } from '../design/type.ts'
import { parseValue, typedValue, type Value } from '../design/value.ts'
import { once } from '../once.ts'
import { rowLabel } from '../relate/label.ts'
import { referredPlace } from './sides.ts'

/** The reference that a column's cells are read and written as: the first that begins with it. */
export const referenceAt = (table: Table, { id }: Column): ForeignKey | undefined =>
  table.foreignKeys.find(({ pairs }) => pairs[0]?.column === id)

/** What a cell shows: of a reference the label of the row referred to, else the value. */
export function cellText(design: Design, table: Table, column: Column, row: Row): string {
  const key = referenceAt(table, column)
  const parent = key && tableOf(design, key.table)
  const place = key && referredPlace(design, table, key, row)
  const referred = place === undefined ? undefined : parent?.rows[place]
  if (parent && referred) return rowLabel(design, parent, referred)
  return plainText(table, column, row)
}

/** A cell's own value as it is typed. */
export function plainText(table: Table, column: Column, row: Row): string {
  const value = column.computed === undefined ? row[column.id] : worked(table, column, row)
  return value === null || value === undefined ? '' : String(value)
}

function worked(table: Table, column: Column, row: Row): Value {
  const value = evaluate(column.computed ?? '', table, row)
  return value === undefined ? null : typedValue(value, column.type)
}

/** A row that a reference may be to, and what it is called. */
export interface Candidate {
  place: number
  label: string
  values: Row
}

/** How many rows are looked through for those that are meant. */
const LOOKED_THROUGH = 20_000

/**
 * Rows that a reference may be to whose label or key has the words typed, those that begin with them first.
 * @param most how many.
 */
export function candidates(design: Design, key: ForeignKey, typed: string, most = 8): Candidate[] {
  const parent = tableOf(design, key.table)
  if (!parent) return []
  const wanted = fold(typed.trim())
  const [first, others]: [Candidate[], Candidate[]] = [[], []]
  for (const [place, row] of parent.rows.slice(0, LOOKED_THROUGH).entries()) {
    if (first.length >= most) break
    const label = rowLabel(design, parent, row)
    const key0 = key.pairs.map(({ refersTo }) => String(row[refersTo] ?? '')).join(' ')
    const at = Math.max(fold(label).indexOf(wanted), fold(key0) === wanted ? 0 : -1)
    if (at < 0) continue
    const values = Object.fromEntries(
      key.pairs.map(({ column, refersTo }) => [column, row[refersTo] ?? null])
    )
    const list = at === 0 ? first : others
    if (list.length < most) list.push({ place, label, values })
  }
  return [...first, ...others].slice(0, most)
}

/** The words that a column's cells are one of: a list of values, or true and false. */
function wordsOf({ type }: Column, enums: readonly NamedValues[]): readonly string[] {
  if (type.kind === 'boolean') return ['true', 'false']
  return type.kind === 'enum' ? (enums.find(({ id }) => id === type.enum)?.values ?? []) : []
}

/** The one word of a column's list that begins with what was typed; none where several do. */
export function wordBegun(column: Column, typed: string, enums: readonly NamedValues[]): string | undefined {
  const begun = wordsOf(column, enums).filter((word) => fold(word).startsWith(fold(typed.trim())))
  return typed.trim() !== '' && begun.length === 1 ? begun[0] : undefined
}

/** Of the words that a cell may hold those that have what was typed in them, those that begin with it first. */
export function wordsWith(column: Column, typed: string, enums: readonly NamedValues[]): string[] {
  const wanted = fold(typed.trim())
  const words = wordsOf(column, enums).filter((word) => fold(word).includes(wanted))
  const begins = (word: string): boolean => fold(word).startsWith(wanted)
  return [...words.filter(begins), ...words.filter((word) => !begins(word))]
}

/** What the rows of tables are called, and the only one of each name; worked out once for a design and a table. */
const called = once((_: Design): Map<string, ReadonlyMap<string, Row | undefined>> => new Map())

/** What refers to the only row that is called so; nothing where none is, or several are. */
function rowCalled(design: Design, key: ForeignKey, name: string): Row | undefined {
  const parent = tableOf(design, key.table)
  if (!parent) return undefined
  let names = called(design).get(parent.id)
  if (!names) {
    const made = new Map<string, Row | undefined>()
    for (const row of parent.rows) {
      const label = fold(rowLabel(design, parent, row))
      made.set(label, made.has(label) ? undefined : row)
    }
    called(design).set(parent.id, (names = made))
  }
  const row = names.get(fold(name))
  return row && Object.fromEntries(key.pairs.map(({ column, refersTo }) => [column, row[refersTo] ?? null]))
}

/**
 * What a row becomes when something is typed into one of its cells: nothing empties it. Into a reference, what names
 * one row; else the value of its column.
 */
export function typedInto(
  design: Design,
  table: Table,
  column: Column,
  row: Row,
  typed: string
): Parsed<Row> {
  if (column.computed !== undefined)
    return { ok: false, message: `${column.name} is computed, so nothing is written into it.` }
  const key = referenceAt(table, column)
  if (typed.trim() === '') {
    const emptied = key ? key.pairs.map((pair) => pair.column) : [column.id]
    // What is required stays until something else is said.
    const free = emptied.filter((id) => id === column.id || !columnOf(table, id)?.required)
    return { ok: true, value: { ...row, ...Object.fromEntries(free.map((id) => [id, null])) } }
  }
  const named = key && rowCalled(design, key, typed.trim())
  if (named) return { ok: true, value: { ...row, ...named } }
  const found = key ? candidates(design, key, typed, 2) : []
  const exact =
    found.find(({ label }) => fold(label) === fold(typed.trim())) ??
    (found.length === 1 ? found[0] : undefined)
  if (exact) return { ok: true, value: { ...row, ...exact.values } }
  const parsed = parseValue(typed, column.type, design.enums)
  if (parsed.ok) return { ok: true, value: { ...row, [column.id]: parsed.value } }
  const parent = key && tableOf(design, key.table)
  if (!parent || parent.external) return parsed
  const is = found.length > 1 ? 'More than one' : 'No'
  return { ok: false, message: `${is} ${parent.name} is called “${shorten(typed.trim())}”.` }
}
