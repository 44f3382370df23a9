import { isComparable } from '../carry/columns.ts'
import { byId } from '../design/by-id.ts'
import { keysOf } from '../design/directory.ts'
import { columnsUsed, expressionOf } from '../design/expressions.ts'
import { emptyTable, type Column, type Design, type Table } from '../design/model.ts'
import { mapQuery, partsOfQuery, type RowQuery } from '../design/row-query.ts'
import type { Type } from '../design/type.ts'
import { partsOf, type Expression } from '../sql/expression.ts'
import type { Catalog, CatalogColumn, CatalogTable, CatalogType } from './catalog.ts'
import type { Keepsake, MigrationInput } from './migration.ts'

/**
 * What the other way would make, worked out over what there is: a row has the number there that it had, which stands
 * in a keepsake by then. Keepsakes that have such numbers are tables like any other to such a query.
 */
export interface KeptNumbers {
  /** The state after, with those keepsakes. */
  state: Design
  catalog: Catalog
  tables: ReadonlyMap<string, CatalogTable>
  /** The query with what is kept in place of what would be numbered anew. */
  kept(query: RowQuery): RowQuery
}

export function keptNumbers(
  { from, to, keep, state, after }: MigrationInput,
  typeOf: (keepsake: Keepsake, column: string) => CatalogType,
  nameOf: (keepsake: Keepsake, column: string) => string
): KeptNumbers {
  const known = keep.flatMap(
    (keepsake) => asTable(keepsake, [from, to], [state, after], typeOf, nameOf) ?? []
  )
  const tables = new Map(known.map(({ catalog }) => [catalog.id, catalog]))
  const kept = (query: RowQuery): RowQuery =>
    mapQuery(query, (part) => {
      if (part.kind !== 'number') return part
      const found = known.find(({ table }) => byId(table.columns).has(idIn(part.as)))
      const on = found && agreedIn(part, found)
      return found && on ? joined(part, found, on) : part
    })
  return {
    state: { ...after, tables: [...after.tables, ...known.map(({ table }) => table)] },
    catalog: { ...to, tables: [...to.tables, ...tables.values()] },
    tables,
    kept
  }
}

/** A table to which numbered rows come: what of them stands in which of its columns, and which of them come there. */
export interface Home {
  columns: ReadonlyMap<string, string>
  where: readonly string[]
}

/** How rows come from where they are numbered; nothing where more is done to them than to choose and to call. */
export function homeOf(rows: RowQuery, isSource: (part: RowQuery) => boolean): Home | undefined {
  const chosen = (part: RowQuery): { from: RowQuery; where: string[] } =>
    part.kind === 'filter' && !isSource(part)
      ? { from: chosen(part.of).from, where: [part.where, ...chosen(part.of).where] }
      : { from: part, where: [] }
  if (rows.kind !== 'project') return undefined
  const { from, where } = chosen(rows.of)
  if (!isSource(from)) return undefined
  const columns = rows.columns.flatMap((each): [string, string][] =>
    'from' in each ? [[each.from, each.id]] : []
  )
  return { columns: new Map(columns), where }
}

/** The columns that hold the same in all rows that come to a home, by the conditions on them. */
export function fixedIn({ where }: Home): ReadonlySet<string> {
  const fixed = (condition: Expression): string[] => {
    if (condition.kind !== 'binary') return []
    const { op, left, right } = condition
    if (op === 'and') return [...fixed(left), ...fixed(right)]
    const isValue = right.kind === 'text' || right.kind === 'number' || right.kind === 'boolean'
    return op === '=' && left.kind === 'column' && isValue ? [left.name] : []
  }
  return new Set(where.flatMap((condition) => fixed(expressionOf(condition))))
}

/** The rows of a query that come to a home. */
export const comingHome = (of: RowQuery, { where }: Home): RowQuery =>
  where.reduce<RowQuery>((rows, condition) => ({ kind: 'filter', of: rows, where: condition }), of)

