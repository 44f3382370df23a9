import { once } from '../once.ts'
import { byId } from './by-id.ts'
import { columnsIn, keyOf, tableOf } from './directory.ts'
import { evaluate } from './evaluate.ts'
import { showExpression } from './expressions.ts'
import type { Check, Column, ColumnId, Design, ForeignKey, Index, Key, Row, Table } from './model.ts'
import { textOfKey } from './key-text.ts'
import { finish, STRETCH, type Paused } from './paused.ts'
import { RowIndex, rowIndexPaused, wayBy, type LookupColumns } from './row-index.ts'
import { MANY, movedPlaces, rowsDelta, Successive, type RowsDelta } from './successive.ts'

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
export const violations = (design: Design): Violation[] => finish(violationsPaused(design))

/** The same, with stops. */
export function* violationsPaused(design: Design): Paused<Violation[]> {
  const all: Violation[] = []
  for (const found of violationsByRule(design)) {
    all.push(...(found ?? []))
    yield
  }
  return all
}

/**
 * The same rule by rule, with stops within those that look through many rows, so that whoever has them can pause. What
 * was found of a rule is remembered as long as the tables that it is about stay the same; where few rows have changed,
 * only these are looked at.
 */
export function* violationsByRule(design: Design): Generator<readonly Violation[] | undefined> {
  for (const table of design.tables) {
    for (const rule of ownRules(table)) yield yield* broken(table, rule)
    for (const key of table.foreignKeys) yield yield* betweenViolations(design, table, key)
  }
}

/** The references of a design's rows that lead nowhere. */
export function* lostReferences(design: Design): Paused<readonly Violation[]> {
  const all: Violation[] = []
  for (const table of design.tables)
    for (const key of table.foreignKeys) all.push(...(yield* referenceViolations(design, table, key)))
  return all
}

/** Nothing of which anything is said. */
const NOTHING: readonly Violation[] = []

/** What was found of a table's references, by the table that each is to. */
const foundBetween = once(
  (_: Table): Map<string, { parent: Table; found: readonly Violation[] }> => new Map()
)

