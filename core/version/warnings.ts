import { columnOf, columnsIn, keysOf, tableOf } from '../design/directory.ts'
import type { Column, ColumnId, Design, Key, Table } from '../design/model.ts'
import { byId } from '../design/by-id.ts'
import { tablesRead, withResults } from '../design/row-query.ts'
import { typeText, type Type } from '../design/type.ts'
import type { Catalog, CatalogTable } from '../dialect/catalog.ts'
import type { Keepsake } from '../dialect/migration.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { sayTable } from '../dialect/qualified.ts'
import type { Step } from '../dialect/step.ts'
import { isOf, type Alteration } from './delta.ts'
import { holdsAll } from './holds.ts'
import { isFilled, RowsAfter, type AddedRows, type Moves } from './moves.ts'

/**
 * Something that a person should know before a migration runs. `kept`: data leaves its place and is kept
 * aside; `lost`: data goes for good; `stops`: the migration fails where the table has rows; `empty`: rows
 * that are there have nothing where new ones get something; `told`: nothing is amiss, and yet not quite as one
 * may think.
 */
export interface Warning {
  table: string
  message: string
  effect: 'kept' | 'lost' | 'stops' | 'empty' | 'told'
  /** The column that would be well with something filled in, in rows that are there. */
  fills?: ColumnId
}

/** What must hold of the rows that are there, without which nothing is moved. */
export function stopsWhere({ flow, grown }: Moves): Warning[] {
  return flow.requires.flatMap(({ query, says }): Warning[] => {
    const [table] = tablesRead(withResults(query, flow.everyResult)).flatMap((id) => tableOf(grown, id) ?? [])
    const message = `The migration stops, before it changes anything, where this is so: ${says}`
    return table ? [{ table: table.id, message, effect: 'stops' }] : []
  })
}

/** Columns whose type changes to one that not every value can be turned into. */
export function unconvertible(delta: readonly Alteration[], from: Design, to: Design): Warning[] {
  return delta.flatMap((alteration): Warning[] => {
    if (!isOf('column', alteration) || alteration.kind !== 'changed' || alteration.aspect !== 'type')
      return []
    const { before: old, after: column } = alteration
    const table = tableOf(to, alteration.table)
    if (!table || holdsAll(old.type, column.type)) return []
    const isText = column.type.kind === 'text' || column.type.kind === 'char'
    if (isText) return tooLong(table, old, column)
    if (isSame(old.type, column.type, 'timestamp')) return [zoned(table, column)]
    const [was, is] = [typeText(old.type, from.enums), typeText(column.type, to.enums)]
    const message = `${table.name}.${column.name} changes from ${was} to ${is}: the migration stops at a value that cannot be turned into one.`
    return [{ table: table.id, message, effect: 'stops' }]
  })
}

const isSame = (one: Type, other: Type, kind: Type['kind']): boolean =>
  one.kind === kind && other.kind === kind

/** A moment that gets a zone, or has none any more. */
function zoned(table: Table, { name, type }: Column): Warning {
  const hasZone = type.kind === 'timestamp' && type.zone
  const message = hasZone
    ? `${table.name}.${name} gets a zone: what it has is taken as it is in UTC.`
    : `${table.name}.${name} has no zone any more: it is what it was in UTC.`
  return { table: table.id, message, effect: 'told' }
}

/** New columns that stand behind those that were there, where the engine puts none in between. */
export function standLast(
  steps: readonly Step[],
  before: Catalog,
  after: Catalog,
  dialect: Dialect
): Warning[] {
  if (dialect.inPlace.ordersColumns) return []
  const had = byId(before.tables)
  const grown = new Set(steps.flatMap((step) => (step.kind === 'addColumn' ? [step.table] : [])))
  return after.tables
    .filter(({ id }) => grown.has(id))
    .flatMap((table): Warning[] => {
      const known = byId(had.get(table.id)?.columns ?? [])
      const firstNew = table.columns.findIndex(({ id }) => !known.has(id))
      const isBetween = table.columns.slice(firstNew).some(({ id }) => known.has(id))
      if (firstNew < 0 || !isBetween) return []
      const message = `In ${sayTable(table.name)} the columns that come stand behind the others, and not as they do in the design: ${dialect.title} puts none in between.`
      return [{ table: table.id, message, effect: 'told' }]
    })
}

