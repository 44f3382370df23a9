import type { Fill, Requirement } from '../design/carry.ts'
import { columnOf, columnsIn, keysOf, namesIn, sameSet, type Reference } from '../design/directory.ts'
import {
  newId,
  type Check,
  type Column,
  type ColumnId,
  type ForeignKey,
  type Key,
  type Table
} from '../design/model.ts'
import type { Projected, RowQuery } from '../design/row-query.ts'
import { listed } from '../design/words.ts'
import type { Operation } from '../edit/operation.ts'
import { plural } from '../naming/words.ts'
import { said } from './queries.ts'
import type { Goal } from './rekey.ts'
import { stuck } from './restructuring.ts'

/** How what refers to a table that is taken apart refers to one of its parts, or to any of some. */

/** A table that has the rows of one kind. */
export interface SplitTable {
  kind: string
  made: Table & { primaryKey: Key }
  /** The new columns by those that there were. */
  columns: ReadonlyMap<ColumnId, ColumnId>
}

export /** The rows of a part, each with its kind. */
const ofWhole = (by: Column, { kind, made, columns }: SplitTable): RowQuery => ({
  kind: 'project',
  of: { kind: 'table', table: made.id },
  columns: [
    { id: by.id, type: by.type, value: kind },
    ...[...columns].map(([id, from]): Projected => ({ id, from }))
  ]
})

export const columnsOfKey = ({ pairs }: ForeignKey): ColumnId[] => pairs.map(({ column }) => column)

/** One of the parts that a reference may go to, and the columns by which it does. */
interface Way {
  part: SplitTable
  columns: readonly Column[]
}

/** How one reference to the table follows to one of the parts, or to any of some. */
export interface Following {
  child: Table
  foreignKey: ForeignKey
  goals: Goal[]
  /** Where its columns stand in the child. */
  at: number
  adds: Operation[]
  there: Fill[]
  back: Fill
  requires: Requirement[]
  check: Check | undefined
}

export function followingOf(
  table: Table,
  by: Column,
  parts: readonly SplitTable[],
  { table: child, foreignKey }: Reference,
  kinds: readonly string[],
  nameOf: (child: Table, column: Column, part: SplitTable) => string
): Following {
  const chosen = parts.filter(({ kind }) => kinds.includes(kind))
  if (chosen.length === 0) stuck(`Say which of them a ${child.name} may refer to.`)
  mayReferToSeveral(table, child, foreignKey, chosen.length)
  const old = columnsIn(child, columnsOfKey(foreignKey))
  const isRequired = old.every(({ required }) => required)
  const pairs = foreignKey.pairs.filter((pair) => pair.refersTo !== by.id)
  const ways = chosen.map((part): Way => {
    const columns = pairs.map(({ column: id }): Column => {
      const column = columnOf(child, id) ?? stuck(`${child.name} no longer has that column.`)
      const required = isRequired && chosen.length === 1
      return { id: newId('c'), name: nameOf(child, column, part), type: column.type, required }
    })
    return { part, columns }
  })
  const at = Math.min(...old.map((column) => child.columns.indexOf(column)))
  const fresh = ways.flatMap(({ columns }) => columns)
  return {
    child,
    foreignKey,
    goals: ways.map(({ part, columns }) => goalOf(table, part, pairs, columns)),
    at,
    adds: fresh.map((column, n) => ({ kind: 'column.add', table: child.id, column, at: at + n })),
    there: ways.map(({ part, columns }) => ({
      table: child.id,
      columns: columns.map(({ id }, n) => ({ id, from: pairs[n]?.refersTo ?? '' })),
      from: {
        kind: 'filter',
        of: { kind: 'table', table: table.id },
        where: `{${by.id}} = ${said(part.kind)}`
      },
      on: foreignKey.pairs.map(({ column, refersTo }) => ({ own: column, other: refersTo }))
    })),
    back: backOf(by, { table: child, foreignKey }, ways),
    requires: [noneOfOthers(table, by, { table: child, foreignKey }, chosen)],
    check:
      chosen.length > 1
        ? oneOf(
            ways.map(({ columns }) => columns),
            isRequired
          )
        : undefined
  }
}

