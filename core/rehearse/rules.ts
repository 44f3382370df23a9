import { byId } from '../design/by-id.ts'
import { keysOf, tableOf } from '../design/directory.ts'
import type { Action, Check, Column, ColumnId, Deferrable, Design, Table, TableId } from '../design/model.ts'
import { parentsFirst, type CatalogForeignKey, type CatalogTable } from '../dialect/catalog.ts'
import type { Dialect } from '../dialect/dialect.ts'
import type { ActionFacts } from '../dialect/facts.ts'
import { groupBy } from '../group.ts'
import { compareTexts } from '../sql/evaluate.ts'
import { wayBy, type LookupColumns } from '../design/row-index.ts'
import { linkOf, type RowLink } from './stage.ts'

/** A reference as an engine keeps it, which need not be as the design says. */
export interface ReferenceRule {
  id: string
  name: string
  child: Table
  parent: Table
  link: RowLink
  onDelete: Action
  onUpdate: Action
  deferrable: Deferrable | undefined
  atLeastOne: boolean
}

/** What is to be apart among a table's rows: all of them, or those that meet a condition. */
export interface Uniqueness {
  id: string
  columns: readonly ColumnId[]
  way: LookupColumns
  where?: string
}

/** What an engine holds the rows of a design to. */
export interface Rulebook {
  acts: ActionFacts
  /** Whether any reference is held to at least one. */
  holdsMinimums: boolean
  /** The references to a table, in the order in which they have their turn. */
  to(table: TableId): readonly ReferenceRule[]
  /** The references of a table, in the same order. */
  of(table: TableId): readonly ReferenceRule[]
  apart(table: TableId): readonly Uniqueness[]
  checks(table: TableId): readonly Check[]
  /** The columns that may not be empty. */
  required(table: TableId): readonly Column[]
}

const NONE: readonly never[] = []

/**
 * What the dialect's engine holds the design's rows to, as it is written for it: where it lacks an action, what stands
 * instead. References from and to tables of other systems, whose rows nobody knows here, are left out; so are all where
 * none is enforced, as on a connection that does not ask for it.
 */
export function rulebookOf(design: Design, anyVersion: Dialect, { enforced = true } = {}): Rulebook {
  const dialect = anyVersion.for(design)
  const { actions } = dialect.facts
  const { tables } = dialect.catalog(design).catalog
  const made = enforced ? inTurn(tables, actions) : []
  const rules = made.flatMap(({ table, key }): ReferenceRule[] => {
    const [child, parent] = [tableOf(design, table.id), tableOf(design, key.table)]
    if (!child || !parent || child.external || parent.external) return []
    const pairs = key.columns.map((column, at) => ({ column, refersTo: key.refersTo[at] as string }))
    const { id, name, onDelete, onUpdate, deferrable } = key
    const link = linkOf(child, parent, pairs)
    return [
      { id, name, child, parent, link, onDelete, onUpdate, deferrable, atLeastOne: key.atLeastOne ?? false }
    ]
  })
  const to = groupBy(rules, ({ parent }) => parent.id)
  const of = groupBy(rules, ({ child }) => child.id)
  const written = byId(tables)
  const apart = new Map(design.tables.map((table) => [table.id, apartIn(table, written.get(table.id))]))
  const checks = new Map(design.tables.map((table) => [table.id, checksIn(table, written.get(table.id))]))
  const required = new Map(design.tables.map((table) => [table.id, requiredIn(table)]))
  return {
    acts: actions,
    holdsMinimums: rules.some(({ atLeastOne }) => atLeastOne),
    to: (table) => to.get(table) ?? NONE,
    of: (table) => of.get(table) ?? NONE,
    apart: (table) => apart.get(table) ?? NONE,
    checks: (table) => checks.get(table) ?? NONE,
    required: (table) => required.get(table) ?? NONE
  }
}

/** References in the order in which an engine comes to them. */
function inTurn(
  tables: readonly CatalogTable[],
  { turns }: ActionFacts
): { table: CatalogTable; key: CatalogForeignKey }[] {
  const made: { table: CatalogTable; key: CatalogForeignKey }[] = []
  const later: typeof made = []
  const there = new Set<TableId>()
  for (const table of parentsFirst(tables)) {
    there.add(table.id)
    for (const key of table.foreignKeys) (there.has(key.table) ? made : later).push({ table, key })
  }
  if (turns === 'first made') return [...made, ...later]
  if (turns === 'last made')
    return parentsFirst(tables)
      .flatMap((table) => table.foreignKeys.map((key) => ({ table, key })))
      .reverse()
  const known = byId(tables)
  const keyAt = ({ key }: (typeof made)[number]): number => placeOfKey(known.get(key.table), key.refersTo)
  return [...made, ...later].sort((a, b) => keyAt(a) - keyAt(b) || compareTexts(a.key.name, b.key.name))
}

/** The first of a table's keys that begins with the columns. */
function placeOfKey(table: CatalogTable | undefined, columns: readonly ColumnId[]): number {
  const keys = table ? [...(table.primaryKey ? [table.primaryKey] : []), ...table.uniques] : []
  return keys.findIndex((key) => columns.every((id, at) => key.columns[at] === id))
}

/** What is written of it: what an engine cannot hold is left out, unless something else holds it there. */
function apartIn(table: Table, made: CatalogTable | undefined): Uniqueness[] {
  const isHeld = new Set([...(made?.uniques ?? []), ...(made?.indexes ?? [])].map(({ id }) => id))
  return [
    ...keysOf(table).map(({ id, columns }) => ({ id, columns, way: wayBy(columns) })),
    ...table.indexes
      .filter(({ id, unique }) => unique && isHeld.has(id))
      .map(({ id, columns, where }) => ({
        id,
        columns: columns.map(({ column }) => column),
        way: wayBy(columns.map(({ column }) => column)),
        ...(where !== undefined && { where })
      }))
  ]
}

const checksIn = (table: Table, made: CatalogTable | undefined): Check[] =>
  table.checks.filter(({ id }) => made?.checks.some((each) => each.id === id))

const requiredIn = (table: Table): Column[] =>
  table.columns.filter(
    ({ id, required, computed }) =>
      computed === undefined && (required || table.primaryKey?.columns.includes(id))
  )
