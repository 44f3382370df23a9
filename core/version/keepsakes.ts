import { columnOf, keysOf, tableOf } from '../design/directory.ts'
import type { ColumnId, Design, Table } from '../design/model.ts'
import { byId } from '../design/by-id.ts'
import type { Fill, Flow } from '../design/carry.ts'
import { saidEmpty, withResults, type RowQuery } from '../design/row-query.ts'
import { BrokenQuery, columnsOf, isComparable } from '../carry/columns.ts'
import { groundOf } from '../carry/ground.ts'
import type { Type } from '../design/type.ts'
import type { Catalog } from '../dialect/catalog.ts'
import type { Keepsake, Place, Refilled } from '../dialect/migration.ts'
import { holdsAll } from './holds.ts'
import { fillsColumn, reachesEveryRow } from './moves.ts'
import type { Warning } from './warnings.ts'

interface Keeping {
  before: Catalog
  after: Catalog
  /** What the way back moves. */
  back: Pick<Flow, 'results' | 'adds'>
  /** What the way back fills from elsewhere, so that it need not be kept. */
  filled: readonly Fill[]
  /** What it fills in part, or numbers in another way than rows may be since. */
  inPart: readonly Fill[]
  /** What this way fills where it is empty, by column: the way back makes it empty again. */
  emptied: ReadonlySet<ColumnId>
  /** Whether this way may be stopped half-way, so that all must be at hand to take it back. */
  isStopped: boolean
  nameFor(table: string): string
}

/**
 * What the way there keeps aside of what it drops or narrows, and what it must count early to find rows
 * again by.
 */
export function findKeepsakes(
  from: Design,
  to: Design,
  { before: old, after: catalog, back, filled, inPart, emptied, isStopped, nameFor }: Keeping
): { keepsakes: Keepsake[]; warnings: Warning[]; early: Place[] } {
  const early: Place[] = []
  const keepsakes: Keepsake[] = []
  const warnings: Warning[] = []
  for (const table of from.tables) {
    const after = tableOf(to, table.id)
    if (table === after || table.external || after?.external) continue
    if (!after) {
      // Rows that hold nothing of their own need no keeping.
      if (table.columns.every((column) => column.computed !== undefined)) continue
      const returns = returnsTo(table, to, back)
      const name = nameFor(table.name)
      keepsakes.push({ name, table: table.id, by: 'table', key: [], columns: [], returns })
      warnings.push({
        table: table.id,
        message: `${table.name} is dropped. Its rows are kept in ${name}.`,
        effect: 'kept'
      })
      continue
    }
    const isLookedUp = (id: string): boolean =>
      filled.some((fill) => fillsColumn(fill, table.id, id) && reachesEveryRow(fill, table))
    const isWrittenAlike = (id: string): boolean =>
      typeIn(old, table.id, id) === typeIn(catalog, table.id, id)
    const columns = lossyColumns(table, after, emptied, isWrittenAlike).flatMap(
      (column): Keepsake['columns'] => {
        const refilled =
          column.why === 'dropped' && refilledBy([...filled, ...inPart], table, column.id, back)
        if (refilled) return [{ ...column, refilled }]
        if (!isLookedUp(column.id)) return [column]
        return isStopped ? [{ ...column, spare: true }] : []
      }
    )
    if (columns.length === 0) continue
    const made = countedKey(table, after, catalog)
    const key = lastingKey(table, after, columns) ?? (made && [made])
    if (made && key?.includes(made) && !early.some((place) => place.column === made))
      early.push({ table: table.id, column: made })
    const found = key
      ? { by: 'key' as const, key }
      : { by: 'row' as const, key: stayingColumns(table, after, columns) }
    const name = nameFor(table.name)
    keepsakes.push({ name, table: table.id, ...found, columns, returns: [] })
    const said = columns.map((column) => `${table.name}.${column.name}`).join(', ')
    const how = key
      ? ''
      : ` No key of ${table.name} outlives the change: rows are known by all that stays of them.`
    warnings.push({
      table: table.id,
      message: `${said}: the values are kept in ${name}.${how}`,
      effect: 'kept'
    })
  }
  return { keepsakes, warnings, early }
}

/** The rows of a table that goes which the way back makes by itself, over the tables that there are then. */
function returnsTo(
  table: Table,
  to: Design,
  { results, adds }: Pick<Flow, 'results' | 'adds'>
): Keepsake['returns'] {
  return adds
    .filter((adding) => adding.table === table.id)
    .flatMap((adding) => {
      const rows = withResults(adding.rows, results)
      const empty = saidEmpty(rows)
      const said = columnsThere(rows, to)?.filter((id) => columnOf(table, id) !== undefined && !empty.has(id))
      const begins = said?.filter((id) => isDefaultOnly(rows, table, id)) ?? []
      const given = said?.filter((id) => !begins.includes(id))
      return given && given.length > 0 ? [{ rows, given, begins }] : []
    })
}

