import type { CatalogTable, Statement, Tables } from '../catalog.ts'
import { bothActions, createIndex, createTable as writeTable } from '../write.ts'
import { createTrigger } from './trigger.ts'
import { quote } from './types.ts'
import { conditionOf, type Words } from '../sql-words.ts'

export const words: Words = {
  quote,
  column: (column, table) => {
    const parts = [column.type.sql]
    if (column.computed !== undefined)
      parts.push(`GENERATED ALWAYS AS (${conditionOf(words, table, column.computed)}) STORED`)
    if (column.required) parts.push('NOT NULL')
    if (column.default !== undefined) parts.push(`DEFAULT ${column.default}`)
    if (column.generated && table.primaryKey)
      parts.push(`CONSTRAINT ${quote(table.primaryKey.name)} PRIMARY KEY AUTOINCREMENT`)
    return parts.join(' ')
  },
  keyAtColumn: (table) => table.columns.some((column) => column.generated),
  actions: bothActions,
  trigger: createTrigger,
  descending: true
}

export const createTable = (table: CatalogTable, tables: Tables, name = table.name): string =>
  writeTable(table, tables, words, name)
export const createIndexes = (table: CatalogTable): Statement[] =>
  table.indexes.map((index) => createIndex(table, index, words))
