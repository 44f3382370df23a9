import {
  parentsFirst,
  type Catalog,
  type CatalogCheck,
  type CatalogForeignKey,
  type CatalogIndex,
  type CatalogKey,
  type CatalogTable,
  type Statement,
  type Tables
} from './catalog.ts'
import { byId } from '../design/by-id.ts'
import { sayTable } from './qualified.ts'
import type { Constraint } from './step.ts'
import { sayTrigger } from './trigger.ts'
import { nameOfColumn } from './written.ts'
import { tableIn, columnsOf, type Words, conditionOf } from './sql-words.ts'

/**
 * Tables with their references inside, parents first; references that would run in a circle are added
 * after, where `circles` says how; then indexes, notes and row policies; then rows, and the triggers that would see
 * to them. External tables are left out.
 */
export function createAll(
  catalog: Catalog,
  words: Words,
  circles: 'after' | 'inside' = 'after',
  rows: readonly Statement[] = []
): Statement[] {
  const known = byId(catalog.tables)
  const tables = parentsFirst(catalog.tables).filter((table) => !table.external)
  const made = new Set(catalog.tables.filter((table) => table.external).map((table) => table.id))
  const later: Statement[] = []
  const statements = tables.map((table): Statement => {
    made.add(table.id)
    const now = table.foreignKeys.filter((key) => circles === 'inside' || made.has(key.table))
    for (const key of table.foreignKeys)
      if (!now.includes(key)) later.push(addForeignKey(table, key, known, words))
    return {
      sql: createTable({ ...table, foreignKeys: now }, known, words),
      says: `make ${sayTable(table.name)}`
    }
  })
  return [
    ...(words.before?.(catalog) ?? []),
    ...statements,
    ...later,
    ...tables.flatMap((table) => {
      const inside = words.inside?.(table) ?? []
      const others = table.indexes.filter((index) => !inside.includes(index))
      return others.map((index) => createIndex(table, index, words))
    }),
    ...tables.flatMap((table) => words.after?.(table, known) ?? []),
    ...rows,
    ...createTriggers(catalog, words)
  ]
}

/** The triggers of a catalog whose tables are there. */
export function createTriggers({ tables }: Catalog, words: Words): Statement[] {
  const known = byId(tables)
  return parentsFirst(tables)
    .filter((table) => !table.external)
    .flatMap((table) => table.triggers.flatMap((trigger) => words.trigger(table, trigger, known)))
}

/** CREATE TABLE, under another name where one is given. */
export function createTable(table: CatalogTable, tables: Tables, words: Words, name = table.name): string {
  const width = Math.max(...table.columns.map((column) => words.quote(column.name).length), 0)
  const lines = table.columns.map(
    (column) => `${words.quote(column.name).padEnd(width)} ${words.column(column, table)}`
  )
  if (table.primaryKey && !words.keyAtColumn?.(table))
    lines.push(keyClause('PRIMARY KEY', table, table.primaryKey, words))
  for (const key of table.uniques) lines.push(keyClause('UNIQUE', table, key, words))
  for (const index of words.inside?.(table) ?? [])
    lines.push(`INDEX ${words.quote(index.name)} (${indexColumns(table, index, words)})`)
  for (const check of table.checks.filter(({ byTrigger }) => !byTrigger))
    lines.push(checkClause(table, check, words))
  for (const key of table.foreignKeys) lines.push(foreignKeyClause(table, key, tables, words, '\n    '))
  const tail = words.tail?.(table) ?? ''
  return lines.length === 0
    ? `CREATE TABLE ${tableIn(words, name)} ()${tail}`
    : `CREATE TABLE ${tableIn(words, name)} (\n  ${lines.join(',\n  ')}\n)${tail}`
}

export const keyClause = (
  kind: 'PRIMARY KEY' | 'UNIQUE',
  table: CatalogTable,
  key: CatalogKey,
  words: Words
): string => `CONSTRAINT ${words.quote(key.name)} ${kind} (${columnsOf(words, table, key.columns)})`

export const checkClause = (table: CatalogTable, check: CatalogCheck, words: Words): string =>
  `CONSTRAINT ${words.quote(check.name)} CHECK (${conditionOf(words, table, check.condition)})`

export function foreignKeyClause(
  table: CatalogTable,
  key: CatalogForeignKey,
  tables: Tables,
  words: Words,
  gap = ' '
): string {
  const referred = tables.get(key.table) ?? table
  const from = columnsOf(words, table, key.columns)
  const to = `${tableIn(words, referred.name)} (${columnsOf(words, referred, key.refersTo)})`
  return `CONSTRAINT ${words.quote(key.name)} FOREIGN KEY (${from})${gap}REFERENCES ${to}${words.actions(key)}${key.deferrable ? ` DEFERRABLE INITIALLY ${key.deferrable.toUpperCase()}` : ''}`
}

export function addForeignKey(
  table: CatalogTable,
  key: CatalogForeignKey,
  tables: Tables,
  words: Words
): Statement {
  return {
    sql: `ALTER TABLE ${tableIn(words, table.name)} ADD ${foreignKeyClause(table, key, tables, words)}`,
    says: `refer ${sayTable(table.name)} to ${sayTable((tables.get(key.table) ?? table).name)}`
  }
}

/** The columns of an index, each with its direction. */
export function indexColumns(table: CatalogTable, index: CatalogIndex, words: Words): string {
  const name = (id: string): string => words.quote(nameOfColumn(table, id))
  const isDown = (at: number): boolean => words.descending && index.descending[at] === true
  return index.columns.map((id, at) => name(id) + (isDown(at) ? ' DESC' : '')).join(', ')
}

export function createIndex(table: CatalogTable, index: CatalogIndex, words: Words): Statement {
  const where = index.where === undefined ? '' : ` WHERE ${conditionOf(words, table, index.where)}`
  return {
    sql: `CREATE ${index.unique ? 'UNIQUE ' : ''}INDEX ${words.quote(index.name)} ON ${tableIn(words, table.name)} (${indexColumns(table, index, words)})${where}`,
    says: `index ${index.columns.map((id) => nameOfColumn(table, id)).join(', ')} of ${sayTable(table.name)}`
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

/** What stands behind ADD for a constraint that is neither an index nor a trigger. */
export function constraintClause(
  table: CatalogTable,
  { kind, key }: Exclude<Constraint, { kind: 'index' | 'trigger' }>,
  tables: Tables,
  words: Words
): string {
  switch (kind) {
    case 'primaryKey':
      return keyClause('PRIMARY KEY', table, key, words)
    case 'unique':
      return keyClause('UNIQUE', table, key, words)
    case 'check':
      return checkClause(table, key, words)
    case 'foreignKey':
      return foreignKeyClause(table, key, tables, words)
  }
}

/** What it is for that a constraint comes. */
export function sayConstraint(table: CatalogTable, { kind, key }: Constraint, tables: Tables): string {
  const names = 'columns' in key ? key.columns.map((id) => nameOfColumn(table, id)).join(', ') : ''
  const place = sayTable(table.name)
  switch (kind) {
    case 'primaryKey':
      return `make the key of ${place}: ${names}`
    case 'unique':
      return `make unique in ${place}: ${names}`
    case 'check':
      return `check ${place}: ${key.name}`
    case 'foreignKey':
      return `refer ${place} to ${sayTable((tables.get(key.table) ?? table).name)}`
    case 'index':
      return `index ${names} of ${place}`
    case 'trigger':
      return sayTrigger(table, key)
  }
}
