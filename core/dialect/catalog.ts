import type { Action } from '../design/model.ts'
import { sayTable } from './qualified.ts'

/**
 * What an engine's catalog holds: the common ground of a design and an engine. A design is turned into
 * the catalog that it should come to; an engine is read back into the one that it has. Names are as in
 * the engine, types and defaults in the dialect's own spelling. `id` is the design's id where there is one.
 */
export interface Catalog {
  /** The schemas that tables stand in, besides the database's own. */
  schemas: string[]
  /** Types of their own for lists of values, where the dialect has such. */
  enums: CatalogEnum[]
  tables: CatalogTable[]
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
  rowPolicies: CatalogRowPolicy[]
}

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
    rowPolicies: []
  }
}

export interface CatalogColumn {
  id: string
  name: string
  type: string
  required: boolean
  /** The default as SQL, or nothing. */
  default: string | undefined
  /** A number that the engine counts. */
  generated: boolean
  /** What the engine works it out from, as SQL, or nothing. */
  computed: string | undefined
  note: string | undefined
}

export interface CatalogCheck {
  id: string
  name: string
  condition: string
}
export interface CatalogRowPolicy {
  id: string
  name: string
  command: string
  role: string | undefined
  condition: string
}

/** `descending` by the columns' places; `where` is the condition of an index on some of the rows. */
export interface CatalogIndex extends CatalogKey {
  unique: boolean
  descending: boolean[]
  where: string | undefined
}

export interface CatalogKey {
  id: string
  name: string
  columns: string[]
}

export interface CatalogForeignKey extends CatalogKey {
  table: string
  refersTo: string[]
  onDelete: Action
  onUpdate: Action
}

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
 * What counts as a difference: the order of columns or not, notes or not; and one spelling for defaults,
 * and for expressions, that mean the same.
 */
export interface Comparison {
  columnOrder: boolean
  notes: boolean
  oneDefault: (sql: string, type: string) => string
  oneExpression: (sql: string) => string
  /** What an engine prints of a text that it cannot print. */
  asPrinted?: (text: string) => string
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
  const foundTables = new Map(found.tables.map((table) => [table.name, table]))
  for (const table of expected.tables) {
    const other = foundTables.get(table.name)
    if (!other)
      differences.push({ table: sayTable(table.name), what: 'table', expected: 'there', found: 'missing' })
    else differences.push(...compareTables(table, other, options))
  }
  const names = new Set(expected.tables.map((table) => table.name))
  for (const table of found.tables) {
    if (!names.has(table.name))
      differences.push({ table: sayTable(table.name), what: 'table', expected: 'not there', found: 'there' })
  }
  return differences
}

function compareTables(
  expected: CatalogTable,
  found: CatalogTable,
  { columnOrder, notes, oneDefault, oneExpression, asPrinted = (text) => text }: Comparison
): Difference[] {
  const differences: Difference[] = []
  const compare = (what: string, a: string | undefined, b: string | undefined): void => {
    if (a !== b)
      differences.push({ table: sayTable(expected.name), what, expected: a ?? 'none', found: b ?? 'none' })
  }
  const byName = new Map(found.columns.map((column) => [column.name, column]))
  for (const column of expected.columns) {
    const other = byName.get(column.name)
    if (!other) {
      compare(`column ${column.name}`, 'there', 'missing')
      continue
    }
    compare(`type of ${column.name}`, asPrinted(column.type), asPrinted(other.type))
    compare(`required of ${column.name}`, String(column.required), String(other.required))
    const said = ({ default: sql, type }: CatalogColumn): string | undefined => sql && oneDefault(sql, type)
    compare(`default of ${column.name}`, said(column), said(other))
    compare(`generated of ${column.name}`, String(column.generated), String(other.generated))
    const worked = ({ computed }: CatalogColumn): string | undefined =>
      computed === undefined ? undefined : oneExpression(computed)
    compare(`what ${column.name} is computed from`, worked(column), worked(other))
    if (notes)
      compare(
        `note of ${column.name}`,
        column.note && asPrinted(column.note),
        other.note && asPrinted(other.note)
      )
  }
  if (notes) compare('note', expected.note && asPrinted(expected.note), found.note && asPrinted(found.note))
  const names = new Set(expected.columns.map((column) => column.name))
  for (const column of found.columns)
    if (!names.has(column.name)) compare(`column ${column.name}`, 'not there', 'there')
  if (columnOrder)
    compare(
      'order of columns',
      expected.columns.map((c) => c.name).join(', '),
      found.columns.map((c) => c.name).join(', ')
    )
  compare('primary key', sayKey(expected.primaryKey), sayKey(found.primaryKey))
  compareLists(compare, 'unique key', expected.uniques.map(sayKey), found.uniques.map(sayKey))
  compareLists(
    compare,
    'foreign key',
    expected.foreignKeys.map(sayForeignKey),
    found.foreignKeys.map(sayForeignKey)
  )
  const sayCheck = (check: CatalogCheck): string => `${check.name}: ${oneExpression(check.condition)}`
  compareLists(compare, 'check', expected.checks.map(sayCheck), found.checks.map(sayCheck))
  const sayIndex = (index: CatalogIndex): string =>
    `${index.name}${index.unique ? ' unique' : ''} (${index.columns.map((name, at) => name + (index.descending[at] ? ' desc' : '')).join(', ')})${index.where === undefined ? '' : ` where ${oneExpression(index.where)}`}`
  compareLists(compare, 'index', expected.indexes.map(sayIndex), found.indexes.map(sayIndex))
  const sayPolicy = (policy: CatalogRowPolicy): string =>
    `${policy.name} for ${policy.command} to ${policy.role ?? 'everybody'}: ${oneExpression(policy.condition)}`
  compareLists(compare, 'row policy', expected.rowPolicies.map(sayPolicy), found.rowPolicies.map(sayPolicy))
  return differences
}

function compareLists(
  compare: (what: string, a: string | undefined, b: string | undefined) => void,
  what: string,
  expected: (string | undefined)[],
  found: (string | undefined)[]
): void {
  for (const each of expected) if (!found.includes(each)) compare(what, each, undefined)
  for (const each of found) if (!expected.includes(each)) compare(what, undefined, each)
}

function sayKey(key: CatalogKey | undefined): string | undefined {
  return key && `${key.name} (${key.columns.join(', ')})`
}

function sayForeignKey(key: CatalogForeignKey): string {
  return `${key.name} (${key.columns.join(', ')}) to ${sayTable(key.table)} (${key.refersTo.join(', ')}) on delete ${key.onDelete} on update ${key.onUpdate}`
}

/**
 * Tables with those that they refer to before them where there is no circle; otherwise in the order given.
 */
export function parentsFirst(tables: readonly CatalogTable[]): CatalogTable[] {
  const byName = new Map(tables.map((table) => [table.name, table]))
  const done = new Set<string>()
  const ordered: CatalogTable[] = []
  for (const start of tables) {
    // Depth first by hand: a chain of thousands of tables must not exhaust the stack.
    const stack: { table: CatalogTable; next: number }[] = []
    const enter = (table: CatalogTable): void => {
      if (!done.has(table.name)) {
        done.add(table.name)
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
      const parent = byName.get(reference.table)
      if (parent) enter(parent)
    }
  }
  return ordered
}
