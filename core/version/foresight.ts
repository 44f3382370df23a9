import { columnOf, columnsIn, tableOf } from '../design/directory.ts'
import type { Column, ColumnId, Design, Row, Table, TableId } from '../design/model.ts'
import { partsOfQuery, tablesRead, type RowQuery } from '../design/row-query.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { rowLabel } from '../relate/label.ts'
import { compareDesigns } from './compare.ts'
import { schemaDelta } from './delta.ts'
import { fillsColumn } from './moves.ts'
import { waysBetween } from './ways.ts'

/** What a change would do, seen before it is done. */

/** What taking a change back later would cost. */
export interface Price {
  kind: 'free' | 'rows moved' | 'knowledge lost'
  /** What of a database's rows would have no place any more, and be kept aside. */
  loses: string[]
}

/** Some rows of a table, as a person reads them. */
export interface SampleRows {
  table: string
  columns: string[]
  rows: string[][]
  /** How many there are besides. */
  more: number
}

/** A table before and after; one of both is missing where it comes or goes. */
export interface TableForesight {
  id: TableId
  before: SampleRows | undefined
  after: SampleRows | undefined
}

const MOST_ROWS = 4
const MOST_COLUMNS = 4

/** What changes, in sentences. */
export const foreseenWords = (from: Design, to: Design): string[] => [
  ...new Set(compareDesigns(from, to).map(({ sentence }) => sentence))
]

/** The tables that a change is about, with rows of them before and after. */
export function foreseenRows(from: Design, to: Design): TableForesight[] {
  return touchedTables(from, to).map((id) => {
    const [before, after] = [tableOf(from, id), tableOf(to, id)]
    const other = (one: Table | undefined, two: Table | undefined): Set<ColumnId> =>
      new Set(one?.columns.map((column) => column.id).filter((column) => !two || !columnOf(two, column)))
    return {
      id,
      before: before && sample(from, before, other(before, after)),
      after: after && sample(to, after, other(after, before))
    }
  })
}

/** The tables of which anything changes but where they stand: those that go, those that stay, those that come. */
export function touchedTables(from: Design, to: Design): TableId[] {
  const ids = schemaDelta(from, to).flatMap(({ part, table }) =>
    part === 'order' || table === '' ? [] : [table]
  )
  return [...new Set(ids)]
}

/** The columns that come or go first, then the key, then what else there is room for. */
function sample(design: Design, table: Table, changed: ReadonlySet<ColumnId>): SampleRows {
  const key = columnsIn(table, table.primaryKey?.columns ?? [])
  const told = [...key, ...table.columns.filter(({ id }) => changed.has(id)), ...table.columns]
  const columns = [...new Set(told)].slice(0, MOST_COLUMNS)
  const shown = table.columns.filter((column) => columns.includes(column))
  return {
    table: table.name,
    columns: shown.map(({ name }) => name),
    rows: table.rows
      .slice(0, MOST_ROWS)
      .map((row) => shown.map((column) => cell(design, table, column, row))),
    more: Math.max(table.rows.length - MOST_ROWS, 0)
  }
}

/** A value; of a reference with what it leads to, since a number says nothing to a person. */
function cell(design: Design, table: Table, column: Column, row: Row): string {
  const value = row[column.id]
  if (value === null || value === undefined) return '–'
  const key = table.foreignKeys.find(({ pairs }) => pairs.at(-1)?.column === column.id)
  const parent = key && tableOf(design, key.table)
  const led = parent?.rows.find((each) =>
    key?.pairs.every((pair) => each[pair.refersTo] === row[pair.column])
  )
  const label = parent && led ? rowLabel(design, parent, led) : undefined
  return label === undefined || label === String(value) ? String(value) : `${String(value)} ${label}`
}

/** What it would cost to go back from the second state to the first, once a database has rows of the second. */
export function priceOf(from: Design, to: Design, dialect: Dialect): Price {
  const { up } = waysBetween(to, from, dialect)
  const { fills, adds, results } = up.moves.flow
  const whole = new Map(results.map(({ name, query }) => [name, query]))
  const chooses = (query: RowQuery): boolean => {
    const result = query.kind === 'result' ? whole.get(query.name) : undefined
    return query.kind === 'first' || (result ? chooses(result) : partsOfQuery(query).some(chooses))
  }
  const reads = (query: RowQuery): string[] => [
    ...tablesRead(query),
    ...[query, ...partsOfQuery(query)].flatMap((part) => {
      const result = part.kind === 'result' ? whole.get(part.name) : undefined
      return result ? reads(result) : []
    })
  ]
  const comesAlong = (table: TableId): boolean =>
    fills.some((fill) => !chooses(fill.from) && reads(fill.from).includes(table)) ||
    adds.some(({ rows }) => !chooses(rows) && reads(rows).includes(table))
  const loses = up.input.keep.flatMap(({ table: id, by, columns }): string[] => {
    const table = tableOf(to, id)
    if (!table) return []
    if (by === 'table') return comesAlong(id) ? [] : [table.name]
    return columns
      .filter((column) => !column.spare && !isIdle(table, column.id, up.moves.flow.fills))
      .map((column) => `${table.name}.${column.name}`)
  })
  if (loses.length > 0) return { kind: 'knowledge lost', loses }
  const isMoved = fills.length + adds.length > 0
  return { kind: isMoved ? 'rows moved' : 'free', loses: [] }

  /** A number that the engine gives, or what is moved elsewhere whole, says nothing that is lost. */
  function isIdle(table: Table, column: ColumnId, given: typeof fills): boolean {
    const own = columnOf(table, column)
    const isNumber = own?.default?.kind === 'generated' || isReference(table, column)
    const isRead = given.some(
      (fill) =>
        !chooses(fill.from) &&
        !fillsColumn(fill, table.id, column) &&
        JSON.stringify([fill.from, fill.columns, fill.on]).includes(`"${column}"`)
    )
    const isAdded = adds.some(({ rows }) => JSON.stringify(rows).includes(`"${column}"`))
    return isNumber || isRead || isAdded
  }
}

const isReference = (table: Table, column: ColumnId): boolean =>
  table.foreignKeys.some(({ pairs }) => pairs.some((pair) => pair.column === column))

/** A price in words. */
export function sayPrice({ kind, loses }: Price): string {
  switch (kind) {
    case 'free':
      return 'Taking it back later is free: no row is moved.'
    case 'rows moved':
      return 'Taking it back later moves rows, and loses nothing.'
    case 'knowledge lost':
      return `Taking it back later has no place for all that ${loses.join(', ')} may say by then: the rest is kept aside.`
  }
}
