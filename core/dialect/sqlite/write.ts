import type { Catalog, CatalogTable, Statement } from '../catalog.ts'
import { parentsFirst } from '../build.ts'
import { quoteUnless } from '../names.ts'
import { RESERVED } from './reserved.ts'

export const quote = quoteUnless(RESERVED)

const list = (names: readonly string[]): string => names.map(quote).join(', ')

/** The tables with their constraints inside (SQLite adds none later), parents first, and the indexes. */
export function createAll(catalog: Catalog): Statement[] {
  const tables = parentsFirst(catalog.tables)
  return [
    ...tables.map((table) => ({ sql: createTable(table), says: `make ${table.name}` })),
    ...tables.flatMap(createIndexes)
  ]
}

/** CREATE TABLE, under another name where one is given. */
export function createTable(table: CatalogTable, name = table.name): string {
  const counted = table.columns.find((column) => column.generated)
  const width = Math.max(...table.columns.map((column) => quote(column.name).length), 0)
  const lines = table.columns.map((column) => {
    const parts = [quote(column.name).padEnd(width), column.type]
    if (column.required) parts.push('NOT NULL')
    if (column.default !== undefined) parts.push(`DEFAULT ${column.default}`)
    if (column === counted && table.primaryKey) parts.push(`CONSTRAINT ${quote(table.primaryKey.name)} PRIMARY KEY AUTOINCREMENT`)
    return parts.join(' ')
  })
  if (table.primaryKey && !counted) lines.push(`CONSTRAINT ${quote(table.primaryKey.name)} PRIMARY KEY (${list(table.primaryKey.columns)})`)
  for (const key of table.uniques) lines.push(`CONSTRAINT ${quote(key.name)} UNIQUE (${list(key.columns)})`)
  for (const key of table.foreignKeys) {
    lines.push(`CONSTRAINT ${quote(key.name)} FOREIGN KEY (${list(key.columns)})\n    REFERENCES ${quote(key.table)} (${list(key.refersTo)}) ON DELETE ${key.onDelete} ON UPDATE ${key.onUpdate}`)
  }
  return `CREATE TABLE ${quote(name)} (\n  ${lines.join(',\n  ')}\n)`
}

export function createIndexes(table: CatalogTable): Statement[] {
  return table.indexes.map((index) => ({
    sql: `CREATE INDEX ${quote(index.name)} ON ${quote(table.name)} (${list(index.columns)})`,
    says: `index ${index.columns.join(', ')} of ${table.name}`
  }))
}