/** The id of a keepsake as a table, and of a column in it. */
const asId = (keepsake: Keepsake): string => `t_kept_${keepsake.table}`.slice(0, 40)
const idIn = (column: string): string => `c_kept_${column}`.slice(0, 40)

interface Known {
  keepsake: Keepsake
  /** The columns of each key of its rows, by their ids in the table that is kept. */
  keys: string[][]
  table: Table
  catalog: CatalogTable
}

/** A keepsake of rows that were counted, as a table; nothing where there is no number in it. */
function asTable(
  keepsake: Keepsake,
  catalogs: readonly [Catalog, Catalog],
  designs: readonly [Design, Design],
  typeOf: (keepsake: Keepsake, column: string) => CatalogType,
  nameOf: (keepsake: Keepsake, column: string) => string
): Known | undefined {
  const [catalog, then] = catalogs.map(({ tables }) => byId(tables).get(keepsake.table))
  const [own, now] = designs.map(({ tables }) => byId(tables).get(keepsake.table))
  if (!own || !catalog || keepsake.by === 'row') return undefined
  const isWhole = keepsake.by === 'table'
  // A key that this way fills in is a key of the state after.
  const written = byId([...catalog.columns, ...(keepsake.late ? (then?.columns ?? []) : [])])
  const meant = byId([...own.columns, ...(keepsake.late ? (now?.columns ?? []) : [])])
  const ids = isWhole
    ? catalog.columns.map(({ id }) => id)
    : [...keepsake.key, ...keepsake.columns.map(({ id }) => id)]
  const kept = ids.filter((id) => meant.has(id) && written.has(id))
  // Not every engine numbers by itself what is in no primary key; the other way does.
  const isCounted = kept.some((id) => meant.get(id)?.default?.kind === 'generated')
  if (!isCounted) return undefined
  const told = keepsake.told?.columns ?? []
  const column = (id: string): Column => {
    const { type, required } = meant.get(id) as Column
    // A list of values may be gone or another one by then, so its values are kept as texts.
    const kept: Type = type.kind === 'enum' ? { kind: 'text' } : type
    return { id: idIn(id), name: nameOf(keepsake, id), type: kept, required }
  }
  const id = asId(keepsake)
  return {
    keepsake,
    keys: keysOf(own).map((key) => key.columns),
    table: {
      ...emptyTable(keepsake.name, id),
      columns: [
        ...kept.map(column),
        ...told.map((each) => ({
          ...each,
          id: idIn(each.id),
          name: nameOf(keepsake, each.id),
          required: false
        }))
      ]
    },
    catalog: {
      ...catalog,
      id,
      name: keepsake.name,
      columns: [
        ...kept.map((each) => written.get(each) as CatalogColumn),
        ...told.map(({ id }) => plainColumn(id))
      ].map((each) => ({
        ...each,
        id: idIn(each.id),
        name: nameOf(keepsake, each.id),
        type: typeOf(keepsake, each.id)
      }))
    }
  }
}

/** A column with nothing to be said of it; its name and type are given to it. */
const plainColumn = (id: string): Omit<CatalogColumn, 'type'> => ({
  id,
  name: id,
  required: false,
  default: undefined,
  generated: false,
  computed: undefined,
  note: undefined
})

/** The columns by which rows that are numbered are those that are kept; nothing where they cannot be told. */
function agreedIn({ as, of }: Numbering, { keepsake, table, keys }: Known): string[] | undefined {
  if (keepsake.by === 'key') return tableUnder(of) === keepsake.table ? keepsake.key : undefined
  const given = columnsGiven(of)?.filter((id) => id !== as)
  const kept = given?.flatMap((id) => byId(table.columns).get(idIn(id)) ?? [])
  if (!given || !kept || kept.length < given.length) return undefined
  const key = keys.find((columns) => columns.every((id) => given.includes(id)))
  if (key) return key
  // What no two engines compare alike tells no row from another.
  const telling = given.filter((_, at) => isComparable((kept[at] as Column).type))
  return telling.length > 0 ? telling : undefined
}