/** Texts that are longer than their column is to be: nothing is cut. */
function tooLong(table: Table, old: Column, column: Column): Warning[] {
  const length = (type: Type): number =>
    type.kind === 'text' || type.kind === 'char' ? (type.length ?? Infinity) : 40
  const most = length(column.type)
  if (most >= length(old.type)) return []
  const message = `${table.name}.${column.name} is to hold ${most} characters: the migration stops at a value that is longer.`
  return [{ table: table.id, message, effect: 'stops' }]
}

/**
 * What rows that come into a table may not meet there: a key that nothing kept apart before, a column that
 * gets nothing.
 */
export function carriedIn(from: Design, to: Design, moves: Moves, catalog: Catalog): Warning[] {
  const rows = new RowsAfter(moves)
  return to.tables.flatMap((table): Warning[] => {
    const made = byId(catalog.tables).get(table.id)
    return rows.added(table.id).flatMap((part) => {
      const names = part.sources.flatMap((id) => tableOf(from, id)?.name ?? [])
      const source = names.join(' and ') || 'a list'
      const empty = emptyColumns(table, part, made).map((column) =>
        part.columns.has(column.id) ? mayBeEmpty(table, column, source) : isEmpty(table, column, source)
      )
      const doubled = keysOf(table)
        .filter((key) => key.columns.every((id) => part.columns.has(id)))
        .filter((key) => !part.unique.some((set) => set.every((id) => key.columns.includes(id))))
      return [...empty, ...doubled.map((key) => mayBeDoubled(table, key, source))]
    })
  })
}

/** Required columns that rows that come may have nothing in, and the engine neither. */
function emptyColumns(table: Table, part: AddedRows, made: CatalogTable | undefined): Column[] {
  const isGiven = (id: string): boolean =>
    made?.columns.some(
      (each) =>
        each.id === id && (each.generated || each.default !== undefined || each.computed !== undefined)
    ) ?? false
  return table.columns.filter(
    (column) =>
      column.required && !part.filled.has(column.id) && (part.columns.has(column.id) || !isGiven(column.id))
  )
}

const isEmpty = (table: Table, column: Column, source: string): Warning => ({
  table: table.id,
  message: `${table.name}.${column.name} is required and has no default, and the rows that are carried from ${source} bring nothing for it: the migration stops at the first. Give it a default, or let it be empty first.`,
  effect: 'stops'
})

const mayBeEmpty = (table: Table, column: Column, source: string): Warning => ({
  table: table.id,
  message: `${table.name}.${column.name} is required: the migration stops at a row that is carried from ${source} and has nothing in it. Let it be empty, or fill what it comes from.`,
  effect: 'stops'
})

function mayBeDoubled(table: Table, key: Key, source: string): Warning {
  const names = columnsIn(table, key.columns).map((column) => column.name)
  const message = `${names.join(', ')} is a key of ${table.name}: the migration stops where ${source} has the same twice.`
  return { table: table.id, message, effect: 'stops' }
}

/** What was to be carried and cannot be said over the tables that there are. */
export function leftOut({ flow }: Moves): Warning[] {
  return flow.left.map(({ why }) => ({
    table: '',
    message: `Something that was to be carried is not: ${why}`,
    effect: 'lost'
  }))
}

