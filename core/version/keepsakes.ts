import { columnOf, keysOf, tableOf } from '../design/directory.ts'
import type { ColumnId, Design, Table } from '../design/model.ts'
import { byId } from '../design/by-id.ts'
import type { Fill, Flow } from '../design/carry.ts'
import {
  mapQuery,
  partsOfQuery,
  saidEmpty,
  withResults,
  type RowQuery,
  type TypedColumn
} from '../design/row-query.ts'
import type { Composed } from '../carry/compose.ts'
import { BrokenQuery, columnsOf, isComparable } from '../carry/columns.ts'
import { groundOf } from '../carry/ground.ts'
import type { Type } from '../design/type.ts'
import type { Value } from '../design/value.ts'
import type { Catalog } from '../dialect/catalog.ts'
import type { Keepsake, ColumnOfTable, Refilled, NumberFacts } from '../dialect/migration.ts'
import { numbersIn } from '../dialect/kept-numbers.ts'
import { holdsAll } from './holds.ts'
import { fillsColumn, isFilled, reachesEveryRow } from './moves.ts'
import type { Warning } from './warnings.ts'

interface Keeping {
  before: Catalog
  after: Catalog
  /** What this way moves. */
  there: Composed
  /** What the way back moves. */
  back: Composed
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
  { before: old, after: catalog, there, back, filled, inPart, emptied, isStopped, nameFor }: Keeping
): { keepsakes: Keepsake[]; warnings: Warning[]; early: ColumnOfTable[] } {
  const early: ColumnOfTable[] = []
  const keepsakes: Keepsake[] = []
  const warnings: Warning[] = []
  for (const table of from.tables) {
    const after = tableOf(to, table.id)
    if (table === after || table.external || after?.external) continue
    if (!after) {
      // Rows that hold nothing of their own need no keeping.
      if (table.columns.every((column) => column.computed !== undefined)) continue
      const told = toldOf(table, from, to, there, back)
      const returns = returnsTo(table, to, back, told)
      const name = nameFor(table.name)
      keepsakes.push({
        name,
        table: table.id,
        by: 'table',
        key: [],
        columns: [],
        returns,
        ...(told && { told })
      })
      warnings.push({
        table: table.id,
        message: `${table.name} is dropped. Its rows are kept in ${name}.`,
        effect: 'kept'
      })
      continue
    }
    const isLookedUp = (id: string): boolean =>
      filled.some((fill) => fillsColumn(fill, table.id, id) && reachesEveryRow(fill, table))
    const refill = refilledBy([...filled, ...inPart], table, back, lastingKey(table, after, []) !== undefined)
    const isWrittenAlike = (id: string): boolean =>
      typeIn(old, table.id, id) === typeIn(catalog, table.id, id)
    const columns = lossyColumns(table, after, emptied, isWrittenAlike).flatMap(
      (column): Keepsake['columns'] => {
        const refilled = column.why === 'dropped' && refill(column.id)
        if (refilled) return [{ ...column, refilled }]
        if (!isLookedUp(column.id)) return [column]
        return isStopped ? [{ ...column, spare: true }] : []
      }
    )
    if (columns.length === 0) continue
    const made = countedKey(table, after, catalog)
    const staying = lastingKey(table, after, columns) ?? (made && [made])
    const coming = staying ? undefined : filledKey(table, after, columns, there)
    const key = staying ?? coming
    if (made && key?.includes(made) && !early.some((place) => place.column === made))
      early.push({ table: table.id, column: made })
    const found = key
      ? { by: 'key' as const, key }
      : { by: 'row' as const, key: stayingColumns(table, after, columns) }
    const name = nameFor(table.name)
    keepsakes.push({ name, table: table.id, ...found, columns, returns: [], ...(coming && { late: true }) })
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
  { results, adds }: Pick<Flow, 'results' | 'adds'>,
  standsFor: NumberFacts | undefined
): Keepsake['returns'] {
  return adds
    .filter((adding) => adding.table === table.id)
    .flatMap((adding) => {
      const rows = withResults(adding.rows, results)
      const empty = saidEmpty(rows)
      const there = columnsThere(rows, to) ?? []
      const said = there.filter((id) => columnOf(table, id) !== undefined && !empty.has(id))
      const begins = said.filter((id) => isDefaultOnly(rows, table, id))
      const given = said.filter((id) => !begins.includes(id))
      const told = standsFor?.columns.map(({ id }) => id).filter((id) => there.includes(id)) ?? []
      return given.length > 0 ? [{ rows, given, begins, ...(told.length > 0 && { told }) }] : []
    })
}

/**
 * What the numbers stand for that the way back gives the rows of a table, where the table itself does not say all of
 * it: as it was told in other tables before this way. Nothing where it says so itself, or nobody does.
 */
function toldOf(table: Table, from: Design, to: Design, there: Composed, back: Composed): Keepsake['told'] {
  const own = there.tables.get(table.id)?.own
  const rows = own && withResults(own, there.everyResult)
  const known = rows ? typedThere(rows, from) : undefined
  if (!rows || !known) return undefined
  const numberings = back.adds
    .filter((adding) => adding.table === table.id)
    .flatMap((adding) => numberingsIn(withResults(adding.rows, back.everyResult)))
    .filter(({ as }) => columnOf(table, as)?.default?.kind === 'generated')
  for (const { as, of } of numberings) {
    const elsewhere = (columnsThere(of, to) ?? []).filter((id) => columnOf(table, id) === undefined)
    const columns = elsewhere.flatMap((id) => known.find((each) => each.id === id) ?? [])
    const isTold = columns.length > 0 && columns.length === elsewhere.length
    if (isTold && known.some(({ id }) => id === as))
      return {
        rows,
        number: as,
        columns: columns.map(({ id, type }) => {
          const empty = filledWith(of, id, to)
          return { id, type: lasting(type), ...(empty !== undefined && { empty }) }
        })
      }
  }
  return undefined
}

/** What a column that a query gives begins with where rows come with nothing in it; nothing where they may have none. */
function filledWith(query: RowQuery, id: ColumnId, design: Design): Value | undefined {
  if (query.kind === 'project') {
    const column = query.columns.find((each) => each.id === id)
    return column && 'from' in column ? filledWith(query.of, column.from, design) : undefined
  }
  if (query.kind === 'distinct' || query.kind === 'filter' || query.kind === 'first')
    return filledWith(query.of, id, design)
  const table = query.kind === 'table' ? tableOf(design, query.table) : undefined
  const column = table && columnOf(table, id)
  const begins = column?.required ? column.default : undefined
  return begins?.kind === 'value' ? begins.value : undefined
}

/** A list of values may be gone by the time that is asked for; its values are kept as texts. */
const lasting = (type: Type): Type => (type.kind === 'enum' ? { kind: 'text' } : type)

/** Where rows are numbered in a query. */
function numberingsIn(query: RowQuery): Extract<RowQuery, { kind: 'number' }>[] {
  return [...(query.kind === 'number' ? [query] : []), ...partsOfQuery(query).flatMap(numberingsIn)]
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

/**
 * How the way back fills a column that goes, where it may not be with what it was: nothing was there for some rows, or
 * one of several was.
 * @param isKeyed whether rows of the table are found again by a key
 */
function refilledBy(
  filled: readonly Fill[],
  table: Table,
  { results }: Pick<Flow, 'results'>,
  isKeyed: boolean
): (column: ColumnId) => Refilled | undefined {
  const own = filled
    .filter((fill) => fill.table === table.id)
    .map((fill) => {
      const from = withResults(fill.from, results)
      const among = isKeyed && !fill.partly ? amongWhich(from, fill) : undefined
      return { fill, by: { from, on: fill.on, ...(among && { among }) } }
    })
    .filter(({ fill, by }) => fill.partly || by.among || !reachesEveryRow(fill, table))
  return (column) => {
    const found = own.find(({ fill }) => fillsColumn(fill, table.id, column))
    const taken = found?.fill.columns.find(({ id }) => id === column)
    return found && taken && { by: found.by, column: taken.from }
  }
}

/** All rows of which a query takes the first, where it does; a number that is given anew tells nothing there. */
function amongWhich(from: RowQuery, { columns }: Fill): RowQuery | undefined {
  if (columns.some((column) => numbersIn(from, column.from))) return undefined
  const all = mapQuery(from, (part) => (part.kind === 'first' ? part.of : part))
  return all === from || !takesFirst(from) ? undefined : all
}

const takesFirst = (query: RowQuery): boolean =>
  query.kind === 'first' || partsOfQuery(query).some(takesFirst)

/** The columns of rows over a design; nothing where they cannot be told from it alone. */
const columnsThere = (rows: RowQuery, design: Design): string[] | undefined =>
  typedThere(rows, design)?.map(({ id }) => id)

/** {@link columnsThere}, with their types. */
function typedThere(rows: RowQuery, design: Design): readonly TypedColumn[] | undefined {
  try {
    return columnsOf(rows, groundOf(design, new Map()))
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
export function keptColumns(from: Design, keepsakes: readonly Keepsake[]): ColumnOfTable[] {
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

/**
 * The columns of a key by which a row can be found again on the other side of the change. A key that comes is as good
 * as one that stays: where rows agree in it, the way stops.
 */
function lastingKey(before: Table, after: Table, lossy: Keepsake['columns']): string[] | undefined {
  const lasts = (id: string): boolean =>
    columnOf(before, id)?.required === true &&
    columnOf(after, id) !== undefined &&
    !lossy.some((column) => column.id === id)
  return [...keysOf(before), ...keysOf(after)].find((key) => key.columns.every(lasts))?.columns
}

/**
 * The columns of a key that this way fills in: a row can be found again by it once that is done, as long as what is
 * kept is still there then.
 */
function filledKey(
  before: Table,
  after: Table,
  lossy: Keepsake['columns'],
  there: Composed
): string[] | undefined {
  if (lossy.some(({ why }) => why !== 'dropped')) return undefined
  const isThere = (id: string): boolean => {
    const [own, now] = [columnOf(before, id), columnOf(after, id)]
    if (!now?.required || now.computed !== undefined) return false
    return own ? own.required && own.computed === undefined : isFilled(there, after.id, id)
  }
  return keysOf(after).find((key) => key.columns.every(isThere))?.columns
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