type Numbering = Extract<RowQuery, { kind: 'number' }>

/** The columns that a query gives by its own words. */
function columnsGiven(query: RowQuery): string[] | undefined {
  switch (query.kind) {
    case 'project':
    case 'constant':
      return query.columns.map(({ id }) => id)
    case 'union':
      return query.of[0] && columnsGiven(query.of[0])
    case 'distinct':
    case 'filter':
    case 'first':
      return columnsGiven(query.of)
    default:
      return undefined
  }
}

/** The table whose rows a query gives, each as often as it is there. */
function tableUnder(query: RowQuery): string | undefined {
  if (query.kind === 'table') return query.table
  return query.kind === 'project' ? tableUnder(query.of) : undefined
}

function joined({ as, of }: Numbering, { table, keepsake }: Known, on: readonly string[]): RowQuery {
  const passing = (at: number): string => `j_kept_${at}`
  const rows: RowQuery = { kind: 'table', table: table.id }
  // Of several that stand for the same, the other way makes the one with the smallest number.
  const one: RowQuery =
    keepsake.by === 'table'
      ? { kind: 'first', of: rows, per: on.map(idIn), by: [{ column: idIn(as) }] }
      : rows
  const right: RowQuery = {
    kind: 'project',
    of: one,
    columns: [...on.map((id, at) => ({ id: passing(at), from: idIn(id) })), { id: as, from: idIn(as) }]
  }
  const mayBeEmpty = (id: string): boolean => !byId(table.columns).get(idIn(id))?.required
  return {
    kind: 'join',
    left: of,
    right,
    on: on.map((left, at) => ({
      left,
      right: passing(at),
      ...(mayBeEmpty(left) && { empty: true as const })
    })),
    unmatched: 'kept'
  }
}

/** Whether anything is numbered in a query. */
export const numbers = (query: RowQuery): boolean =>
  query.kind === 'number' || partsOfQuery(query).some(numbers)

/**
 * Whether it shows in some columns of a query which number a row gets in it: the number itself, or what is found by
 * one that did not come of the same counting.
 */
export function numbersShow(query: RowQuery, columns: Iterable<string>): boolean {
  const isMixed = (part: RowQuery): boolean => {
    const here =
      (part.kind === 'join' &&
        part.on.some(({ left, right }) => numbersIn(part.left, left) !== numbersIn(part.right, right))) ||
      (part.kind === 'filter' && columnsWeighed(part.where).some((id) => numbersIn(part.of, id))) ||
      (part.kind === 'first' &&
        [...part.per, ...part.by.map((by) => by.column)].some((id) => numbersIn(part.of, id)))
    return here || partsOfQuery(part).some(isMixed)
  }
  return [...columns].some((id) => numbersIn(query, id)) || isMixed(query)
}

/** The columns of a condition of which more is asked than whether there is anything in them. */
function columnsWeighed(condition: string): string[] {
  const weighed = (part: Expression): string[] => {
    if (part.kind === 'column') return [part.name]
    if (part.kind === 'isNull' && part.of.kind === 'column') return []
    return partsOf(part).flatMap(weighed)
  }
  return weighed(expressionOf(condition))
}

/** Whether a column of a query holds what it numbers by itself. */
export function numbersIn(query: RowQuery, id: string): boolean {
  if (query.kind === 'number' && query.as === id) return true
  if (query.kind !== 'project') return partsOfQuery(query).some((part) => numbersIn(part, id))
  const column = query.columns.find((each) => each.id === id)
  if (!column || 'value' in column) return false
  const used = 'from' in column ? [column.from] : columnsUsed(column.is)
  return used.some((each) => numbersIn(query.of, each))
}
