import { columnsIn, sameSet } from '../design/lookup.ts'
import type { Column, Design, ForeignKey, Key, Table } from '../design/model.ts'
import { constraintNames } from '../relate/naming.ts'
import type { Catalog, CatalogForeignKey, CatalogKey, CatalogTable } from './catalog.ts'
import type { Dialect } from './dialect.ts'
import { NameGiver } from './names.ts'

/** What the dialects' own catalogs differ in: how a column comes out. */
type WriteColumn = (table: Table, column: Column) => CatalogTable['columns'][number]

/**
 * The catalog of a design with names, keys and indexes worked out, columns as the dialect writes them.
 * Constraints and indexes that nobody named get the naming policy's names, shortened and numbered where
 * the engine needs it. A foreign key gets an index unless a key or index begins with its columns.
 */
export function buildCatalog(design: Design, dialect: Pick<Dialect, 'nameLimit'>, writeColumn: WriteColumn): Catalog {
  const names = new NameGiver(dialect.nameLimit)
  const tableNames = new Map(design.tables.map((table) => [table.id, names.give(table.name)]))
  const columnNames = new Map<string, string>()
  for (const table of design.tables) {
    const own = new NameGiver(dialect.nameLimit)
    for (const column of table.columns) columnNames.set(column.id, own.give(column.name))
  }
  const nameOf = (id: string): string => columnNames.get(id) as string

  return {
    tables: design.tables.map((table) => {
      const name = tableNames.get(table.id) as string
      const key = (each: Key, policy: string): CatalogKey => ({ id: each.id, name: names.give(each.name ?? policy), columns: each.columns.map(nameOf) })
      const labels = (ids: readonly string[]): string[] => columnsIn(table, ids).map((column) => column.name)
      const primaryKey = table.primaryKey && key(table.primaryKey, constraintNames.primaryKey(table.name))
      const uniques = distinctUniques(table).map((each) => key(each, constraintNames.unique(table.name, labels(each.columns))))
      const foreignKeys = table.foreignKeys.map((each): CatalogForeignKey => {
        const ids = each.pairs.map((pair) => pair.column)
        return {
          ...key({ id: each.id, name: each.name, columns: ids }, constraintNames.foreignKey(table.name, labels(ids))),
          table: tableNames.get(each.table) as string,
          refersTo: each.pairs.map((pair) => nameOf(pair.refersTo)),
          onDelete: each.onDelete,
          onUpdate: each.onUpdate
        }
      })
      return {
        id: table.id,
        name,
        columns: table.columns.map((column) => ({ ...writeColumn(table, column), name: nameOf(column.id) })),
        primaryKey,
        uniques,
        foreignKeys,
        indexes: unindexed(table).map((each) => {
          const ids = each.pairs.map((pair) => pair.column)
          return key({ id: `${each.id}_ix`, columns: ids }, constraintNames.index(table.name, labels(ids)))
        })
      }
    })
  }
}

/** Unique keys that say something the primary key, or one before them, does not say already: an engine may pass the others over without a word. */
function distinctUniques(table: Table): Key[] {
  return table.uniques.filter((key, at) => {
    const before = [...(table.primaryKey ? [table.primaryKey] : []), ...table.uniques.slice(0, at)]
    return !before.some((other) => sameSet(other.columns, key.columns))
  })
}

/** The foreign keys that no key, and no other foreign key's index, begins with. */
function unindexed(table: Table): ForeignKey[] {
  const prefixes: string[][] = [...(table.primaryKey ? [table.primaryKey] : []), ...table.uniques].map((key) => key.columns)
  return table.foreignKeys.filter((foreignKey) => {
    const columns = foreignKey.pairs.map((pair) => pair.column)
    const covered = prefixes.some((prefix) => columns.length <= prefix.length && columns.every((column) => prefix.slice(0, columns.length).includes(column)))
    if (!covered) prefixes.push(columns)
    return !covered
  })
}

/** The column that the engine counts by itself, if the table has one. */
export function generatedColumn(table: Table): Column | undefined {
  return table.columns.find((column) => column.default?.kind === 'generated')
}

/** Tables with those that they refer to before them where there is no circle; otherwise in the order given. */
export function parentsFirst(tables: readonly CatalogTable[]): CatalogTable[] {
  const byName = new Map(tables.map((table) => [table.name, table]))
  const done = new Set<string>()
  const ordered: CatalogTable[] = []
  for (const start of tables) {
    // Depth first by hand: a chain of thousands of tables must not exhaust the stack.
    const stack: { table: CatalogTable; next: number }[] = []
    const enter = (table: CatalogTable): void => {
      if (!done.has(table.name)) {
        done.add(table.name)
        stack.push({ table, next: 0 })
      }
    }
    enter(start)
    for (let top = stack.at(-1); top; top = stack.at(-1)) {
      const reference = top.table.foreignKeys[top.next++]
      if (!reference) {
        ordered.push(top.table)
        stack.pop()
        continue
      }
      const parent = byName.get(reference.table)
      if (parent) enter(parent)
    }
  }
  return ordered
}

