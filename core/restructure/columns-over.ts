import { keysOf, referencesTo } from '../design/directory.ts'
import { columnsUsed, renameColumns } from '../design/expressions.ts'
import { newId, type Column, type ColumnId, type Design, type Table, type TableId } from '../design/model.ts'
import type { Operation } from '../edit/operation.ts'
import { freeName } from '../naming/names.ts'
import { stuck, type Restructuring } from './restructuring.ts'

/** Columns of one table as they are to stand in another, by the ids that they had. */
export type Over = ReadonlyMap<ColumnId, Column>

/**
 * Columns of a table as new ones of another.
 * @param taken names that the other table has
 * @param required what is required there; what was required stays so where it is left out
 * @param called what each is called there; as it is called here where it is left out
 */
export function columnsOver(
  columns: readonly Column[],
  taken: readonly string[],
  required?: (column: Column) => boolean,
  called?: (column: Column) => string
): Over {
  const names = [...taken]
  const over = new Map<ColumnId, Column>()
  for (const column of columns) {
    const name = freeName(called?.(column) ?? column.name, names)
    names.push(name)
    const { copied: _, default: begins, ...plain } = column
    const holds = (required ?? isRequired)(column)
    // Where it may be empty now, nothing is put there that nobody said.
    const keeps = begins !== undefined && (holds || !column.required)
    over.set(column.id, {
      ...plain,
      id: newId('c'),
      name,
      required: holds,
      ...(keeps && { default: begins })
    })
  }
  return over
}

/** What adds them to the other table. */
export const adding = (table: Table, over: Over): Operation[] =>
  [...over.values()].map((column): Operation => ({ kind: 'column.add', table: table.id, column }))

const isRequired = ({ required }: Column): boolean => required

/** The columns of a table that may go elsewhere: not computed, counted, in a key, or part of a reference to it. */
export function freeColumns(design: Design, table: Table): Column[] {
  const held = new Set([
    ...keysOf(table).flatMap(({ columns }) => columns),
    ...referencesTo(design, table.id).flatMap(({ foreignKey }) =>
      foreignKey.pairs.map((pair) => pair.refersTo)
    )
  ])
  return table.columns.filter(
    ({ id, computed, default: begins }) =>
      !held.has(id) && computed === undefined && begins?.kind !== 'generated'
  )
}

/**
 * The references, checks and indexes that stand on these columns alone go with them; what they stood on is
 * gone after that. Both tables have the columns by now, and the rows in them.
 * @throws Stuck where something else needs one of them
 */
export function goOver(restructuring: Restructuring, from: TableId, to: TableId, over: Over): void {
  rulesOver(restructuring, from, to, over)
  leave(restructuring, from, [...over.keys()])
}

/**
 * References, checks and indexes that stand on the columns alone, made on the other table. A row of it is not
 * deleted with what one of its facts refers to.
 */
export function rulesOver(restructuring: Restructuring, from: TableId, to: TableId, over: Over): void {
  const table = restructuring.table(from)
  const other = (id: ColumnId): ColumnId => over.get(id)?.id ?? id
  const isWhole = (ids: readonly ColumnId[]): boolean => ids.length > 0 && ids.every((id) => over.has(id))
  const on = { table: to }
  for (const key of table.foreignKeys.filter(({ pairs }) => isWhole(pairs.map(({ column }) => column)))) {
    const pairs = key.pairs.map((pair) => ({ ...pair, column: other(pair.column) }))
    const mayBeEmpty = key.pairs.every(({ column }) => over.get(column)?.required === false)
    const onDelete = key.onDelete === 'CASCADE' ? (mayBeEmpty ? 'SET NULL' : 'RESTRICT') : key.onDelete
    restructuring.do({
      kind: 'foreignKey.add',
      ...on,
      foreignKey: { ...key, id: newId('f'), pairs, onDelete, name: undefined }
    })
  }
  for (const check of table.checks.filter(({ condition }) => isWhole(columnsUsed(condition)))) {
    const condition = renameColumns(check.condition, other)
    restructuring.do({
      kind: 'check.add',
      ...on,
      check: { ...check, id: newId('x'), condition, name: undefined }
    })
  }
  for (const index of table.indexes) {
    const used = [...index.columns.map(({ column }) => column), ...columnsUsed(index.where ?? '')]
    if (!isWhole(used)) continue
    const columns = index.columns.map((each) => ({ ...each, column: other(each.column) }))
    const where = index.where === undefined ? {} : { where: renameColumns(index.where, other) }
    restructuring.do({
      kind: 'index.add',
      ...on,
      index: { ...index, ...where, id: newId('i'), columns, name: undefined }
    })
  }
}

/** Columns go, with what stands on them alone. @throws Stuck where something else needs one of them */
export function leave(restructuring: Restructuring, from: TableId, columns: readonly ColumnId[]): void {
  const table = restructuring.table(from)
  const isWhole = (ids: readonly ColumnId[]): boolean =>
    ids.length > 0 && ids.every((id) => columns.includes(id))
  const on = { table: from }
  const removals: Operation[] = [
    ...table.foreignKeys
      .filter(({ pairs }) => isWhole(pairs.map(({ column }) => column)))
      .map(({ id }): Operation => ({ kind: 'foreignKey.remove', ...on, foreignKey: id })),
    ...table.checks
      .filter(({ condition }) => isWhole(columnsUsed(condition)))
      .map(({ id }): Operation => ({ kind: 'check.remove', ...on, check: id })),
    ...table.indexes
      .filter((index) =>
        isWhole([...index.columns.map(({ column }) => column), ...columnsUsed(index.where ?? '')])
      )
      .map(({ id }): Operation => ({ kind: 'index.remove', ...on, index: id }))
  ]
  restructuring.do(
    ...removals,
    ...columns.map((column): Operation => ({ kind: 'column.remove', ...on, column }))
  )
}

/** Refuses a table to which others refer, by name. */
export function mustBeAlone(
  { design }: Restructuring,
  table: Table,
  why: string,
  but: readonly TableId[] = []
): void {
  const others = referencesTo(design, table.id).filter(
    (each) => !but.includes(each.table.id) && each.table.id !== table.id
  )
  const names = [...new Set(others.map((each) => each.table.name))]
  if (names.length > 0)
    stuck(
      `${names.join(' and ')} ${names.length === 1 ? 'refers' : 'refer'} to ${table.name}, ${why}. Take that out first.`
    )
}
