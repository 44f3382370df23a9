import { columnsUsed, flawOfExpression } from './expressions.ts'
import { columnOf, fold, fullName, keyOf, sameSet, tableOf } from './lookup.ts'
import type { Column, Design, ForeignKey, Table } from './model.ts'

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
  for (const [kind, list] of [['schemas', design.schemas], ['enums', design.enums]] as const) {
    const own = new Set<string>()
    list.forEach((each, at) => {
      take(each.id, [kind, at])
      if (own.has(fold(each.name))) flaws.push({ path: [kind, at, 'name'], message: `${each.name} is there twice` })
      own.add(fold(each.name))
    })
  }
  design.enums.forEach((each, at) => {
    if (new Set(each.values).size < each.values.length) flaws.push({ path: ['enums', at, 'values'], message: `${each.name} has a value twice` })
  })
  design.tables.forEach((table, index) => {
    const path = ['tables', index]
    take(table.id, path)
    const name = fullName(design, table)
    if (names.has(fold(name))) flaws.push({ path: [...path, 'name'], message: `two tables are called ${name}` })
    names.add(fold(name))
    if (table.schema !== undefined && !design.schemas.some((each) => each.id === table.schema)) flaws.push({ path: [...path, 'schema'], message: `${table.name} stands in a schema that is not there` })
    flaws.push(...flawsOfColumns(design, table, path, take), ...flawsOfKeys(table, path, take), ...flawsOfExtras(design, table, path, take))
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

function flawsOfColumns(design: Design, table: Table, path: Flaw['path'], take: Take): Flaw[] {
  const flaws: Flaw[] = []
  const names = new Set<string>()
  table.columns.forEach((column, at) => {
    take(column.id, [...path, 'columns', at])
    if (names.has(fold(column.name))) flaws.push({ path: [...path, 'columns', at, 'name'], message: `${table.name} has two columns called ${column.name}` })
    names.add(fold(column.name))
    const message = flawOfColumn(design, table, column)
    if (message) flaws.push({ path: [...path, 'columns', at], message })
  })
  return flaws
}

/** Why what a column is worked out from, or copied from, cannot be; or nothing where it can. */
export function flawOfColumn(design: Design, table: Table, column: Column): string | undefined {
  const { type, computed, copied } = column
  if (type.kind === 'enum' && !design.enums.some((each) => each.id === type.enum)) return `${column.name} has its values from a list that is not there`
  if (copied) {
    const foreignKey = table.foreignKeys.find((each) => each.id === copied.foreignKey)
    const source = foreignKey && tableOf(design, foreignKey.table)
    if (!source || !columnOf(source, copied.column)) return `${column.name} is copied from a column that ${table.name} does not refer to`
  }
  if (computed === undefined) return undefined
  if (column.default ?? copied) return `${column.name} is computed, so it has no default and is not copied`
  const flaw = flawOfExpression(computed, { wanted: type, columns: table.columns, enums: design.enums })
  if (flaw) return `${column.name} cannot be computed: ${flaw}`
  const circle = circleFrom(table, column)
  return circle && `${column.name} cannot be computed: it is worked out from itself (${circle.join(', ')})`
}

/** The names along which a computed column leads back to itself, or nothing. */
function circleFrom(table: Table, column: Column): string[] | undefined {
  const seen = new Set<string>()
  const visit = (each: Column, way: string[]): string[] | undefined => {
    if (each.computed === undefined || seen.has(each.id)) return undefined
    seen.add(each.id)
    for (const id of columnsUsed(each.computed)) {
      if (id === column.id) return [...way, column.name]
      const next = columnOf(table, id)
      const found = next && visit(next, [...way, next.name])
      if (found) return found
    }
    return undefined
  }
  return visit(column, [column.name])
}

/** Checks, indexes and row policies: each must be about columns that are there. */
export function flawsOfExtras(design: Design, table: Table, path: Flaw['path'], take: Take): Flaw[] {
  const flaws: Flaw[] = []
  const reading = { columns: table.columns, enums: design.enums }
  const judge = (place: Flaw['path'], condition: string | undefined, moments = false): void => {
    const message = condition === undefined ? undefined : flawOfExpression(condition, { ...reading, moments })
    if (message) flaws.push({ path: place, message })
  }
  table.checks.forEach((check, at) => {
    take(check.id, [...path, 'checks', at])
    judge([...path, 'checks', at, 'condition'], check.condition)
  })
  table.indexes.forEach((index, at) => {
    take(index.id, [...path, 'indexes', at])
    const stranger = index.columns.find(({ column }) => !columnOf(table, column))
    if (stranger) flaws.push({ path: [...path, 'indexes', at], message: `${table.name} has no column ${stranger.column}` })
    if (new Set(index.columns.map(({ column }) => column)).size < index.columns.length) flaws.push({ path: [...path, 'indexes', at], message: 'an index names a column twice' })
    judge([...path, 'indexes', at, 'where'], index.where)
  })
  table.rowPolicies.forEach((policy, at) => {
    take(policy.id, [...path, 'rowPolicies', at])
    judge([...path, 'rowPolicies', at, 'condition'], policy.condition, true)
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