/** Whether rows have nothing in a column but what it begins with, which tells none of them from another. */
function isDefaultOnly(rows: RowQuery, table: Table, id: ColumnId): boolean {
  if (rows.kind === 'union') return rows.of.every((each) => isDefaultOnly(each, table, id))
  if (rows.kind !== 'project') return false
  const [column, begins] = [rows.columns.find((each) => each.id === id), columnOf(table, id)?.default]
  const isBeginning =
    column !== undefined && 'value' in column && begins?.kind === 'value' && begins.value === column.value
  return isBeginning && keysOf(table).every(({ columns }) => !columns.includes(id))
}

/** How the way back fills a column that goes, where it may not be with what it was. */
function refilledBy(
  filled: readonly Fill[],
  table: Table,
  column: ColumnId,
  { results }: Pick<Flow, 'results'>
): Refilled | undefined {
  const isPart = (fill: Fill): boolean => fill.partly === true || !reachesEveryRow(fill, table)
  const fill = filled.find((each) => fillsColumn(each, table.id, column) && isPart(each))
  const taken = fill?.columns.find(({ id }) => id === column)
  return fill && taken && { from: withResults(fill.from, results), column: taken.from, on: fill.on }
}

/** The columns of rows over a design; nothing where they cannot be told from it alone. */
function columnsThere(rows: RowQuery, design: Design): string[] | undefined {
  try {
    return columnsOf(rows, groundOf(design, new Map())).map(({ id }) => id)
  } catch (error) {
    if (error instanceof BrokenQuery) return undefined
    throw error
  }
}

/** The columns of rows that are the same on both sides of the change, and can be compared. */
function stayingColumns(before: Table, after: Table, lossy: Keepsake['columns']): string[] {
  return before.columns
    .filter(
      ({ id, type, computed }) =>
        computed === undefined &&
        columnOf(after, id)?.computed === undefined &&
        columnOf(after, id) !== undefined &&
        isComparable(type) &&
        !lossy.some((column) => column.id === id)
    )
    .map(({ id }) => id)
}

/**
 * The columns that can be put back before anything is read: not those of a list of values, which may not
 * be there yet.
 */
export function keptColumns(from: Design, keepsakes: readonly Keepsake[]): Place[] {
  return keepsakes.flatMap(({ table, columns }) => {
    const before = tableOf(from, table)
    const isList = (id: string): boolean =>
      before?.columns.find((column) => column.id === id)?.type.kind === 'enum'
    return columns
      .filter(({ id, why, spare, refilled }) => why === 'dropped' && !spare && !refilled && !isList(id))
      .map(({ id }) => ({ table, column: id }))
  })
}

/**
 * A new key that the engine counts: rows are found again by it when it is counted before anything is kept.
 */
function countedKey(before: Table, after: Table, catalog: Catalog): string | undefined {
  const generated =
    catalog.tables
      .find((each) => each.id === after.id)
      ?.columns.filter((column) => column.generated && !columnOf(before, column.id)) ?? []
  return generated.find((column) =>
    keysOf(after).some((key) => key.columns.length === 1 && key.columns[0] === column.id)
  )?.id
}

/** The columns of a key by which a row can be found again on the other side of the change. */
function lastingKey(before: Table, after: Table, lossy: Keepsake['columns']): string[] | undefined {
  const lasts = (id: string): boolean =>
    columnOf(before, id)?.required === true &&
    columnOf(after, id) !== undefined &&
    !lossy.some((column) => column.id === id)
  return keysOf(before).find((key) => key.columns.every(lasts))?.columns
}

/** A text stays itself, or the migration stops at it. */
const isText = (...types: Type[]): boolean => types.every(({ kind }) => kind === 'text' || kind === 'char')

/** A column's type as the dialect writes it. */
const typeIn = (catalog: Catalog, table: string, column: string): string | undefined =>
  byId(byId(catalog.tables).get(table)?.columns ?? []).get(column)?.type.sql

function lossyColumns(
  before: Table,
  after: Table,
  emptied: ReadonlySet<ColumnId>,
  isWrittenAlike: (column: ColumnId) => boolean
): Keepsake['columns'] {
  return before.columns.flatMap((column): Keepsake['columns'] => {
    // What is computed is computed again.
    if (column.computed !== undefined) return []
    const now = columnOf(after, column.id)
    if (!now) return [{ id: column.id, name: column.name, why: 'dropped' }]
    const isFilled = (now.required && now.default !== undefined) || emptied.has(column.id)
    const filled = !column.required && isFilled
    const comesBack =
      holdsAll(column.type, now.type) || isText(column.type, now.type) || isWrittenAlike(column.id)
    return comesBack && !filled && now.computed === undefined
      ? []
      : [{ id: column.id, name: column.name, why: 'narrowed' }]
  })
}
