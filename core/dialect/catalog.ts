import { byId } from '../design/by-id.ts'
import { once } from '../once.ts'
import type { Action, Deferrable, RowSecurity } from '../design/model.ts'
import type { Type } from '../design/type.ts'
import { nameOfColumn, plainSql, type Written } from './written.ts'
import { sayTable } from './qualified.ts'

/**
 * What an engine's catalog holds: the common ground of a design and an engine. A design is turned into
 * the catalog that it should come to; an engine is read back into the one that it has. Names are as in
 * the engine, types and defaults in the dialect's own spelling. What leans on something else names it by
 * its id: the design's, or where an engine was read, the name.
 */
export interface Catalog {
  /** The schemas that tables stand in, besides the database's own. */
  schemas: CatalogSchema[]
  /** Types of their own for lists of values, where the dialect has such. */
  enums: CatalogEnum[]
  tables: CatalogTable[]
}

export interface CatalogSchema {
  id: string
  name: string
}

export interface CatalogEnum {
  id: string
  name: string
  values: string[]
}

export interface CatalogTable {
  id: string
  /** With its schema, as ./qualified.ts puts the two together. */
  name: string
  /** Another system's: never made, changed or dropped. */
  external: boolean
  note: string | undefined
  columns: CatalogColumn[]
  primaryKey: CatalogKey | undefined
  uniques: CatalogKey[]
  foreignKeys: CatalogForeignKey[]
  checks: CatalogCheck[]
  /** Indexes that stand on their own, not those that a key makes. */
  indexes: CatalogIndex[]
  triggers: CatalogTrigger[]
  rowPolicies: CatalogRowPolicy[]
  rowSecurity: RowSecurity
}

/** Tables by their ids. */
export type Tables = Pick<ReadonlyMap<string, CatalogTable>, 'get'>

/** A table as text: two that are the same to the last have the same. */
export const textOf = once((table: CatalogTable): string => JSON.stringify(table))

/** Whether two states of a table are the same to the last. */
export const isSameTable = (one: CatalogTable, other: CatalogTable): boolean =>
  one === other || textOf(one) === textOf(other)

/** A table with nothing in it but a name. */
export function bareTable(id: string, name: string): CatalogTable {
  return {
    id,
    name,
    external: false,
    note: undefined,
    columns: [],
    primaryKey: undefined,
    uniques: [],
    foreignKeys: [],
    checks: [],
    indexes: [],
    triggers: [],
    rowPolicies: [],
    rowSecurity: 'off'
  }
}

/** A column's type as the dialect writes it, and which logical type and list of values that is. */
export interface CatalogType {
  sql: string
  /** Nothing where an engine was read. */
  type?: Type | undefined
  /** Id of the list of values that is a type of its own. */
  list?: string | undefined
}

export interface CatalogColumn {
  id: string
  name: string
  type: CatalogType
  required: boolean
  /** The default as SQL, or nothing. */
  default: string | undefined
  /** A number that the engine counts. */
  generated: boolean
  /** What the engine works it out from, or nothing. */
  computed: Written | undefined
  /** Worked out when a row is written and kept with it, where others are worked out when they are read. */
  stored?: true
  /** What it becomes with each change of its row, where the engine has that in the column itself. */
  renewed?: string | undefined
  note: string | undefined
}

/**
 * What triggers of a design see to, the same in every dialect:
 * - a column that is renewed becomes the present moment with each update of its row that says nothing else of it;
 * - a column that is copied, where a new row says nothing of it, gets what the row referred to holds;
 *   `again`: also when the row refers to another one, unless the update says something of it;
 *   `fixed`: whatever else is said of it is refused.
 * A migration moves rows while they are not there, so that it leaves such columns alone.
 */
export type Does =
  | { kind: 'renews'; now: string }
  | {
      kind: 'copies'
      /** The columns that refer, the table that they refer to by which of its columns, and what is taken there. */
      by: readonly string[]
      table: string
      refersTo: readonly string[]
      takes: string
      again: boolean
      fixed: boolean
      /** Whether it gives a new row what that says nothing of. */
      fills: boolean
    }
  /** As an engine has it: what it says it does. */
  | { kind: 'found'; says: string }

/** What sees to a column when its row is made or changed; see ./trigger.ts. Its id is the column's. */
export interface CatalogTrigger {
  id: string
  name: string
  column: string
  does: Does
}

export interface CatalogCheck {
  id: string
  name: string
  condition: Written
  /** Held by triggers, where the engine has no such check. */
  byTrigger?: true
}
export interface CatalogRowPolicy {
  id: string
  name: string
  command: string
  role: string | undefined
  /** Which rows are found; for INSERT, which are made. */
  condition: Written
  /** Which rows may be left behind, where those are others. */
  writes: Written | undefined
}

