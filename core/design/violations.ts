import { once } from '../once.ts'
import { byId } from './by-id.ts'
import { columnsIn, keyOf, tableOf } from './directory.ts'
import { evaluate } from './evaluate.ts'
import { showExpression } from './expressions.ts'
import type { Check, Column, ColumnId, Design, ForeignKey, Index, Key, Row, Table } from './model.ts'
import { textOfKey } from './key-text.ts'

/**
 * What is wrong with a design's own rows, as an engine would see it: nothing in a required column, a key
 * that is there twice, a reference that leads nowhere, a check that is not met. That each value is one of its
 * column's type is held by ./integrity.ts.
 */
export interface Violation {
  kind: 'required' | 'key' | 'reference' | 'check' | 'minimum'
  table: string
  /** What is violated: the id of the column, key or unique index, reference or check. */
  of: string
  /** Which rows, counted from 0. */
  rows: readonly number[]
  message: string
}

/** Every violation of a design's rows. */
export const violations = (design: Design): Violation[] => [...violationsByRule(design)].flat()

/**
 * The same rule by rule, so that whoever has many rows can pause in between; what was found of a rule is remembered as
 * long as the tables that it is about stay the same.
 */
export function* violationsByRule(design: Design): Generator<readonly Violation[]> {
  for (const table of design.tables) {
    yield* ownByRule(table)
    for (const key of table.foreignKeys) yield betweenViolations(design, table, key)
  }
}

/** What was found of a table's references, by the table that each is to. */
const foundBetween = once((_: Table): Map<string, { parent: Table; found: Violation[] }> => new Map())

function betweenViolations(design: Design, table: Table, key: ForeignKey): Violation[] {
  const parent = tableOf(design, key.table)
  if (!parent) return []
  const known = foundBetween(table).get(key.id)
  if (known?.parent === parent) return known.found
  const found = [...referenceViolations(design, table, key), ...minimumViolations(design, table, key)]
  foundBetween(table).set(key.id, { parent, found })
  return found
}

/**
 * The violations that rows have after a change and had not before, judged by what changed: a table's own,
 * and those of references to it. Checks are told of, and stop nobody.
 */
export function newViolations(before: Design, after: Design): Violation[] {
  const had = byId(before.tables)
  const isNew = (table: Table): boolean => had.get(table.id) !== table
  const found = after.tables.flatMap((table) => {
    const isIdle =
      table.rows.length === 0 && table.foreignKeys.every(({ atLeastOne }) => atLeastOne !== 'held')
    if (isIdle) return []
    const old = had.get(table.id)
    const changed = !old || !sameRules(old, table)
    const own = changed ? ownViolations(table) : []
    const references = table.foreignKeys.filter((key) => {
      const [parent, was] = [tableOf(after, key.table), had.get(key.table)]
      const isParentNew = parent && isNew(parent) && !(was && sameRules(was, parent))
      return changed || isParentNew
    })
    return [...own, ...references.flatMap((key) => betweenViolations(after, table, key))]
  })
  if (found.length === 0) return []
  const known = new Map(violations(before).map((each) => [`${each.kind} ${each.of}`, each]))
  return found.filter((each) => {
    const old = known.get(`${each.kind} ${each.of}`)
    return each.kind !== 'check' && (old === undefined || each.rows.some((row) => !old.rows.includes(row)))
  })
}

/** Whether two states of a table have the same rows, and hold them to the same. */
function sameRules(one: Table, other: Table): boolean {
  if (one.rows !== other.rows || one.primaryKey !== other.primaryKey || one.uniques !== other.uniques)
    return false
  if (one.indexes !== other.indexes) return false
  if (one.foreignKeys !== other.foreignKeys || one.columns.length !== other.columns.length) return false
  return one.columns.every((column, at) => {
    const now = other.columns[at]
    return (
      column === now ||
      (column.id === now?.id &&
        column.required === now.required &&
        column.computed === now.computed &&
        column.type === now.type)
    )
  })
}

/** What a table's rows violate of the table's own rules. */
const ownViolations = (table: Table): readonly Violation[] => [...ownByRule(table)].flat()

const foundOwn = once((_: Table): Map<string, readonly Violation[]> => new Map())

function* ownByRule(table: Table): Generator<readonly Violation[]> {
  if (table.external || table.rows.length === 0) return
  const known = foundOwn(table)
  for (const [id, find] of ownRules(table)) {
    const found = known.get(id) ?? find()
    known.set(id, found)
    yield found
  }
}

/** A table's own rules by their ids, and how what violates each is found. */
function ownRules(table: Table): [id: string, find: () => Violation[]][] {
  const { columns, primaryKey, uniques, indexes, checks } = table
  return [
    ...columns.map((each): [string, () => Violation[]] => [each.id, () => requiredViolations(table, each)]),
    ...[...(primaryKey ? [primaryKey] : []), ...uniques].map((each): [string, () => Violation[]] => [
      each.id,
      () => keyViolations(table, each)
    ]),
    ...indexes
      .filter(({ unique }) => unique)
      .map((each): [string, () => Violation[]] => [each.id, () => indexViolations(table, each)]),
    ...checks.map((each): [string, () => Violation[]] => [each.id, () => checkViolations(table, each)])
  ]
}

function requiredViolations(table: Table, column: Column): Violation[] {
  const isInKey = table.primaryKey?.columns.includes(column.id) ?? false
  const isFilledByEngine = column.computed !== undefined || column.default !== undefined
  if ((!column.required && !isInKey) || isFilledByEngine) return []
  const rows = placesOf(table.rows, (row) => (row[column.id] ?? null) === null)
  if (rows.length === 0) return []
  const message = `${sayRows(rows)} of ${table.name} ${rows.length === 1 ? 'has' : 'have'} nothing in ${column.name}, which is required.`
  return [{ kind: 'required', table: table.id, of: column.id, rows, message }]
}