function* betweenViolations(design: Design, table: Table, key: ForeignKey): Paused<readonly Violation[]> {
  const parent = tableOf(design, key.table)
  if (!parent) return NOTHING
  const known = foundBetween(table).get(key.id)
  if (known?.parent === parent) return known.found
  const found = [
    ...(yield* referenceViolations(design, table, key)),
    ...(yield* minimumViolations(design, table, key))
  ]
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
    return [...own, ...references.flatMap((key) => finish(betweenViolations(after, table, key)))]
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
const ownViolations = (table: Table): readonly Violation[] =>
  ownRules(table).flatMap((rule) => finish(broken(table, rule)))

/** One of a table's own rules: which rows break it, and how that is said. */
interface OwnRule {
  id: string
  /** What the rule is: the same value as long as it says the same. */
  of: Column | Key | Index | Check
  find(): Paused<readonly number[]>
  /** Whether a row breaks it by itself, where that can be told of each row. */
  breaks?: (row: Row) => boolean
  say(rows: readonly number[]): Violation
}

const NO_RULES: readonly OwnRule[] = []

const ownRules = once((table: Table): readonly OwnRule[] => {
  if (table.external || table.rows.length === 0) return NO_RULES
  const { columns, primaryKey, uniques, indexes, checks } = table
  return [
    ...columns.flatMap((each) => requiredRule(table, each) ?? []),
    ...[...(primaryKey ? [primaryKey] : []), ...uniques].map((each) => keyRule(table, each)),
    ...indexes.filter(({ unique }) => unique).map((each) => indexRule(table, each)),
    ...checks.map((each) => checkRule(table, each))
  ]
})

/** Which rows broke a rule the last time, by what the rule is. */
const brokenBy = new WeakMap<OwnRule['of'], Successive<readonly number[]>>()

function successive(rule: OwnRule): Successive<readonly number[]> {
  const known = brokenBy.get(rule.of)
  if (known) return known
  const ruleOf = (table: Table): OwnRule | undefined => ownRules(table).find(({ id }) => id === rule.id)
  const made = new Successive<readonly number[]>(
    (before, after) =>
      before.columns === after.columns &&
      ruleOf(before)?.of === ruleOf(after)?.of &&
      ruleOf(after)?.breaks !== undefined,
    () => [],
    (places, delta, _, after) => {
      const breaks = ruleOf(after)?.breaks ?? ((): boolean => false)
      const within: number[] = []
      for (let at = delta.head; at < delta.head + delta.after; at++)
        if (breaks(after.rows[at] as Row)) within.push(at)
      return movedPlaces(places, delta, within)
    }
  )
  brokenBy.set(rule.of, made)
  return made
}

function* broken(table: Table, rule: OwnRule): Paused<readonly Violation[]> {
  const all = successive(rule)
  const rows = all.found(table) ?? all.keep(table, yield* rule.find())
  return rows.length === 0 ? NOTHING : [rule.say(rows)]
}

/** The places of the rows that a condition is true of, with stops. */
function* placesOf(rows: readonly Row[], is: (row: Row) => boolean): Paused<readonly number[]> {
  const places: number[] = []
  for (let at = 0; at < rows.length; at++) {
    if (at % STRETCH === STRETCH - 1) yield
    if (is(rows[at] as Row)) places.push(at)
  }
  return places
}

function requiredRule(table: Table, column: Column): OwnRule | undefined {
  const isInKey = table.primaryKey?.columns.includes(column.id) ?? false
  const isFilledByEngine = column.computed !== undefined || column.default !== undefined
  if ((!column.required && !isInKey) || isFilledByEngine) return undefined
  const breaks = (row: Row): boolean => (row[column.id] ?? null) === null
  return {
    id: column.id,
    of: column,
    breaks,
    find: () => placesOf(table.rows, breaks),
    say: (rows) => ({
      kind: 'required',
      table: table.id,
      of: column.id,
      rows,
      message: `${sayRows(rows)} of ${table.name} ${rows.length === 1 ? 'has' : 'have'} nothing in ${column.name}, which is required.`
    })
  }
}

function keyRule(table: Table, key: Key): OwnRule {
  const way = wayBy(key.columns)
  return {
    id: key.id,
    of: key,
    *find() {
      return sharedPlaces(yield* rowIndexPaused(table, way))
    },
    say: (rows) =>
      sayDoubled(
        table,
        key.id,
        key.columns,
        rows,
        (named) => `which ${named === 1 ? 'is' : 'are'} a key of it`
      )
  }
}

function indexRule(table: Table, index: Index): OwnRule {
  const { id, columns, where } = index
  const ids = columns.map(({ column }) => column)
  const textOf = (row: Row): string | undefined =>
    where !== undefined && evaluate(where, table, row) !== true ? undefined : textOfKey(table, ids, row)
  const rule = where === undefined ? '' : ` where ${showExpression(where, table.columns)}`
  return {
    id,
    of: index,
    *find() {
      if (where === undefined) return sharedPlaces(yield* rowIndexPaused(table, wayBy(ids)))
      return sharedPlaces(yield* RowIndex.made(table, textOf))
    },
    say: (rows) =>
      sayDoubled(table, id, ids, rows, (named) => `which ${named === 1 ? 'is' : 'are'} unique${rule}`)
  }
}

function checkRule(table: Table, check: Check): OwnRule {
  const breaks = (row: Row): boolean => evaluate(check.condition, table, row) === false
  return {
    id: check.id,
    of: check,
    breaks,
    find: () => placesOf(table.rows, breaks),
    say: (rows) => ({
      kind: 'check',
      table: table.id,
      of: check.id,
      rows,
      message: `${sayRows(rows)} of ${table.name} ${rows.length === 1 ? 'does' : 'do'} not meet ${showExpression(check.condition, table.columns)}.`
    })
  }
}

/** The rows that hold what another holds too. */
const sharedPlaces = (index: RowIndex): readonly number[] =>
  [...index.shared].flatMap((text) => index.get(text)).sort((one, other) => one - other)

/** Rows that are the same in columns in which all are to be apart. */
function sayDoubled(
  table: Table,
  of: string,
  columns: readonly ColumnId[],
  rows: readonly number[],
  rule: (named: number) => string
): Violation {
  const named = columnsIn(table, columns).map(({ name }) => name)
  const message = `${sayRows(rows)} of ${table.name} are not apart in ${named.join(', ')}, ${rule(named.length)}.`
  return { kind: 'key', table: table.id, of, rows, message }
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

/** How rows of a table refer by a reference, as they do and as they are referred to. */
interface Ends {
  parent: Table
  own: LookupColumns
  its: LookupColumns
}

/** Nothing where another system has a side: what rows it has is not known here. */
function endsOf(design: Design, table: Table, foreignKey: ForeignKey): Ends | undefined {
  const parent = tableOf(design, foreignKey.table)
  const key = parent && keyOf(parent, foreignKey.key)
  if (!parent || !key || parent.external || table.external) return undefined
  const own = key.columns.map((id) => foreignKey.pairs.find((pair) => pair.refersTo === id)?.column ?? '')
  return { parent, own: wayBy(own, columnsIn(parent, key.columns)), its: wayBy(key.columns) }
}

/** Which rows of a table led nowhere the last time, by the reference. */
const lostBefore = new Map<string, { table: Table; parent: Table; rows: readonly number[] }>()

/** Of so many references it is remembered. */
const MOST_REFERENCES = 60

/** The rows that refer to what is not there; where few have changed since they were looked at, only these are. */
function* lostRows(table: Table, id: string, { parent, own, its }: Ends): Paused<readonly number[]> {
  const there = yield* rowIndexPaused(parent, its)
  const isLost = (row: Row): boolean => {
    const said = textOfKey(table, own.columns, row, own.as)
    return said !== undefined && !there.has(said)
  }
  const last = lostBefore.get(id)
  const isNear =
    last !== undefined &&
    last.table.columns === table.columns &&
    last.table.rows.length >= MANY &&
    isReferredAlike(last.parent, parent, its)
  const delta = isNear ? rowsDelta(last.table.rows, table.rows) : undefined
  const within = delta?.after ?? Infinity
  const rows =
    last && delta && within < table.rows.length / 4
      ? movedPlaces(last.rows, delta, placesWithin(table, delta, isLost))
      : yield* placesOf(table.rows, isLost)
  lostBefore.delete(id)
  if (table.rows.length >= MANY) lostBefore.set(id, { table, parent, rows })
  const [oldest] = lostBefore.keys()
  if (lostBefore.size > MOST_REFERENCES && oldest !== undefined) lostBefore.delete(oldest)
  return rows
}

function placesWithin(table: Table, { head, after }: RowsDelta, is: (row: Row) => boolean): number[] {
  const places: number[] = []
  for (let at = head; at < head + after; at++) if (is(table.rows[at] as Row)) places.push(at)
  return places
}

/** Whether the rows of two states of a table are referred to by the same. */
function isReferredAlike(one: Table, other: Table, its: LookupColumns): boolean {
  if (one === other) return true
  if (one.columns !== other.columns) return false
  const { head, before, after } = rowsDelta(one.rows, other.rows)
  if (before !== after || after > MANY) return false
  const textAt = ({ rows }: Table, at: number): string | undefined =>
    textOfKey(other, its.columns, rows[at] as Row)
  for (let at = head; at < head + after; at++) if (textAt(one, at) !== textAt(other, at)) return false
  return true
}

function* referenceViolations(
  design: Design,
  table: Table,
  foreignKey: ForeignKey
): Paused<readonly Violation[]> {
  const ends = endsOf(design, table, foreignKey)
  const rows = ends ? yield* lostRows(table, foreignKey.id, ends) : []
  if (!ends || rows.length === 0) return NOTHING
  const { parent, own } = ends
  const named = columnsIn(table, own.columns)
    .map(({ name }) => name)
    .join(', ')
  const message = `${sayRows(rows)} of ${table.name} ${rows.length === 1 ? 'refers' : 'refer'} by ${named} to nothing that is in ${parent.name}.`
  return [{ kind: 'reference', table: table.id, of: foreignKey.id, rows, message }]
}

/** Rows that none refers to, where each is to have at least one and that is held. */
function* minimumViolations(
  design: Design,
  table: Table,
  foreignKey: ForeignKey
): Paused<readonly Violation[]> {
  const parent = tableOf(design, foreignKey.table)
  if (foreignKey.atLeastOne !== 'held' || !parent || parent === table) return NOTHING
  if (parent.external || table.external) return NOTHING
  const targets = foreignKey.pairs.map(({ refersTo }) => refersTo)
  const own = foreignKey.pairs.map(({ column }) => column)
  const referred = yield* rowIndexPaused(table, wayBy(own, columnsIn(parent, targets)))
  const rows = yield* placesOf(parent.rows, (row) => {
    const text = textOfKey(parent, targets, row)
    return text === undefined || !referred.has(text)
  })
  if (rows.length === 0) return NOTHING
  const message = `${sayRows(rows)} of ${parent.name} ${rows.length === 1 ? 'has' : 'have'} no ${table.name}, and each is to have at least one.`
  return [{ kind: 'minimum', table: parent.id, of: foreignKey.id, rows, message }]
}

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
