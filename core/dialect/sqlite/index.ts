import type { Column, Design, Table } from '../../design/model.ts'
import { buildCatalog, generatedColumn } from '../build.ts'
import type { Catalog, CatalogColumn } from '../catalog.ts'
import type { Dialect, Remark } from '../dialect.ts'
import { migrate } from './migrate.ts'
import { read, reset } from './read.ts'
import { sqliteDefault, sqliteLiteral, sqliteType } from './types.ts'
import { createAll, quote } from './write.ts'

/** SQLite 3, with foreign keys switched on. */
export const sqlite: Dialect = {
  name: 'sqlite',
  title: 'SQLite',
  action: () => ({ can: true }),
  nameLimit: undefined,
  ordersColumns: true,
  quote,
  literal: sqliteLiteral,
  default: sqliteDefault,
  oneDefault: (sql) => sql,
  catalog: sqliteCatalog,
  create: createAll,
  migrate,
  // AUTOINCREMENT goes on from the largest number there is by itself.
  afterRows: () => [],
  onConnect: ['PRAGMA foreign_keys = ON'],
  reset,
  read,
  selectText: (column, type) => (type.kind === 'binary' ? `CASE WHEN ${quote(column)} IS NOT NULL THEN lower(hex(${quote(column)})) END` : type.kind === 'float' ? quote(column) : `CAST(${quote(column)} AS TEXT)`)
}

function sqliteCatalog(design: Design): { catalog: Catalog; remarks: Remark[] } {
  const remarks: Remark[] = []
  for (const table of design.tables) {
    const counted = generatedColumn(table)
    if (counted && !isCounted(table, counted)) remarks.push({ table: table.id, message: `SQLite counts only a column that is the whole primary key: ${table.name}.${counted.name} is written as a plain number.` })
    if (/^sqlite_/i.test(table.name)) remarks.push({ table: table.id, message: `SQLite keeps names that begin with sqlite_ to itself: it will refuse ${table.name}.` })
    if (table.columns.length === 0) remarks.push({ table: table.id, message: `SQLite has no table without columns: it will refuse ${table.name}.` })
  }
  return { catalog: buildCatalog(design, sqlite, writeColumn), remarks }
}

/** A generated column that is the table's whole key. */
function isCounted(table: Table, column: Column): boolean {
  return column.default?.kind === 'generated' && table.primaryKey?.columns.length === 1 && table.primaryKey.columns[0] === column.id
}

/**
 * A generated key is INTEGER PRIMARY KEY AUTOINCREMENT. A lone integer key that is not generated is INT
 * and not INTEGER: only the latter would fill itself (SQLite, "CREATE TABLE", 5).
 */
function writeColumn(table: Table, column: Column): CatalogColumn {
  const counted = isCounted(table, column)
  const lone = !counted && column.type.kind === 'integer' && column.type.size === 'normal' && table.primaryKey?.columns.length === 1 && table.primaryKey.columns[0] === column.id
  return {
    id: column.id,
    name: column.name,
    type: counted ? 'INTEGER' : lone ? 'INT' : sqliteType(column.type),
    required: column.required,
    default: column.default && sqliteDefault(column.default, column.type),
    generated: counted
  }
}
