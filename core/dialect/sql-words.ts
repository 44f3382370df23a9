import type {
  Catalog,
  CatalogColumn,
  CatalogForeignKey,
  CatalogIndex,
  CatalogTable,
  CatalogTrigger,
  Statement,
  Tables
} from './catalog.ts'
import { nameParts } from './qualified.ts'
import { nameOfColumn, plainSql, type Written } from './written.ts'

/** How a dialect says the parts of a definition; what they share is put together here. */
export interface Words {
  quote(name: string): string
  /** What stands behind a column's name: type, NOT NULL, default and what else there is. */
  column(column: CatalogColumn, table: CatalogTable): string
  /** ON DELETE … ON UPDATE …, with a space before, or nothing. */
  actions(key: CatalogForeignKey): string
  /** True where the primary key is said at its column. */
  keyAtColumn?(table: CatalogTable): boolean
  /** The indexes that must be there with the table, since a column leans on them. */
  inside?(table: CatalogTable): CatalogIndex[]
  /** What stands behind the closing parenthesis of a table. */
  tail?(table: CatalogTable): string
  /** What comes before all tables: schemas and types. */
  before?(catalog: Catalog): Statement[]
  /** What comes after a table's indexes: notes and row policies. */
  after?(table: CatalogTable, tables: Tables): Statement[]
  /** What makes a trigger of ./trigger.ts. */
  trigger(table: CatalogTable, trigger: CatalogTrigger, tables: Tables): Statement[]
  /** Whether columns in an index can run downwards. */
  descending: boolean
}

export const listOf = (words: Pick<Words, 'quote'>, names: readonly string[]): string =>
  names.map(words.quote).join(', ')
/** The names of columns of a table. */
export const columnsOf = (words: Pick<Words, 'quote'>, table: CatalogTable, ids: readonly string[]): string =>
  ids.map((id) => words.quote(nameOfColumn(table, id))).join(', ')
/** An expression over a table's columns. */
export const conditionOf = (words: Pick<Words, 'quote'>, table: CatalogTable, sql: Written): string =>
  plainSql(sql, (id) => words.quote(nameOfColumn(table, id)))
export const tableIn = (words: Pick<Words, 'quote'>, name: string): string =>
  nameParts(name).map(words.quote).join('.')