/** Columns that become required with nothing, or nothing fitting, to put into the rows that exist. */
export function unfillable(
  from: Design,
  to: Design,
  catalog: Catalog,
  moves: Moves,
  restored: readonly Keepsake[] = []
): Warning[] {
  // Whether the engine fills a column by itself is the catalog's to say: not every dialect counts every
  // column.
  const filled = new Set(
    catalog.tables.flatMap((table) =>
      table.columns
        .filter((column) => column.generated || column.default !== undefined)
        .map((column) => column.id)
    )
  )
  const rows = new RowsAfter(moves)
  return to.tables.flatMap((table) => {
    const before = tableOf(from, table.id)
    if (!before || before === table) return []
    return table.columns
      .filter((column) => column.required || column.default)
      .flatMap((column): Warning[] => {
        const old = columnOf(before, column.id)
        const kept = restored.some((keepsake) => keepsake.columns.some((each) => each.id === column.id))
        if (
          !old &&
          !kept &&
          column.default &&
          column.default.kind !== 'generated' &&
          keysOf(table).some((key) => key.columns.every((id) => id === column.id || !columnOf(before, id)))
        ) {
          return [{ table: table.id, ...allTheSame(table, column) }]
        }
        if (!column.required || filled.has(column.id) || rows.filled(table.id).has(column.id)) return []
        return [
          {
            table: table.id,
            ...(!kept && { fills: column.id }),
            ...(old || isFilled(moves.flow, table.id, column.id)
              ? nowRequired(table, column)
              : kept
                ? keptOnly(table, column)
                : nothingToPut(table, column))
          }
        ]
      })
  })
}

/** New columns that are copied in new rows, and have nothing in those that are there. */
export function leftEmpty(from: Design, to: Design, moves: Moves): Warning[] {
  return to.tables.flatMap((table) => {
    const before = tableOf(from, table.id)
    if (!before || before === table) return []
    const open = table.columns.filter(
      ({ id, copied, required }) =>
        copied && !required && !columnOf(before, id) && !isFilled(moves.flow, table.id, id)
    )
    return open.map(({ id, name }): Warning => ({
      table: table.id,
      message: `${table.name}.${name} is copied in new rows: those that are there have nothing in it, unless it is filled.`,
      effect: 'empty',
      fills: id
    }))
  })
}

const nowRequired = (table: Table, column: Column): Omit<Warning, 'table'> => ({
  message: `${table.name}.${column.name} becomes required and has no default: the migration stops if a row has it empty. Say what they get, or give it a default.`,
  effect: 'stops'
})

const nothingToPut = (table: Table, column: Column): Omit<Warning, 'table'> => ({
  message: `${table.name}.${column.name} is new, required and has no default: the migration stops if ${table.name} has rows. Say what they get, or give it a default.`,
  effect: 'stops'
})

const allTheSame = (table: Table, column: Column): Omit<Warning, 'table'> => ({
  message: `${table.name}.${column.name} is new and a key, and every row gets the same default: the migration stops if ${table.name} has more than one row. Add the column first, fill it, and make it a key in a later version.`,
  effect: 'stops'
})

const keptOnly = (table: Table, column: Column): Omit<Warning, 'table'> => ({
  message: `${table.name}.${column.name} is put back from what was kept; a row added since has nothing to put there, and the down step stops at it.`,
  effect: 'kept'
})

/** What somebody else makes: another system's tables that are referred to must be there, and roles are to be given rights. */
export function neededFirst(before: Catalog, after: Catalog): Warning[] {
  const had = byId(before.tables)
  const others = new Map(after.tables.filter((each) => each.external).map((each) => [each.id, each]))
  return after.tables.flatMap((table) => {
    const old = had.get(table.id)
    if (table === old) return []
    const stops = (message: string): Warning => ({ table: table.id, message, effect: 'stops' })
    const known = new Set(old?.foreignKeys.map((key) => key.table))
    const tables = new Set(table.foreignKeys.map((key) => key.table).filter((id) => !known.has(id)))
    const roles = new Set(
      table.rowPolicies
        .filter(({ id }) => !old?.rowPolicies.some((each) => each.id === id))
        .flatMap(({ role }) => role ?? [])
    )
    return [
      ...[...tables].flatMap((id) => {
        const other = others.get(id)
        if (!other) return []
        return stops(
          `${sayTable(table.name)} refers to ${sayTable(other.name)}, which another system keeps: the migration stops where that table is not there.`
        )
      }),
      ...[...roles].map((role): Warning => ({
        table: table.id,
        message: `A row policy of ${sayTable(table.name)} is for the role ${role}: it is made, without any rights, where it is not there.`,
        effect: 'told'
      }))
    ]
  })
}