function keyViolations(table: Table, key: Key): Violation[] {
  return doubled(table, key.id, key.columns, (named) => `which ${named === 1 ? 'is' : 'are'} a key of it`)
}

function indexViolations(table: Table, { id, columns, where }: Index): Violation[] {
  const ids = columns.map(({ column }) => column)
  const isIn = (row: Row): boolean => where === undefined || evaluate(where, table, row) === true
  const rule = where === undefined ? '' : ` where ${showExpression(where, table.columns)}`
  return doubled(table, id, ids, (named) => `which ${named === 1 ? 'is' : 'are'} unique${rule}`, isIn)
}

/** Rows that are the same in columns in which all are to be apart. */
function doubled(
  table: Table,
  of: string,
  columns: readonly ColumnId[],
  rule: (named: number) => string,
  isIn: (row: Row) => boolean = () => true
): Violation[] {
  const seen = new Map<string, number>()
  const found = new Set<number>()
  table.rows.forEach((row, at) => {
    const said = isIn(row) ? textOfKey(table, columns, row) : undefined
    if (said === undefined) return
    const first = seen.get(said)
    if (first === undefined) return void seen.set(said, at)
    found.add(first).add(at)
  })
  if (found.size === 0) return []
  const rows = [...found].sort((one, other) => one - other)
  const named = columnsIn(table, columns).map(({ name }) => name)
  const message = `${sayRows(rows)} of ${table.name} are not apart in ${named.join(', ')}, ${rule(named.length)}.`
  return [{ kind: 'key', table: table.id, of, rows, message }]
}

/** Of rows that are not apart, all but the first of each. */
export function laterOnes(table: Table, { of, rows }: Violation): number[] {
  const index = table.indexes.find((each) => each.id === of)
  const columns = keyOf(table, of)?.columns ?? index?.columns.map(({ column }) => column) ?? []
  const seen = new Set<string | undefined>()
  return rows.filter((at) => {
    const said = textOfKey(table, columns, table.rows[at] ?? {})
    const isLater = seen.has(said)
    seen.add(said)
    return isLater
  })
}

function referenceViolations(design: Design, table: Table, foreignKey: ForeignKey): Violation[] {
  const parent = tableOf(design, foreignKey.table)
  const key = parent && keyOf(parent, foreignKey.key)
  // What rows another system has is not known here.
  if (!parent || !key || parent.external || table.external) return []
  const there = keyValues(parent, key)
  const own = key.columns.map((id) => foreignKey.pairs.find((pair) => pair.refersTo === id)?.column ?? '')
  const types = columnsIn(parent, key.columns)
  const rows = placesOf(table.rows, (row) => {
    const said = textOfKey(table, own, row, types)
    return said !== undefined && !there.has(said)
  })
  if (rows.length === 0) return []
  const named = columnsIn(table, own)
    .map(({ name }) => name)
    .join(', ')
  const message = `${sayRows(rows)} of ${table.name} ${rows.length === 1 ? 'refers' : 'refer'} by ${named} to nothing that is in ${parent.name}.`
  return [{ kind: 'reference', table: table.id, of: foreignKey.id, rows, message }]
}

/** Rows that none refers to, where each is to have at least one and that is held. */
function minimumViolations(design: Design, table: Table, foreignKey: ForeignKey): Violation[] {
  const parent = tableOf(design, foreignKey.table)
  if (foreignKey.atLeastOne !== 'held' || !parent || parent === table) return []
  if (parent.external || table.external) return []
  const targets = foreignKey.pairs.map(({ refersTo }) => refersTo)
  const types = columnsIn(parent, targets)
  const own = foreignKey.pairs.map(({ column }) => column)
  const referred = new Set(table.rows.map((row) => textOfKey(table, own, row, types)))
  const rows = placesOf(parent.rows, (row) => !referred.has(textOfKey(parent, targets, row)))
  if (rows.length === 0) return []
  const message = `${sayRows(rows)} of ${parent.name} ${rows.length === 1 ? 'has' : 'have'} no ${table.name}, and each is to have at least one.`
  return [{ kind: 'minimum', table: parent.id, of: foreignKey.id, rows, message }]
}

function checkViolations(table: Table, check: Check): Violation[] {
  const rows = placesOf(table.rows, (row) => evaluate(check.condition, table, row) === false)
  if (rows.length === 0) return []
  const message = `${sayRows(rows)} of ${table.name} ${rows.length === 1 ? 'does' : 'do'} not meet ${showExpression(check.condition, table.columns)}.`
  return [{ kind: 'check', table: table.id, of: check.id, rows, message }]
}

/** The values of a key that are there, each as one text. */
function keyValues(table: Table, key: Key): ReadonlySet<string> {
  const values = table.rows.map((row) => textOfKey(table, key.columns, row))
  return new Set(values.filter((value) => value !== undefined))
}

const placesOf = (rows: readonly Row[], is: (row: Row) => boolean): number[] =>
  rows.flatMap((row, at) => (is(row) ? [at] : []))

/** How many rows are named one by one. */
const NAMED = 5

/** `Row 3`, `Rows 3, 5 and 9`, `Rows 1, 2, 3, 4, 5 and 12 more`. */
function sayRows(rows: readonly number[]): string {
  const named = rows.slice(0, NAMED).map((at) => String(at + 1))
  const more = rows.length - named.length
  if (more > 0) return `Rows ${named.join(', ')} and ${more} more`
  const last = named.pop() ?? ''
  return named.length === 0 ? `Row ${last}` : `Rows ${named.join(', ')} and ${last}`
}
