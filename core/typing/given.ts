import { columnsUsed, readExpression } from '../design/expressions.ts'
import { columnOf, fold, fullName, tableOf } from '../design/directory.ts'
import type { Column, Design, Enum, Table } from '../design/model.ts'
import { sameType, type Parsed, type Type } from '../design/type.ts'
import type { Default } from '../design/value.ts'
import { parseDefault } from '../design/default.ts'
import type { Filling } from '../restructure/fill.ts'

/**
 * What stands in the default cell: a default, `computed` and an expression, or `copied` and a column of a
 * table referred to.
 */
export type Given =
  { default: Default | null } | { computed: string } | { copied: NonNullable<Column['copied']> }

export function readGiven(
  design: Design,
  table: Table,
  type: Type,
  text: string,
  enums: readonly Enum[] = design.enums
): Parsed<Given> {
  const [, word = '', rest = ''] = /^(computed|copied)\b\s*(?:from\b)?\s*(.*)$/is.exec(text.trim()) ?? []
  if (word.toLowerCase() === 'computed') {
    const read = readExpression(rest, { wanted: type, columns: table.columns, enums })
    return read.ok ? { ok: true, value: { computed: read.value } } : read
  }
  if (word.toLowerCase() === 'copied') return readCopied(design, table, rest)
  const value = parseDefault(text, type, enums)
  return value.ok ? { ok: true, value: { default: value.value } } : value
}

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
    return { ok: true, value: value.copied }
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

function readCopied(design: Design, table: Table, text: string): Parsed<Given> {
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
  if (found)
    return { ok: true, value: { copied: { foreignKey: found.foreignKey.id, column: found.column.id } } }
  const tables = table.foreignKeys.flatMap((each) => tableOf(design, each.table)?.name ?? [])
  return {
    ok: false,
    message:
      tables.length === 0
        ? `${table.name} refers to no table yet that a value could be copied from.`
        : `Say which column it is copied from, of ${tables.join(', ')}: copied ${tables[0] ?? ''}.name`
  }
}
