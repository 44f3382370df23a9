import {
  parentsFirst,
  type Catalog,
  type CatalogCheck,
  type CatalogColumn,
  type CatalogForeignKey,
  type CatalogIndex,
  type CatalogKey,
  type CatalogTable,
  type Statement
} from './catalog.ts'
import { nameParts, sayTable } from './qualified.ts'

/** How a dialect says the parts of a definition; what they share is put together here. */
export interface Words {
  quote(name: string): string
  /** What stands behind a column's name: type, NOT NULL, default and what else there is. */
  column(column: CatalogColumn, table: CatalogTable): string
  /** ON DELETE … ON UPDATE …, with a space before, or nothing. */
  actions(key: CatalogForeignKey): string
  /** True where the primary key is said at its column. */
  keyAtColumn?(table: CatalogTable): boolean
  /** What stands behind the closing parenthesis of a table. */
  tail?(table: CatalogTable): string
  /** What comes before all tables: schemas and types. */
  before?(catalog: Catalog): Statement[]
  /** What comes after a table's indexes: notes and row policies. */
  after?(table: CatalogTable): Statement[]
  /** Whether columns in an index can run downwards. */
  descending: boolean
}

export const listOf = (words: Pick<Words, 'quote'>, names: readonly string[]): string =>
  names.map(words.quote).join(', ')
export const tableIn = (words: Pick<Words, 'quote'>, name: string): string =>
  nameParts(name).map(words.quote).join('.')

/**
 * Tables with their references inside, parents first; references that would run in a circle are added
 * after, where `circles` says how; then indexes, notes and row policies. External tables are left out.
 */
export function createAll(
  catalog: Catalog,
  words: Words,
  circles: 'after' | 'inside' = 'after'
): Statement[] {
  const tables = parentsFirst(catalog.tables).filter((table) => !table.external)
  const made = new Set(catalog.tables.filter((table) => table.external).map((table) => table.name))
  const later: Statement[] = []
  const statements = tables.map((table): Statement => {
    made.add(table.name)
    const now = table.foreignKeys.filter((key) => circles === 'inside' || made.has(key.table))
    for (const key of table.foreignKeys) if (!now.includes(key)) later.push(addForeignKey(table, key, words))
    return { sql: createTable({ ...table, foreignKeys: now }, words), says: `make ${sayTable(table.name)}` }
  })
  return [
    ...(words.before?.(catalog) ?? []),
    ...statements,
    ...later,
    ...tables.flatMap((table) => table.indexes.map((index) => createIndex(table, index, words))),
    ...tables.flatMap((table) => words.after?.(table) ?? [])
  ]
}

/** CREATE TABLE, under another name where one is given. */
export function createTable(table: CatalogTable, words: Words, name = table.name): string {
  const width = Math.max(...table.columns.map((column) => words.quote(column.name).length), 0)
  const lines = table.columns.map(
    (column) => `${words.quote(column.name).padEnd(width)} ${words.column(column, table)}`
  )
  if (table.primaryKey && !words.keyAtColumn?.(table))
    lines.push(keyClause('PRIMARY KEY', table.primaryKey, words))
  for (const key of table.uniques) lines.push(keyClause('UNIQUE', key, words))
  for (const check of table.checks) lines.push(checkClause(check, words))
  for (const key of table.foreignKeys) lines.push(foreignKeyClause(key, words, '\n    '))
  const tail = words.tail?.(table) ?? ''
  return lines.length === 0
    ? `CREATE TABLE ${tableIn(words, name)} ()${tail}`
    : `CREATE TABLE ${tableIn(words, name)} (\n  ${lines.join(',\n  ')}\n)${tail}`
}

export const keyClause = (kind: 'PRIMARY KEY' | 'UNIQUE', key: CatalogKey, words: Words): string =>
  `CONSTRAINT ${words.quote(key.name)} ${kind} (${listOf(words, key.columns)})`
export const checkClause = (check: CatalogCheck, words: Words): string =>
  `CONSTRAINT ${words.quote(check.name)} CHECK (${check.condition})`

export function foreignKeyClause(key: CatalogForeignKey, words: Words, gap = ' '): string {
  return `CONSTRAINT ${words.quote(key.name)} FOREIGN KEY (${listOf(words, key.columns)})${gap}REFERENCES ${tableIn(words, key.table)} (${listOf(words, key.refersTo)})${words.actions(key)}`
}

export function addForeignKey(table: CatalogTable, key: CatalogForeignKey, words: Words): Statement {
  return {
    sql: `ALTER TABLE ${tableIn(words, table.name)} ADD ${foreignKeyClause(key, words)}`,
    says: `refer ${sayTable(table.name)} to ${sayTable(key.table)}`
  }
}

export function createIndex(table: CatalogTable, index: CatalogIndex, words: Words): Statement {
  const columns = index.columns.map(
    (name, at) => words.quote(name) + (index.descending[at] && words.descending ? ' DESC' : '')
  )
  const where = index.where === undefined ? '' : ` WHERE ${index.where}`
  return {
    sql: `CREATE ${index.unique ? 'UNIQUE ' : ''}INDEX ${words.quote(index.name)} ON ${tableIn(words, table.name)} (${columns.join(', ')})${where}`,
    says: `index ${index.columns.join(', ')} of ${sayTable(table.name)}`
  }
}

/** Both actions, in the standard's words. */
export const bothActions = (key: CatalogForeignKey): string =>
  ` ON DELETE ${key.onDelete} ON UPDATE ${key.onUpdate}`

/** COMMENT ON for a table and its columns (PostgreSQL and Oracle say it alike). */
export function commentsOn(
  table: CatalogTable,
  words: Words,
  quoteText: (text: string) => string
): Statement[] {
  const place = tableIn(words, table.name)
  return [
    ...(table.note === undefined
      ? []
      : [
          {
            sql: `COMMENT ON TABLE ${place} IS ${quoteText(table.note)}`,
            says: `say what ${sayTable(table.name)} is`
          }
        ]),
    ...table.columns.flatMap((column) =>
      column.note === undefined
        ? []
        : [
            {
              sql: `COMMENT ON COLUMN ${place}.${words.quote(column.name)} IS ${quoteText(column.note)}`,
              says: `say what ${sayTable(table.name)}.${column.name} is`
            }
          ]
    )
  ]
}
