import { columnsIn, fullName, namesIn, referencesTo, tableOf } from '../design/directory.ts'
import { showExpression } from '../design/expressions.ts'
import { defaultText } from '../design/default.ts'
import { figuresOf } from '../design/figure.ts'
import type { Column, Design, ForeignKey, Table } from '../design/model.ts'
import { typeText } from '../design/type.ts'
import { isJunction } from '../relate/junction.ts'
import { cardinalitySentences, deleteWords, isSingle, readingOf, updateWords } from '../relate/reading.ts'
import { article, counted } from '../naming/words.ts'

/** What there is to know of a design, in words: for whoever reads it without this program. */
export interface Dictionary {
  name: string
  tables: DictionaryTable[]
  /** Lists of values that columns may hold. */
  lists: { name: string; values: readonly string[] }[]
  /** Every name of a column, in the order of the alphabet, with the tables that have one called so. */
  index: { name: string; tables: string[] }[]
}

export interface DictionaryTable {
  id: string
  name: string
  /** What it is, where it is more than a table. */
  kind: 'table' | 'junction table' | 'another system’s table'
  note: string
  columns: DictionaryColumn[]
  /** Its keys besides the primary key, its checks, indexes and figures, each in words. */
  rules: string[]
  /** What its rows refer to, and what refers to them, as sentences. */
  ones: Relation[]
  manys: Relation[]
}

export interface DictionaryColumn {
  name: string
  type: string
  /** `primary key`, `required` or `may be empty`. */
  holds: string
  /** What it begins with, or how it is computed. */
  given: string
  /** The table that it refers to. */
  refersTo: string
  note: string
}

/** A relationship as it is read from one of its tables. */
export interface Relation {
  table: string
  sentences: string[]
}

/** The data dictionary of a design, its tables in the order of the alphabet. */
export function dictionaryOf(design: Design): Dictionary {
  const tables = design.tables.map((table) => described(design, table)).sort(byName)
  const names = new Map<string, string[]>()
  for (const { name, columns } of tables)
    for (const column of columns) names.set(column.name, [...(names.get(column.name) ?? []), name])
  return {
    name: design.name,
    tables,
    lists: design.enums.map(({ name, values }) => ({ name, values })).sort(byName),
    index: [...names].map(([name, those]) => ({ name, tables: those })).sort(byName)
  }
}

const collator = new Intl.Collator('en', { numeric: true })
const byName = (one: { name: string }, other: { name: string }): number =>
  collator.compare(one.name, other.name)

function described(design: Design, table: Table): DictionaryTable {
  return {
    id: table.id,
    name: fullName(design, table),
    kind: table.external ? 'another system’s table' : isJunction(table) ? 'junction table' : 'table',
    note: table.note ?? '',
    columns: table.columns.map((column) => describedColumn(design, table, column)),
    rules: rulesOf(design, table),
    ones: table.foreignKeys.flatMap((key) => {
      const parent = tableOf(design, key.table)
      return parent ? [relation(parent, table, parent, key)] : []
    }),
    manys: referencesTo(design, table.id)
      .filter(({ table: child }) => child.id !== table.id)
      .map(({ table: child, foreignKey }) => relation(child, child, table, foreignKey))
  }
}

function describedColumn(design: Design, table: Table, column: Column): DictionaryColumn {
  const isKey = table.primaryKey?.columns.includes(column.id) ?? false
  const parents = table.foreignKeys
    .filter(({ pairs }) => pairs.some((pair) => pair.column === column.id))
    .flatMap((key) => tableOf(design, key.table) ?? [])
  return {
    name: column.name,
    type: typeText(column.type, design.enums),
    holds: isKey ? 'primary key' : column.required ? 'required' : 'may be empty',
    given:
      column.computed === undefined
        ? defaultText(column.default, column.type)
        : `computed: ${showExpression(column.computed, table.columns)}`,
    refersTo: [...new Set(parents.map((parent) => fullName(design, parent)))].join(', '),
    note: column.note ?? ''
  }
}

function rulesOf(design: Design, table: Table): string[] {
  const condition = (text: string): string => showExpression(text, table.columns)
  const key = table.primaryKey?.columns ?? []
  return [
    ...(key.length > 1 ? [`Primary key: ${namesIn(table, key)} together.`] : []),
    ...table.uniques.map(({ columns }) => `No two rows have the same ${namesIn(table, columns)}.`),
    ...table.checks.map((check) => `Every row meets ${condition(check.condition)}.`),
    ...table.indexes.map(({ columns, unique, where }) => {
      const of = columns.map(({ column, descending }) => {
        const [found] = columnsIn(table, [column])
        return `${found?.name ?? ''}${descending ? ' descending' : ''}`
      })
      const only = where === undefined ? '' : `, for rows that meet ${condition(where)}`
      return unique
        ? `No two rows have the same ${of.join(', ')}${only}.`
        : `Index on ${of.join(', ')}${only}.`
    }),
    ...figuresOf(design, table).map(
      ({ figure, of, far }) =>
        `Figure ${figure.name}: ${figure.measure} over ${of.name}${far ? ` and the ${far.table.name} beyond` : ''}.`
    )
  ]
}

/** What a relationship says, both ways, and what becomes of what refers. */
function relation(other: Table, child: Table, parent: Table, foreignKey: ForeignKey): Relation {
  const reading = readingOf(child, foreignKey)
  const { child: ofChild, parent: ofParent } = cardinalitySentences(child, parent, reading)
  const said = ({ before, choice, after }: typeof ofChild | typeof ofParent): string =>
    `${before} ${choice} ${after}`
  const isMany = !isSingle(reading)
  const deleting = deleteWords(foreignKey.onDelete, child.name, isMany).words
  const changing = updateWords(foreignKey.onUpdate, child.name, isMany).words
  const by = namesIn(
    child,
    foreignKey.pairs.map(({ column }) => column)
  )
  return {
    table: other.name,
    sentences: [
      said(ofChild),
      said(ofParent),
      `By ${by}. Deleting ${article(parent.name)} ${parent.name} ${deleting} (${foreignKey.onDelete}); changing its key ${changing} (${foreignKey.onUpdate}).`
    ]
  }
}

/** What a dictionary is about, in one line. */
export const sayDictionary = ({ tables }: Dictionary): string =>
  `${counted(tables.length, 'table')}, ${counted(
    tables.reduce((sum, { columns }) => sum + columns.length, 0),
    'column'
  )}`
