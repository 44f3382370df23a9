import { columnsUsed, readExpression } from '../design/expressions.ts'
import { columnOf, fold, fullName, tableOf } from '../design/directory.ts'
import type { Column, Copied, Design, Enum, Renewed, Table } from '../design/model.ts'
import { sameType, type Parsed, type Type } from '../design/type.ts'
import type { Default } from '../design/value.ts'
import { isMoment, parseDefault } from '../design/default.ts'
import type { Filling } from '../restructure/fill.ts'

/**
 * What stands in the default cell: a default, and `on change` where it becomes the present moment with each change of
 * its row; `computed` and an expression; or `copied` and a column of a table referred to, and how.
 */
export type DefaultCell =
  { default: Default | null; renewed?: Renewed } | { computed: string } | { copied: Copied }

export function readGiven(
  design: Design,
  table: Table,
  type: Type,
  text: string,
  enums: readonly Enum[] = design.enums
): Parsed<DefaultCell> {
  const [, word = '', rest = ''] = /^(computed|copied)\b\s*(?:from\b)?\s*(.*)$/is.exec(text.trim()) ?? []
  if (word.toLowerCase() === 'computed') {
    const read = readExpression(rest, { wanted: type, columns: table.columns, enums })
    return read.ok ? { ok: true, value: { computed: read.value } } : read
  }
  if (word.toLowerCase() === 'copied') return readCopied(design, table, rest)
  const { first, renewed } = readRenewed(text)
  if (renewed && !isMoment(type))
    return { ok: false, message: 'Only a date, a time or a timestamp becomes the present moment on change.' }
  const value = parseDefault(first, type, enums)
  return value.ok ? { ok: true, value: { default: value.value, ...(renewed && { renewed }) } } : value
}

/** What is said of each change, behind what a row begins with: `on change`, and who sees to it. */
export function readRenewed(text: string): { first: string; renewed?: Renewed } {
  const [, first = text, on, by] =
    /^(.*?),?\s*\bon\s+(?:(?:each|every)\s+)?(change|update(?:\s+\w+(?:\(\d*\))?)?)(\s+by\s+(?:the\s+)?application)?$/is.exec(
      text.trim()
    ) ?? []
  return on === undefined
    ? { first: text }
    : { first, renewed: by === undefined ? 'database' : 'application' }
}

/** Inverse of {@link readRenewed}. */
export const sayRenewed = (first: string, renewed: Renewed | undefined): string =>
  renewed === undefined
    ? first
    : `${first}${first === '' ? '' : ' '}on change${renewed === 'application' ? ' by the application' : ''}`

const HOW = /,?\s+(again|fixed|by\s+(?:a\s+)?trigger)$/i

/** How a value is copied, behind where it is copied from: `again`, `fixed`, `by trigger`. */
function readHow(text: string): { from: string; how: Omit<Copied, 'foreignKey' | 'column'> } {
  const words = new Set<string>()
  let from = text.trim()
  for (let found = HOW.exec(from); found; found = HOW.exec(from)) {
    words.add((found[1] as string).toLowerCase().slice(0, 2))
    from = from.slice(0, found.index)
  }
  return {
    from,
    how: {
      ...(words.has('ag') && { again: true as const }),
      ...(words.has('fi') && { fixed: true as const }),
      ...(words.has('by') && { byTrigger: true as const })
    }
  }
}

/** Inverse of {@link readHow}. */
export const sayHow = ({ again, fixed, byTrigger }: Copied): string =>
  [...(again ? ['again'] : []), ...(fixed ? ['fixed'] : []), ...(byTrigger ? ['by trigger'] : [])]
    .map((word) => `, ${word}`)
    .join('')

/**
 * What rows that are there are to hold in a column, as it is typed: what could stand in its default cell,
 * but for what only the engine gives. Nothing typed: nothing is filled.
 */
export function readFilling(
  design: Design,
  table: Table,
  column: Column,
  text: string
): Parsed<Filling | undefined> {
  const read = readGiven(design, table, column.type, text)
  if (!read.ok) return read
  const { value } = read
  if ('computed' in value) {
    const own = columnsUsed(value.computed).map((id) => columnOf(table, id))
    const worked = own.find((each) => each?.computed !== undefined || each?.id === column.id)
    if (worked)
      return {
        ok: false,
        message: `${worked.name} cannot be read here: name columns that rows hold themselves.`
      }
    return { ok: true, value: { is: value.computed } }
  }
  if ('copied' in value) {
    const foreignKey = table.foreignKeys.find((each) => each.id === value.copied.foreignKey)
    const source = foreignKey && tableOf(design, foreignKey.table)
    const given = source && columnOf(source, value.copied.column)
    if (given && !sameType(given.type, column.type))
      return { ok: false, message: `${source.name}.${given.name} is of another type than ${column.name}.` }
    const { foreignKey: by, column: from } = value.copied
    return { ok: true, value: { foreignKey: by, column: from } }
  }
  if (value.default === null) return { ok: true, value: undefined }
  if (value.default.kind !== 'value')
    return {
      ok: false,
      message:
        'Say a value, computed and an expression over the row, or copied and a column that it refers to.'
    }
  return { ok: true, value: { value: value.default.value } }
}

function readCopied(design: Design, table: Table, text: string): Parsed<DefaultCell> {
  const whole = sourceOf(design, table, text)
  // A column may be called as it is said how it is copied.
  const { from, how } = whole ? { from: text, how: {} } : readHow(text)
  const found = whole ?? sourceOf(design, table, from)
  if (found) return { ok: true, value: { copied: { ...found, ...how } } }
  const tables = table.foreignKeys.flatMap((each) => tableOf(design, each.table)?.name ?? [])
  return {
    ok: false,
    message:
      tables.length === 0
        ? `${table.name} refers to no table yet that a value could be copied from.`
        : `Say which column it is copied from, of ${tables.join(', ')}: copied ${tables[0] ?? ''}.name`
  }
}

function sourceOf(
  design: Design,
  table: Table,
  text: string
): Pick<Copied, 'foreignKey' | 'column'> | undefined {
  const sources = table.foreignKeys.flatMap((foreignKey) => {
    const source = tableOf(design, foreignKey.table)
    return source
      ? source.columns
          .filter((column) =>
            [column.name, `${source.name}.${column.name}`, `${fullName(design, source)}.${column.name}`].some(
              (name) => fold(name) === fold(text)
            )
          )
          .map((column) => ({ foreignKey, column }))
      : []
  })
  const [found] = sources
  return found && { foreignKey: found.foreignKey.id, column: found.column.id }
}
