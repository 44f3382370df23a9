import { columnsIn, fold, lookup } from '../design/lookup.ts'
import { NAME_LENGTH, type Column, type Design, type Table } from '../design/model.ts'
import { fitName } from '../dialect/names.ts'

/**
 * The naming policy: what is proposed for what a relationship makes, and what constraints are called
 * that nobody named. Lower case with underscores; a reference is named for the table and the key column.
 */

/** A name that is not among those taken and not too long: itself, or with a number behind it. */
export function freeName(name: string, taken: Iterable<string>): string {
  const used = new Set([...taken].map(fold))
  const fit = (wanted: string): string => fitName(wanted, { most: NAME_LENGTH, of: 'characters' })
  let free = fit(name)
  for (let n = 2; used.has(fold(free)); n++) free = fit(`${name}_${n}`)
  return free
}

/**
 * What the columns of a reference to `parent` would be called, one for each column of its key.
 * `patient_id` stays `patient_id`; a bare `id` becomes `patient_id`. A table that refers to itself
 * says so with `parent_`.
 */
export function referenceNames(parent: Table, child: Pick<Table, 'id' | 'columns'>, taken: Iterable<string> = child.columns.map((column) => column.name)): string[] {
  const used = [...taken]
  const prefix = parent.id === child.id ? 'parent_' : ''
  return columnsIn(parent, parent.primaryKey?.columns ?? []).map((column) => {
    const name = freeName(prefix + referenceName(parent, column), used)
    used.push(name)
    return name
  })
}

function referenceName(parent: Table, column: Column): string {
  const bare = ['id', 'code', 'no', 'number', 'key', 'name', 'uuid'].includes(fold(column.name))
  return bare ? `${parent.name}_${column.name}` : column.name
}

/** The name of the generated key that a table is proposed: `admission_id`. */
export function generatedKeyName(table: Pick<Table, 'name' | 'columns'>): string {
  return freeName(`${table.name}_id`, table.columns.map((column) => column.name))
}

/** Names for a junction of two tables, the best first: both orders. Taken ones get a number. */
export function junctionNames(design: Design, first: Table, second: Table): string[] {
  const taken = [...lookup(design).byName.keys()]
  const names = [`${first.name}_${second.name}`, `${second.name}_${first.name}`]
  return [...new Set(names)].map((name) => freeName(name, taken))
}

export const constraintNames = {
  primaryKey: (table: string): string => `${table}_pk`,
  unique: (table: string, columns: readonly string[]): string => `${table}_${columns.join('_')}_uq`,
  foreignKey: (table: string, columns: readonly string[]): string => `${table}_${columns.join('_')}_fk`,
  index: (table: string, columns: readonly string[]): string => `${table}_${columns.join('_')}_ix`
}
