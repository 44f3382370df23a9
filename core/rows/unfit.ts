import { columnsIn, keysOf } from '../design/directory.ts'
import type { Column, Row, Table } from '../design/model.ts'
import type { Value } from '../design/value.ts'
import type { Dialect } from '../dialect/dialect.ts'

/** Rows of a design that an engine refuses, though they break none of its rules: which, and why. */
export interface Unfit {
  /** The id of the column concerned. */
  column: string
  message: string
}

const known = new WeakMap<Table['rows'], WeakMap<Table['columns'], Map<string, Unfit[]>>>()

/** What of a table's own rows an engine does not take as they are; worked out once for the same rows. */
export function unfitRows(table: Table, dialect: Dialect): readonly Unfit[] {
  const byColumns = known.get(table.rows) ?? new WeakMap<Table['columns'], Map<string, Unfit[]>>()
  known.set(table.rows, byColumns)
  const byDialect = byColumns.get(table.columns) ?? new Map<string, Unfit[]>()
  byColumns.set(table.columns, byDialect)
  const found = byDialect.get(dialect.name) ?? [
    ...refusedValues(table, dialect),
    ...emptyTexts(table, dialect),
    ...blanksInKeys(table, dialect)
  ]
  byDialect.set(dialect.name, found)
  return found
}

const counted = (count: number): string => (count === 1 ? 'a row' : `${count} rows`)

function refusedValues(table: Table, { facts }: Dialect): Unfit[] {
  return table.columns.flatMap((column): Unfit[] => {
    const refuses = facts.refusesValue?.[column.type.kind]
    if (!refuses) return []
    const why = (row: Row): string | undefined => {
      const value = row[column.id] ?? null
      return value === null ? undefined : refuses(value)
    }
    const refused = table.rows.filter((row) => why(row) !== undefined)
    const [first] = refused
    if (!first) return []
    const message = `${facts.title} refuses ${table.name}.${column.name} in ${counted(refused.length)}, ${String(first[column.id])} for one: ${why(first)}.`
    return [{ column: column.id, message }]
  })
}

function emptyTexts(table: Table, { facts }: Dialect): Unfit[] {
  if (!facts.texts?.emptyIsNothing) return []
  return table.columns.filter(isRequiredText).flatMap((column): Unfit[] => {
    const count = table.rows.filter((row) => row[column.id] === '').length
    if (count === 0) return []
    const message = `To ${facts.title} an empty text is no value: it refuses ${counted(count)} of ${table.name} with nothing in ${column.name}.`
    return [{ column: column.id, message }]
  })
}

const isRequiredText = ({ type, required }: Column): boolean =>
  required && (type.kind === 'text' || type.kind === 'char')

function blanksInKeys(table: Table, { facts }: Dialect): Unfit[] {
  if (!facts.texts?.blanksAlike) return []
  const trimmed = (value: Value): Value => (typeof value === 'string' ? value.replace(/ +$/, '') : value)
  return keysOf(table).flatMap((key): Unfit[] => {
    const [first] = key.columns
    const endsInBlank = (row: Row): boolean => key.columns.some((id) => String(row[id] ?? '').endsWith(' '))
    if (first === undefined || !table.rows.some(endsInBlank)) return []
    const seen = new Set<string>()
    const isDouble = (row: Row): boolean => {
      const values = key.columns.map((id) => trimmed(row[id] ?? null))
      if (values.includes(null)) return false
      const text = JSON.stringify(values)
      return seen.has(text) || !seen.add(text)
    }
    const count = table.rows.filter(isDouble).length
    if (count === 0) return []
    const names = columnsIn(table, key.columns).map(({ name }) => name)
    const message = `To ${facts.title} blanks at the end of a text make no difference in a key: by ${names.join(', ')} it refuses ${counted(count)} of ${table.name}.`
    return [{ column: first, message }]
  })
}
