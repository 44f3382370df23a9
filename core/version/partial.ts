import { byId } from '../design/by-id.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import {
  tidyRow,
  type Column,
  type Design,
  type Enum,
  type ForeignKey,
  type Row,
  type Table,
  type TableId
} from '../design/model.ts'
import { canonicalValue } from '../design/same.ts'
import { fits, type Value } from '../design/value.ts'
import { violations, type Violation } from '../design/violations.ts'
import { isOf, turned, type Alteration, type PartName, type PartTypes } from './delta.ts'

/**
 * A state between two: the first with some of what changes to the second. Its rows are those of the second,
 * with what the first had in columns that only it has, and without those that it could not hold.
 * Whether it holds together is for ./choice.ts to see to.
 */
export function designWith(from: Design, to: Design, taken: readonly Alteration[]): Design {
  const policy = taken.some(({ part }) => part === 'policy') ? to.policy : from.policy
  const oldest = taken.some(({ part }) => part === 'oldest') ? to.oldest : from.oldest
  const tables = tablesWith(from, to, taken)
  const design: Design = {
    ...to,
    policy,
    ...(oldest ? { oldest } : { oldest: undefined }),
    schemas: partsWith('schema', from.schemas, to.schemas, taken),
    enums: partsWith('list', from.enums, to.enums, taken),
    tables,
    carries: partsWith('carry', from.carries, to.carries, taken),
    positions: Object.fromEntries(
      Object.entries({ ...from.positions, ...to.positions }).filter(([id]) => byId(tables).has(id))
    )
  }
  return withRows(design, from, to)
}

function tablesWith(from: Design, to: Design, taken: readonly Alteration[]): Table[] {
  const within = byTable(taken)
  return partsWith('table', from.tables, to.tables, taken).map((table) => {
    const [before, after] = [tableOf(from, table.id), tableOf(to, table.id)]
    const own = within.get(table.id)
    return before && after && own ? tableWith(table, before, after, own) : table
  })
}

function byTable<T extends { table: TableId }>(list: readonly T[]): ReadonlyMap<TableId, T[]> {
  const groups = new Map<TableId, T[]>()
  for (const each of list) {
    const group = groups.get(each.table)
    if (group) group.push(each)
    else groups.set(each.table, [each])
  }
  return groups
}

/** A table that is in both states, with what is taken of its changes. */
function tableWith(table: Table, before: Table, after: Table, taken: readonly Alteration[]): Table {
  const columns = partsWith('column', before.columns, after.columns, taken)
  const [primaryKey] = partsWith(
    'primaryKey',
    before.primaryKey ? [before.primaryKey] : [],
    after.primaryKey ? [after.primaryKey] : [],
    taken
  )
  const { primaryKey: _, label, ...rest } = table
  // A row is called by what is there of that.
  const called = label?.filter((id) => byId(columns).has(id)) ?? []
  return {
    ...rest,
    ...(called.length > 0 && { label: called }),
    columns: taken.some(({ part }) => part === 'order')
      ? inOrder(columns, after.columns, before.columns)
      : inOrder(columns, before.columns, after.columns),
    ...(primaryKey && { primaryKey }),
    uniques: partsWith('unique', before.uniques, after.uniques, taken),
    foreignKeys: partsWith('foreignKey', before.foreignKeys, after.foreignKeys, taken).map((key) =>
      asItReads(key, byId(after.foreignKeys).get(key.id))
    ),
    checks: partsWith('check', before.checks, after.checks, taken),
    indexes: partsWith('index', before.indexes, after.indexes, taken),
    rowPolicies: partsWith('rowPolicy', before.rowPolicies, after.rowPolicies, taken)
  }
}

/** How a relationship reads, and is called in code, is no part of the schema: it is as it is in the second state. */
function asItReads(key: ForeignKey, now: ForeignKey | undefined): ForeignKey {
  if (!now) return key
  const { verbs: _, childIs: _is, accessors: _called, ...schema } = key
  const { verbs, childIs, accessors } = now
  return {
    ...schema,
    ...(verbs && { verbs }),
    ...(childIs && { childIs }),
    ...(accessors && { accessors })
  }
}