/** `descending` by the columns' places; `where` is the condition of an index on some of the rows. */
export interface CatalogIndex extends CatalogKey {
  unique: boolean
  descending: boolean[]
  where: Written | undefined
}

/** `columns` by their ids. */
export interface CatalogKey {
  id: string
  name: string
  columns: string[]
}

/** `table` and `refersTo` by their ids. */
export interface CatalogForeignKey extends CatalogKey {
  table: string
  refersTo: string[]
  onDelete: Action
  onUpdate: Action
  /** May be looked at when a transaction ends: where that asks for it, or always. */
  deferrable?: Deferrable
  /** Each row referred to has one that refers to it, held at the end of each transaction. */
  atLeastOne?: true
}

/** Whether anything between a table's rows and others is looked at only when a transaction ends. */
export const waitsForEnd = ({ foreignKeys }: CatalogTable): boolean =>
  foreignKeys.some(({ deferrable, atLeastOne }) => deferrable === 'deferred' || atLeastOne)

/** One thing in which two catalogs differ, said in words; `table` is where. */
export interface Difference {
  table: string
  what: string
  expected: string
  found: string
}

/** A statement, and what it does in a few words. */
export interface Statement {
  sql: string
  says: string
}

/**
 * What counts as a difference: the order of columns or not, notes or not; how names are written, and one
 * spelling for defaults, and for expressions, that mean the same.
 */
export interface Comparison {
  columnOrder: boolean
  notes: boolean
  quote: (name: string) => string
  oneDefault: (sql: string, type: string) => string
  oneExpression: (sql: string) => string
  /** Tables, by their names, that are not compared. */
  besides?: ReadonlySet<string>
  /** One spelling for types that are the same to the engine. */
  oneType?: (sql: string) => string
  /** What an engine prints of a text that it cannot print. */
  asPrinted?: (text: string) => string
  /** What a trigger does, as it is read back. */
  sayTrigger?: (table: CatalogTable, trigger: CatalogTrigger, tables: Tables) => string[]
}

/** Compares what was expected with what was found, both in the same dialect's spelling. */
export function compareCatalogs(expected: Catalog, found: Catalog, options: Comparison): Difference[] {
  const differences: Difference[] = []
  const enums = (catalog: Catalog): string[] =>
    catalog.enums.map((each) => `${each.name} (${each.values.join(', ')})`)
  compareLists(
    (what, a, b) =>
      differences.push({ table: 'the design', what, expected: a ?? 'none', found: b ?? 'none' }),
    'list of values',
    enums(expected),
    enums(found)
  )
  const isCompared = ({ name }: CatalogTable): boolean => !options.besides?.has(name)
  const foundTables = new Map(found.tables.map((table) => [table.name, table]))
  for (const table of expected.tables.filter(isCompared)) {
    const other = foundTables.get(table.name)
    if (!other)
      differences.push({ table: sayTable(table.name), what: 'table', expected: 'there', found: 'missing' })
    else
      differences.push(...compareTables(said(table, expected, options), said(other, found, options), options))
  }
  const names = new Set(expected.tables.map((table) => table.name))
  for (const table of found.tables.filter(isCompared)) {
    if (!names.has(table.name))
      differences.push({ table: sayTable(table.name), what: 'table', expected: 'not there', found: 'there' })
  }
  return differences
}

/** A table in words that can be compared across catalogs: everything that it leans on by its name. */
interface SaidTable {
  name: string
  note: string | undefined
  columns: { name: string; facts: [what: string, said: string | undefined][] }[]
  primaryKey: string | undefined
  lists: [what: string, each: string[]][]
}

