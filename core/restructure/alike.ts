import { isComparable } from '../carry/columns.ts'
import { columnsIn, fold, namesIn, sameSet } from '../design/directory.ts'
import { renameColumns } from '../design/expressions.ts'
import {
  newId,
  type Check,
  type Column,
  type ColumnId,
  type ForeignKey,
  type Index,
  type Key,
  type Table
} from '../design/model.ts'
import { sameType } from '../design/type.ts'
import { withoutPrefix } from '../naming/names.ts'
import { said } from './queries.ts'
import { stuck } from './restructuring.ts'

/** Tables of one shape: whether they are, and what one in their place holds its rows to. */

/** Whether two tables have the same columns, by name and type, the same key and the same references. */
export function isAlike(one: Table, other: Table): boolean {
  if (other.external || one.columns.length !== other.columns.length) return false
  if (!one.primaryKey || !other.primaryKey) return false
  if (!isFit(one) || !isFit(other)) return false
  const pairs = pairsOf(one, other)
  if (!pairs) return false
  const own = one.primaryKey.columns.map((id) => pairs.get(id) ?? '')
  return sameSet(own, other.primaryKey.columns) && refersAlike(one, other, pairs)
}

/** Whether all of a table can stand in another: nothing is computed, and nothing is numbered but a key. */
function isFit(table: Table): boolean {
  const key = table.primaryKey?.columns ?? []
  const isPlain = (column: Column): boolean =>
    column.computed === undefined &&
    (column.default?.kind !== 'generated' || (isNumbered(column) && sameSet(key, [column.id])))
  return table.columns.every(isPlain) && columnsIn(table, key).every(({ type }) => isComparable(type))
}

export const isNumbered = ({ type, default: begins }: Column): boolean =>
  type.kind === 'integer' && begins?.kind === 'generated'

/** The columns of the other table by those of the first, matched by what they are called without their table. */
export function pairsOf(one: Table, other: Table): Map<ColumnId, ColumnId> | undefined {
  const pairs = new Map<ColumnId, ColumnId>()
  for (const column of one.columns) {
    const found = other.columns.find((each) => unprefixed(other, each) === unprefixed(one, column))
    const isSame = found && sameType(found.type, column.type) && isNumbered(found) === isNumbered(column)
    if (!isSame) return undefined
    pairs.set(column.id, found.id)
  }
  return new Set(pairs.values()).size === one.columns.length ? pairs : undefined
}

export const unprefixed = (table: Table, { name }: Column): string =>
  withoutPrefix(fold(table.name), fold(name))

function refersAlike(one: Table, other: Table, pairs: ReadonlyMap<ColumnId, ColumnId>): boolean {
  const refers = (key: ForeignKey, column: (id: ColumnId) => ColumnId): string =>
    JSON.stringify([key.key, key.pairs.map((pair) => [column(pair.column), pair.refersTo])])
  const own = one.foreignKeys.map((key) => refers(key, (id) => pairs.get(id) ?? ''))
  return sameSet(
    own,
    other.foreignKeys.map((key) => refers(key, (id) => id))
  )
}

/** A table whose rows come to stand among others: its columns by the new ones, and how its rows are known there. */
export interface MergedTable {
  table: Table
  columns: ReadonlyMap<ColumnId, ColumnId>
  /** What tells them from those of the other tables. */
  value: string
}

const becoming = ({ columns }: MergedTable) => {
  const now = new Map([...columns].map(([to, from]) => [from, to]))
  return (id: ColumnId): ColumnId => now.get(id) ?? id
}

/** The unique keys that all have, each within what tells them apart. @throws Stuck where only some have one */
export function uniquesOf(parts: readonly MergedTable[], kind: ColumnId): Key[] {
  const [first, ...others] = parts
  if (!first) return []
  const keysIn = (part: MergedTable): ColumnId[][] =>
    part.table.uniques.map(({ columns }) => columns.map(becoming(part)))
  const keys = keysIn(first)
  for (const other of others) {
    mustHaveAll(keys, first, other)
    mustHaveAll(keysIn(other), other, first)
  }
  return keys.map((columns) => ({ id: newId('k'), columns: [kind, ...columns] }))
}

function mustHaveAll(keys: readonly ColumnId[][], one: MergedTable, other: MergedTable): void {
  const has = (columns: readonly ColumnId[]): boolean =>
    other.table.uniques.some((key) => sameSet(key.columns.map(becoming(other)), columns))
  const missing = keys.find((columns) => !has(columns))
  if (!missing) return
  const names = namesIn(
    one.table,
    missing.map((id) => one.columns.get(id) ?? id)
  )
  stuck(
    `No two rows of ${one.table.name} have the same ${names}, and rows of ${other.table.name} may. Make it so in both, or in neither.`
  )
}

/** The checks of each: one that all have as it is, one that only some have for their rows alone. */
export function checksOf(parts: readonly MergedTable[], kind: ColumnId): Check[] {
  const conditionsIn = (part: MergedTable): string[] =>
    part.table.checks.map(({ condition }) => renameColumns(condition, becoming(part)))
  const conditions = [...new Set(parts.flatMap(conditionsIn))]
  return conditions.map((condition) => {
    const held = parts.filter((part) => conditionsIn(part).includes(condition))
    const isOfNone = held.map(({ value }) => `{${kind}} <> ${said(value)}`).join(' and ')
    const isEverywhere = held.some(({ table }) => table.checks.some(({ everywhere }) => everywhere))
    return {
      id: newId('x'),
      condition: held.length === parts.length ? condition : `${isOfNone} or (${condition})`,
      ...(isEverywhere && { everywhere: true as const })
    }
  })
}

/** The indexes of all, each once; one that is unique is so within what tells them apart. */
export function indexesOf(parts: readonly MergedTable[], kind: ColumnId): Index[] {
  const all = parts.flatMap((part) =>
    part.table.indexes.map(({ id: _, name: __, where, ...index }) => {
      const columns = index.columns.map((each) => ({ ...each, column: becoming(part)(each.column) }))
      return {
        ...index,
        columns: index.unique ? [{ column: kind, descending: false }, ...columns] : columns,
        ...(where !== undefined && { where: renameColumns(where, becoming(part)) })
      }
    })
  )
  const distinct = new Map(all.map((index) => [JSON.stringify(index), index]))
  return [...distinct.values()].map((index) => ({ id: newId('i'), ...index }))
}

/** Refuses a table whose rows not everybody may see: what says so would be gone. @throws Stuck */
export function mustBeOpen({ name, rowPolicies }: Table): void {
  if (rowPolicies.length > 0)
    stuck(`${name} says who may see which of its rows, and that would be gone. Take it out first.`)
}
