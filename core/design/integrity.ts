import { columnOf, fold, keyOf, sameSet, tableOf } from './lookup.ts'
import type { Design, ForeignKey, Table } from './model.ts'

/** Something that does not hold together in a design, and the path to it in the design file. */
export interface Flaw { path: (string | number)[]; message: string }

/**
 * What a schema of shapes cannot say: that ids are used once, that names are not doubled, and that
 * every key and reference names something that is there. Operations never make a design with a flaw;
 * a file that was written by hand may have one.
 */
export function flawsOf(design: Design): Flaw[] {
  const flaws: Flaw[] = []
  const ids = new Set<string>()
  const take = (id: string, path: Flaw['path']): void => {
    if (ids.has(id)) flaws.push({ path, message: `the id ${id} is used twice` })
    ids.add(id)
  }
  const names = new Set<string>()
  design.tables.forEach((table, index) => {
    const path = ['tables', index]
    take(table.id, path)
    if (names.has(fold(table.name))) flaws.push({ path: [...path, 'name'], message: `two tables are called ${table.name}` })
    names.add(fold(table.name))
    flaws.push(...flawsOfColumns(table, path, take), ...flawsOfKeys(table, path, take))
    table.foreignKeys.forEach((foreignKey, at) => {
      take(foreignKey.id, [...path, 'foreignKeys', at])
      const message = flawOfForeignKey(design, table, foreignKey)
      if (message) flaws.push({ path: [...path, 'foreignKeys', at], message })
    })
    table.rows.forEach((row, at) => {
      const stranger = Object.keys(row).find((id) => !columnOf(table, id))
      if (stranger) flaws.push({ path: [...path, 'rows', at], message: `${table.name} has no column ${stranger}` })
    })
  })
  design.carries.forEach((carry, at) => take(carry.id, ['carries', at]))
  for (const id of Object.keys(design.positions)) {
    if (!tableOf(design, id)) flaws.push({ path: ['positions', id], message: 'there is no such table' })
  }
  return flaws
}

type Take = (id: string, path: Flaw['path']) => void

function flawsOfColumns(table: Table, path: Flaw['path'], take: Take): Flaw[] {
  const flaws: Flaw[] = []
  const names = new Set<string>()
  table.columns.forEach((column, at) => {
    take(column.id, [...path, 'columns', at])
    if (names.has(fold(column.name))) flaws.push({ path: [...path, 'columns', at, 'name'], message: `${table.name} has two columns called ${column.name}` })
    names.add(fold(column.name))
  })
  return flaws
}

function flawsOfKeys(table: Table, path: Flaw['path'], take: Take): Flaw[] {
  const flaws: Flaw[] = []
  const places: [Table['uniques'][number], Flaw['path']][] = table.uniques.map((key, at) => [key, [...path, 'uniques', at]])
  if (table.primaryKey) places.unshift([table.primaryKey, [...path, 'primaryKey']])
  for (const [key, place] of places) {
    take(key.id, place)
    if (new Set(key.columns).size < key.columns.length) flaws.push({ path: place, message: 'a key names a column twice' })
    for (const id of key.columns) {
      const column = columnOf(table, id)
      if (!column) flaws.push({ path: place, message: `${table.name} has no column ${id}` })
      else if (key === table.primaryKey && !column.required) flaws.push({ path: place, message: `${column.name} is in the primary key and must be required` })
    }
  }
  return flaws
}

/** Why a foreign key cannot stand, or nothing where it can. */
export function flawOfForeignKey(design: Design, table: Table, foreignKey: ForeignKey): string | undefined {
  const referred = tableOf(design, foreignKey.table)
  if (!referred) return `${table.name} refers to a table that is not there`
  const key = keyOf(referred, foreignKey.key)
  if (!key) return `${table.name} refers to a key that ${referred.name} does not have`
  const own = foreignKey.pairs.map((pair) => pair.column)
  if (own.some((id) => !columnOf(table, id))) return `the reference to ${referred.name} uses a column that ${table.name} does not have`
  if (new Set(own).size < own.length) return `the reference to ${referred.name} uses a column twice`
  if (!sameSet(foreignKey.pairs.map((pair) => pair.refersTo), key.columns)) return `the reference to ${referred.name} must pair every column of its key once`
  return undefined
}
