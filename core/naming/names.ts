import { columnsIn, fold, directory } from '../design/directory.ts'
import {
  FIRST_POLICY,
  NAME_LENGTH,
  type Column,
  type Design,
  type Policy,
  type Table
} from '../design/model.ts'
import { fitName } from './fit.ts'
import { plural, singular } from './words.ts'

/**
 * The naming policy at work: what is proposed for what is new, and what constraints are called that
 * nobody named.
 */

/** A name that is not among those taken and not too long: itself, or with a number behind it. */
export function freeName(name: string, taken: Iterable<string>): string {
  const used = new Set([...taken].map(fold))
  const fit = (wanted: string): string => fitName(wanted, { most: NAME_LENGTH, of: 'characters' })
  let free = fit(name)
  for (let n = 2; used.has(fold(free)); n++) free = fit(`${name}_${n}`)
  return free
}

/** Gives names to new columns, each free beside those that its table has and those given before. */
export function columnNamer(): (table: Pick<Table, 'id' | 'columns'>, name: string) => string {
  const given = new Map<string, string[]>()
  return (table, name) => {
    const taken = given.get(table.id) ?? table.columns.map((column) => column.name)
    const free = freeName(name, taken)
    given.set(table.id, [...taken, free])
    return free
  }
}

/** A name in which one thing stands for another: `at_place_id` for a clinic is `at_clinic_id`; else with it before. */
export function renamedFor(name: string, from: string, to: string, letterCase: Policy['letterCase']): string {
  const [words, old] = [wordsOf(name), wordsOf(from)]
  const isThere = (_: string, at: number): boolean =>
    old.every((word, n) => fold(word) === fold(words[at + n] ?? ''))
  const place = words.findIndex(isThere)
  const renamed =
    place < 0 ? [to, ...words] : [...words.slice(0, place), to, ...words.slice(place + old.length)]
  return inCase(renamed.join('_'), letterCase)
}

/** A pattern with its parts put in: `{table}_{columns}_uq`. */
export function fill(pattern: string, parts: Readonly<Record<string, string>>): string {
  return pattern.replaceAll(/\{([a-z]+)\}/g, (whole, part: string) => parts[part] ?? whole)
}

/** The words of a name, however they were put together: `pen_no`, `penNo` and `Pen no` are two. */
export function wordsOf(name: string): string[] {
  return name
    .replaceAll(/([\p{Ll}\p{N}])(\p{Lu})/gu, '$1 $2')
    .replaceAll(/(\p{Lu})(\p{Lu}\p{Ll})/gu, '$1 $2')
    .split(/[\s_-]+/)
    .filter((word) => word !== '')
}

/** A column's name without that of its table before it: `reason_code` is the code of a reason. */
export function withoutPrefix(table: string, column: string): string {
  const [own, all] = [wordsOf(table), wordsOf(column)]
  const isPrefixed = all.length > own.length && own.every((word, at) => fold(word) === fold(all[at] ?? ''))
  return isPrefixed ? all.slice(own.length).join('_') : column
}

/** A name in the policy's letter case. */
export function inCase(name: string, letterCase: Policy['letterCase']): string {
  const words = wordsOf(name)
  const large = (word: string): string => word.charAt(0).toUpperCase() + word.slice(1).toLowerCase()
  switch (letterCase) {
    case 'lower_snake':
      return words.join('_').toLowerCase()
    case 'UPPER_SNAKE':
      return words.join('_').toUpperCase()
    case 'lowerCamel':
      return words.map((word, at) => (at === 0 ? word.toLowerCase() : large(word))).join('')
    case 'UpperCamel':
      return words.map(large).join('')
    case 'as typed':
      return name
  }
}

/** What a table should be called under the policy. */
export function tableName(name: string, policy: Policy): string {
  const numbered =
    policy.tables === 'as typed' ? name : policy.tables === 'plural' ? plural(singular(name)) : singular(name)
  return inCase(numbered, policy.letterCase) || name
}

/** What a column should be called under the policy. */
export const columnName = (name: string, policy: Policy): string => inCase(name, policy.letterCase) || name

/**
 * What the columns of a reference to `parent` would be called, one for each column of its key.
 * `patient_id` stays `patient_id`; a bare `id` becomes `patient_id`. A role of what is referred to stands before
 * it; a table that refers to itself says `parent_` where it has none.
 */
export function referenceNames(
  parent: Table,
  child: Pick<Table, 'id' | 'columns'>,
  policy: Policy = FIRST_POLICY,
  taken: Iterable<string> = child.columns.map((column) => column.name),
  role = parent.id === child.id ? 'parent' : ''
): string[] {
  const used = [...taken]
  return columnsIn(parent, parent.primaryKey?.columns ?? []).map((column) => {
    const own = referenceName(parent, column, policy)
    const name = freeName(role === '' ? own : inCase(behind(role, own), policy.letterCase), used)
    used.push(name)
    return name
  })
}

/** A name behind a role, with what the one ends and the other begins with said once: `other_species_code`. */
function behind(role: string, name: string): string {
  const [before, after] = [wordsOf(role), wordsOf(name)]
  const overlaps = (count: number): boolean =>
    before.slice(-count).every((word, at) => fold(word) === fold(after[at] ?? ''))
  const shared = before.map((_, at) => before.length - at).find(overlaps) ?? 0
  return [...before, ...after.slice(shared)].join('_')
}

const BARE = new Set(['id', 'code', 'no', 'number', 'key', 'name', 'uuid'])

function referenceName(parent: Table, column: Column, policy: Policy): string {
  const bare = BARE.has(fold(column.name))
    ? inCase(`${singular(parent.name)}_${column.name}`, policy.letterCase)
    : column.name
  return fill(policy.reference, { table: parent.name, column: bare })
}

/** The name of the generated key that a table is proposed: `admission_id`. */
export function generatedKeyName(
  table: { name: string; columns: readonly Pick<Column, 'name'>[] },
  policy: Policy = FIRST_POLICY
): string {
  return freeName(
    inCase(fill(policy.key, { table: singular(table.name) }), policy.letterCase),
    table.columns.map((column) => column.name)
  )
}

/** Names for a junction of two tables, the best first: both orders. Taken ones get a number. */
export function junctionNames(design: Design, first: Table, second: Table): string[] {
  const taken = [...directory(design).byName.keys()]
  const name = (one: Table, other: Table): string =>
    inCase(
      fill(design.policy.junction, { first: singular(one.name), second: singular(other.name) }),
      design.policy.letterCase
    )
  return [...new Set([name(first, second), name(second, first)])].map((each) => freeName(each, taken))
}

export interface ConstraintNames {
  primaryKey(table: string): string
  unique(table: string, columns: readonly string[]): string
  foreignKey(table: string, columns: readonly string[]): string
  check(table: string, columns: readonly string[]): string
  index(table: string, columns: readonly string[]): string
}

/** What constraints and indexes are called that nobody named. */
export function constraintNames(policy: Policy): ConstraintNames {
  const named =
    (pattern: string) =>
    (table: string, columns: readonly string[]): string =>
      fill(pattern, { table, columns: columns.join('_') })
  return {
    primaryKey: (table) => fill(policy.primaryKey, { table }),
    unique: named(policy.unique),
    foreignKey: named(policy.foreignKey),
    check: named(policy.check),
    index: named(policy.index)
  }
}