/** The parts of one kind, with what is taken of their changes, in the order of the second state. */
function partsWith<P extends PartName>(
  part: P,
  before: readonly PartTypes[P][],
  after: readonly PartTypes[P][],
  taken: readonly Alteration[]
): PartTypes[P][] {
  const parts = new Map(before.map((each): [string, PartTypes[P]] => [each.id, each]))
  for (const alteration of taken) {
    if (!isOf(part, alteration)) continue
    if (alteration.kind === 'added') parts.set(alteration.after.id, alteration.after)
    if (alteration.kind === 'removed') parts.delete(alteration.before.id)
    const old = alteration.kind === 'changed' && parts.get(alteration.before.id)
    if (old && alteration.kind === 'changed') parts.set(old.id, turned(old, alteration))
  }
  return inOrder([...parts.values()], after, before)
}

interface Named {
  id: string
}

/** A list in the order of one state; what only another has stands behind what it stood behind there. */
function inOrder<T extends Named>(list: readonly T[], order: readonly Named[], other: readonly Named[]): T[] {
  const known = byId(list)
  const sorted = order.flatMap(({ id }) => known.get(id) ?? [])
  const placed = new Set(sorted.map(({ id }) => id))
  other.forEach(({ id }, at) => {
    const each = known.get(id)
    if (!each || placed.has(id)) return
    const before = new Set(other.slice(0, at).map((one) => one.id))
    sorted.splice(sorted.findLastIndex((one) => before.has(one.id)) + 1, 0, each)
    placed.add(id)
  })
  return sorted
}

/** The design with rows of the second state, as far as it can hold them. */
function withRows(design: Design, from: Design, to: Design): Design {
  const tables = design.tables.map((table) => {
    const [before, after] = [tableOf(from, table.id), tableOf(to, table.id)]
    const rows = after ? rowsFor(table, before, after, design.enums) : (before?.rows ?? [])
    return rows === table.rows ? table : { ...table, rows }
  })
  return withoutViolations({ ...design, tables }, [from, to])
}

function rowsFor(table: Table, before: Table | undefined, after: Table, enums: readonly Enum[]): Row[] {
  if (!before || (before.rows === after.rows && before.columns === after.columns)) return after.rows
  const own = new Map(before.rows.map((row) => [keyOf(row, before), row]))
  // Where rows can no longer be told apart as they were, those of before are taken.
  const isKnown = before.primaryKey?.columns.every((id) => columnOf(after, id)) ?? true
  const rows = isKnown ? after.rows : before.rows
  const isHeld = (column: Column, value: Value | undefined): value is Value =>
    value !== undefined && value !== null && fits(value, column.type, enums)
  return rows.map((row) => {
    const old = own.get(keyOf(row, before))
    const values = table.columns.map((column): [string, Value | null] => {
      const [now, was] = [row[column.id], old?.[column.id]]
      if (columnOf(after, column.id) && isHeld(column, now)) return [column.id, now]
      return [column.id, isHeld(column, was) ? was : null]
    })
    return tidyRow(Object.fromEntries(values))
  })
}

/** A row by the values of the table's primary key, as it is in both states. */
function keyOf(row: Row, { primaryKey, columns }: Table): string {
  const ids = primaryKey?.columns ?? columns.map(({ id }) => id)
  const values = columns
    .filter(({ id }) => ids.includes(id))
    .map(({ id, type }) => canonicalValue(row[id] ?? null, type))
  return JSON.stringify(values)
}

/** The design without the rows that it could not hold, but for what was so before. */
function withoutViolations(design: Design, states: readonly Design[]): Design {
  const name = ({ kind, of }: Violation): string => `${kind} ${of}`
  const known = new Set(states.flatMap(violations).map(name))
  const found = violations(design).filter((each) => each.kind !== 'check' && !known.has(name(each)))
  if (found.length === 0) return design
  const cut = byTable(found)
  const tables = design.tables.map((table) => {
    const rows = new Set(cut.get(table.id)?.flatMap((each) => each.rows))
    return rows.size === 0 ? table : { ...table, rows: table.rows.filter((_, at) => !rows.has(at)) }
  })
  return withoutViolations({ ...design, tables }, states)
}