function said(
  table: CatalogTable,
  { tables }: Catalog,
  {
    notes,
    quote,
    oneDefault,
    oneExpression,
    oneType = (sql) => sql,
    asPrinted = (text) => text,
    sayTrigger = ({ name }, { column }) => [`${name}.${column}`]
  }: Comparison
): SaidTable {
  const columnName = (id: string): string => nameOfColumn(table, id)
  const names = (ids: readonly string[]): string => ids.map(columnName).join(', ')
  const expression = (written: Written): string =>
    asPrinted(oneExpression(plainSql(written, (id) => quote(columnName(id)))))
  const key = ({ name, columns }: CatalogKey): string => `${name} (${names(columns)})`
  const foreignKey = (each: CatalogForeignKey): string => {
    const referred = byId(tables).get(each.table)
    const targets = each.refersTo.map((id) => (referred ? nameOfColumn(referred, id) : id))
    const actions = `on delete ${each.onDelete} on update ${each.onUpdate}${each.deferrable ? `, deferrable, at first ${each.deferrable}` : ''}${each.atLeastOne ? ', at least one' : ''}`
    return `${key(each)} to ${sayTable(referred?.name ?? each.table)} (${targets.join(', ')}) ${actions}`
  }
  const index = ({ name, unique, columns, descending, where }: CatalogIndex): string => {
    const places = columns.map((id, at) => columnName(id) + (descending[at] ? ' desc' : ''))
    const condition = where === undefined ? '' : ` where ${expression(where)}`
    return `${name}${unique ? ' unique' : ''} (${places.join(', ')})${condition}`
  }
  const policy = ({ name, command, role, condition, writes }: CatalogRowPolicy): string =>
    `${name} for ${command} to ${role ?? 'everybody'}: ${expression(condition)}${writes ? ` writing ${expression(writes)}` : ''}`
  const trigger = (each: CatalogTrigger): string[] =>
    (each.does.kind === 'found' ? [each.does.says] : sayTrigger(table, each, byId(tables))).map(asPrinted)
  const note = (text: string | undefined): string | undefined => text && asPrinted(text)
  return {
    name: sayTable(table.name),
    note: notes ? note(table.note) : undefined,
    columns: table.columns.map((column) => ({
      name: column.name,
      facts: [
        ['type of', asPrinted(oneType(column.type.sql))],
        ['required of', String(column.required)],
        ['default of', column.default && oneDefault(column.default, column.type.sql)],
        ['generated of', String(column.generated)],
        ['computation of', column.computed && expression(column.computed)],
        ['renewal of', column.renewed && oneDefault(column.renewed, column.type.sql)],
        ['note of', notes ? note(column.note) : undefined]
      ]
    })),
    primaryKey: table.primaryKey && key(table.primaryKey),
    lists: [
      ['unique key', table.uniques.map(key)],
      ['foreign key', table.foreignKeys.map(foreignKey)],
      [
        'check',
        table.checks.map(
          (check) => `${check.name}${check.byTrigger ? ' by triggers' : ''}: ${expression(check.condition)}`
        )
      ],
      ['index', table.indexes.map(index)],
      ['trigger', table.triggers.flatMap(trigger)],
      ['row policy', table.rowPolicies.map(policy)],
      ['row security', [table.rowSecurity]]
    ]
  }
}

function compareTables(expected: SaidTable, found: SaidTable, { columnOrder }: Comparison): Difference[] {
  const differences: Difference[] = []
  const compare = (what: string, a: string | undefined, b: string | undefined): void => {
    if (a !== b) differences.push({ table: expected.name, what, expected: a ?? 'none', found: b ?? 'none' })
  }
  const byName = new Map(found.columns.map((column) => [column.name, column]))
  for (const { name, facts } of expected.columns) {
    const other = byName.get(name)
    if (!other) {
      compare(`column ${name}`, 'there', 'missing')
      continue
    }
    facts.forEach(([what, wanted], at) => compare(`${what} ${name}`, wanted, other.facts[at]?.[1]))
  }
  compare('note', expected.note, found.note)
  const names = new Set(expected.columns.map((column) => column.name))
  for (const { name } of found.columns) if (!names.has(name)) compare(`column ${name}`, 'not there', 'there')
  const order = (table: SaidTable): string => table.columns.map(({ name }) => name).join(', ')
  if (columnOrder) compare('order of columns', order(expected), order(found))
  compare('primary key', expected.primaryKey, found.primaryKey)
  expected.lists.forEach(([what, wanted], at) =>
    compareLists(compare, what, wanted, found.lists[at]?.[1] ?? [])
  )
  return differences
}

function compareLists(
  compare: (what: string, a: string | undefined, b: string | undefined) => void,
  what: string,
  expected: readonly string[],
  found: readonly string[]
): void {
  for (const each of expected) if (!found.includes(each)) compare(what, each, undefined)
  for (const each of found) if (!expected.includes(each)) compare(what, undefined, each)
}

/**
 * Tables with those that they refer to before them where there is no circle; otherwise in the order given.
 */
export function parentsFirst(tables: readonly CatalogTable[]): CatalogTable[] {
  const known = byId(tables)
  const done = new Set<string>()
  const ordered: CatalogTable[] = []
  for (const start of tables) {
    // Depth first by hand: a chain of thousands of tables must not exhaust the stack.
    const stack: { table: CatalogTable; next: number }[] = []
    const enter = (table: CatalogTable): void => {
      if (!done.has(table.id)) {
        done.add(table.id)
        stack.push({ table, next: 0 })
      }
    }
    enter(start)
    for (let top = stack.at(-1); top; top = stack.at(-1)) {
      const reference = top.table.foreignKeys[top.next++]
      if (!reference) {
        ordered.push(top.table)
        stack.pop()
        continue
      }
      const parent = known.get(reference.table)
      if (parent) enter(parent)
    }
  }
  return ordered
}