/** No row refers to one of a kind that it may not refer to from now on. */
function noneOfOthers(
  table: Table,
  by: Column,
  { table: child, foreignKey }: Reference,
  chosen: readonly SplitTable[]
): Requirement {
  const referred: RowQuery = {
    kind: 'join',
    left: {
      kind: 'project',
      of: { kind: 'table', table: child.id },
      columns: columnsOfKey(foreignKey).map((id) => ({ id, from: id }))
    },
    right: { kind: 'table', table: table.id },
    on: foreignKey.pairs.map(({ column, refersTo }) => ({ left: column, right: refersTo })),
    unmatched: 'dropped'
  }
  const isChosen = chosen.map(({ kind }) => `{${by.id}} = ${said(kind)}`).join(' or ')
  const kinds = listed(chosen.map(({ kind }) => kind))
  return {
    query: { kind: 'filter', of: referred, where: `not (${isChosen})` },
    says: `Some rows of ${child.name} refer to ${plural(table.name)} of other kinds than ${kinds}.`
  }
}

/** What goes to one of several is empty in all but one of its columns, so nothing may be made of it. */
function mayReferToSeveral(table: Table, child: Table, foreignKey: ForeignKey, count: number): void {
  if (child.id === table.id) stuck(`${table.name} refers to itself. Take that out first.`)
  if (count < 2) return
  const old = columnsOfKey(foreignKey)
  const key = keysOf(child).find(({ columns }) => columns.some((id) => old.includes(id)))
  if (key)
    stuck(
      `${child.name} has ${namesIn(child, old)} in a key, and what refers to one of several tables may be empty. Choose one of them, or give ${child.name} another key first.`
    )
  const copied = child.columns.find((column) => column.copied?.foreignKey === foreignKey.id)
  if (copied)
    stuck(
      `${child.name}.${copied.name} is copied from ${table.name}, which would be several. Take that out first.`
    )
}

function goalOf(
  table: Table,
  part: SplitTable,
  pairs: ForeignKey['pairs'],
  columns: readonly Column[]
): Goal {
  const becomes = pairs.map(({ refersTo }, at) => ({
    column: columns[at]?.id ?? '',
    refersTo: part.columns.get(refersTo) ?? ''
  }))
  const referred = becomes.map(({ refersTo }) => refersTo)
  const key = keysOf(part.made).find((each) => sameSet(each.columns, referred))
  return {
    table: part.made.id,
    key: key?.id ?? stuck(`${part.made.name} would not have the key of ${table.name} that is referred to.`),
    pairs: becomes
  }
}

/** Where a reference to one of the parts goes in the whole. */
function backOf(by: Column, { table: child, foreignKey }: Reference, ways: readonly Way[]): Fill {
  const pairs = foreignKey.pairs.filter((pair) => pair.refersTo !== by.id)
  const passing = (way: number, at: number): string => `j_to_${way}_${at}`
  const from: RowQuery = {
    kind: 'union',
    of: ways.map(({ part }, way) => ({
      kind: 'project',
      of: ofWhole(by, part),
      columns: [
        ...ways.flatMap(({ columns }, other) =>
          columns.map(({ type }, at): Projected => {
            const id = passing(other, at)
            const refersTo = pairs[at]?.refersTo ?? ''
            return other === way ? { id, from: refersTo } : { id, type, value: null }
          })
        ),
        ...foreignKey.pairs.map(({ column, refersTo }): Projected => ({ id: column, from: refersTo }))
      ]
    }))
  }
  return {
    table: child.id,
    columns: columnsOfKey(foreignKey).map((id) => ({ id, from: id })),
    from,
    on: ways.flatMap(({ columns }, way) =>
      columns.map(({ id }, at) => ({
        own: id,
        other: passing(way, at),
        ...(ways.length > 1 && { empty: true as const })
      }))
    )
  }
}

/** That a row refers to one of several: by the columns of one, and of no other. */
function oneOf(ways: readonly (readonly Column[])[], isRequired: boolean): Check {
  const all = ways.flat()
  const only = (columns: readonly Column[]): string =>
    all.map((column) => `{${column.id}} is ${columns.includes(column) ? 'not null' : 'null'}`).join(' and ')
  const allowed = isRequired ? ways : [...ways, []]
  const condition = allowed.map((columns) => `(${only(columns)})`).join(' or ')
  return { id: newId('x'), condition, everywhere: true }
}
