import { valuesThere } from './rows.ts'
import { columnOf, columnsIn, referencesTo, sameSet, tableOf, type Reference } from '../design/directory.ts'
import {
  newId,
  type Column,
  type ColumnId,
  type Design,
  type ForeignKey,
  type Key,
  type Table
} from '../design/model.ts'
import type { Parsed } from '../design/type.ts'
import { isComparable } from '../carry/columns.ts'
import { STILL } from '../carry/flow.ts'
import type { Fill, Flow, Flowing } from '../design/carry.ts'
import type { RowQuery } from '../design/row-query.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { freeName, generatedKeyName, referenceNames } from '../naming/names.ts'

/**
 * Makes a unique key the primary key, and the primary key a unique one beside it. Everything that
 * referred by the old key refers by the new: its columns take the place of the old ones, in keys too, the
 * design's rows go along, and a carry lets a migration do the same. Refuses, in words, where the key
 * cannot be one or a key that others refer
 * to would change under them.
 */
export function switchKey(design: Design, table: Table, unique: Key): Parsed<Operation> {
  const old = table.primaryKey
  const columns = columnsIn(table, unique.columns)
  const open = columns.find((column) => !column.required || column.computed !== undefined)
  if (open)
    return {
      ok: false,
      message: `${open.name} ${open.computed === undefined ? 'may be empty, and a primary key never is. Require it first.' : 'is computed, and a primary key is given.'}`
    }
  const doubled = sameRows(table, unique.columns)
  if (doubled)
    return {
      ok: false,
      message: `Rows ${doubled[0]} and ${doubled[1]} of ${table.name} have the same ${columns.map((column) => column.name).join(', ')}, so it is no key of it.`
    }
  const key: Key = { id: newId('k'), columns: [...unique.columns] }
  const references = old
    ? referencesTo(design, table.id).filter((reference) => reference.foreignKey.key === old.id)
    : []
  const stuck = references.find(
    ({ table: child, foreignKey }) =>
      foreignKey.pairs.some((pair) => child.primaryKey?.columns.includes(pair.column)) &&
      referencesTo(design, child.id).some((each) => each.foreignKey.key === child.primaryKey?.id)
  )
  if (stuck)
    return {
      ok: false,
      message: `${stuck.table.name} has ${columnsIn(table, old?.columns ?? [])
        .map((column) => column.name)
        .join(', ')} in its own key, and others refer to that. Change the key of ${stuck.table.name} first.`
    }
  const operations: Operation[] = []
  let current = design
  const carryOut = (some: Operation[]): string | undefined => {
    operations.push(...some)
    const result = apply(current, { kind: 'batch', operations: some })
    if (result.ok) current = result.design
    return result.ok ? undefined : result.refusal.message
  }
  const refused = carryOut([
    ...references.map(({ table: child, foreignKey }): Operation => ({
      kind: 'foreignKey.remove',
      table: child.id,
      foreignKey: foreignKey.id
    })),
    { kind: 'key.setPrimary', table: table.id, key },
    ...(old
      ? [{ kind: 'unique.add' as const, table: table.id, key: { id: newId('k'), columns: old.columns } }]
      : [])
  ])
  if (refused) return { ok: false, message: refused }
  for (const { table: child, foreignKey } of references) {
    // One table may refer twice: what the first made is there when the second follows.
    const now = current.tables.find((each) => each.id === child.id) ?? child
    const message = carryOut(follow(current, { ...table, primaryKey: key }, key, { table: now, foreignKey }))
    if (message) return { ok: false, message: `${child.name} cannot follow. ${message} Take that out first.` }
  }
  return {
    ok: true,
    value: {
      kind: 'batch',
      label: `make ${columns.map((column) => column.name).join(', ')} the key of ${table.name}, and refer by it`,
      operations
    }
  }
}

/** The places, from 1, of two of the table's rows that are the same in the columns. */
function sameRows(table: Table, columns: readonly string[]): [number, number] | undefined {
  const seen = new Map<string, number>()
  for (const [at, row] of table.rows.entries()) {
    const held = JSON.stringify(columns.map((id) => row[id] ?? null))
    const before = seen.get(held)
    if (before !== undefined) return [before + 1, at + 1]
    seen.set(held, at)
  }
  return undefined
}

/**
 * What lets one reference follow to the new key: new columns with the values that the old ones stood for,
 * in the old ones' place.
 */
function follow(
  design: Design,
  parent: Table & { primaryKey: Key },
  key: Key,
  { table: child, foreignKey }: Reference
): Operation[] {
  const gone = foreignKey.pairs
    .map((pair) => pair.column)
    .filter(
      (id) =>
        !child.foreignKeys.some(
          (each) => each !== foreignKey && each.pairs.some((pair) => pair.column === id)
        )
    )
  const staying = child.columns.filter((column) => !gone.includes(column.id))
  const names = referenceNames(
    parent,
    child,
    design.policy,
    staying.map((column) => column.name)
  )
  const required = foreignKey.pairs.every((pair) => columnOf(child, pair.column)?.required)
  const at = Math.min(
    ...foreignKey.pairs.map((pair) => child.columns.findIndex((column) => column.id === pair.column))
  )
  const made = columnsIn(parent, key.columns).map((target, n): Column => ({
    id: newId('c'),
    name: names[n] ?? target.name,
    type: target.type,
    required
  }))
  const pairs = made.map((column, n) => ({ column: column.id, refersTo: key.columns[n] as string }))
  const carry: Flowing = {
    id: newId('y'),
    there: byKey(child, parent, foreignKey.pairs, pairs),
    back: byKey(child, parent, pairs, foreignKey.pairs)
  }
  const replaced = (columns: readonly string[]): string[] =>
    columns.flatMap((id, place) =>
      gone.includes(id)
        ? columns.findIndex((each) => gone.includes(each)) === place
          ? made.map((column) => column.id)
          : []
        : [id]
    )
  const on = { table: child.id }
  return [
    // Under passing names where the old ones are still in the way.
    ...made.map((column, n): Operation => ({
      kind: 'column.add',
      ...on,
      column: {
        ...column,
        name: freeName(
          column.name,
          child.columns.map((each) => each.name)
        )
      },
      at: at + n,
      values: valuesThere(design, carry.there, child.id, column.id)
    })),
    ...(child.primaryKey?.columns.some((id) => gone.includes(id))
      ? [
          {
            kind: 'key.setPrimary' as const,
            ...on,
            key: { ...child.primaryKey, columns: replaced(child.primaryKey.columns) }
          }
        ]
      : []),
    ...child.uniques
      .filter((each) => each.columns.some((id) => gone.includes(id)))
      .flatMap((each): Operation[] => [
        { kind: 'unique.remove', ...on, key: each.id },
        { kind: 'unique.add', ...on, key: { ...each, columns: replaced(each.columns) } }
      ]),
    { kind: 'carry.add', carry },
    ...gone.map((column): Operation => ({ kind: 'column.remove', ...on, column })),
    ...made
      .filter(
        (column) =>
          freeName(
            column.name,
            child.columns.map((each) => each.name)
          ) !== column.name
      )
      .map((column): Operation => ({ kind: 'column.rename', ...on, column: column.id, name: column.name })),
    { kind: 'foreignKey.add', ...on, foreignKey: { ...foreignKey, id: newId('f'), key: key.id, pairs } }
  ]
}

/** A reference that went by some pairs of columns goes by others: they are looked up in the row referred to. */
function byKey(child: Table, parent: Table, was: ForeignKey['pairs'], becomes: ForeignKey['pairs']): Flow {
  const fill: Fill = {
    table: child.id,
    columns: becomes.map((pair) => ({ id: pair.column, from: pair.refersTo })),
    from: { kind: 'table', table: parent.id },
    on: was.map((pair) => ({ own: pair.column, other: pair.refersTo }))
  }
  return { ...STILL, fills: [fill] }
}

/** The same for columns of which no unique key is made yet: they are required and made one first. */
export function switchTo(design: Design, table: Table, columns: readonly string[]): Parsed<Operation> {
  const there = table.uniques.find((each) => sameSet(each.columns, columns))
  const unique: Key = there ?? { id: newId('k'), columns: [...columns] }
  const first: Operation[] = [
    ...columnsIn(table, columns)
      .filter((column) => !column.required)
      .map((column): Operation => ({
        kind: 'column.require',
        table: table.id,
        column: column.id,
        required: true
      })),
    ...(there ? [] : [{ kind: 'unique.add' as const, table: table.id, key: unique }])
  ]
  const made = apply(design, { kind: 'batch', operations: first })
  if (!made.ok) return { ok: false, message: made.refusal.message }
  const switched = switchKey(made.design, tableOf(made.design, table.id) ?? table, unique)
  if (!switched.ok || first.length === 0 || switched.value.kind !== 'batch') return switched
  return { ok: true, value: { ...switched.value, operations: [...first, switched.value] } }
}

/**
 * A generated number as the primary key in place of a natural one, which stays unique beside it; what
 * refers to the table follows.
 */
export function generatedInstead(design: Design, table: Table): Parsed<Operation> {
  const name = generatedKeyName(table, design.policy)
  const column: Column = {
    id: newId('c'),
    name,
    type: { kind: 'integer', size: 'normal' },
    required: true,
    default: { kind: 'generated' }
  }
  const unique: Key = { id: newId('k'), columns: [column.id] }
  const carry = numbering(table, column)
  const numbers = carry
    ? valuesThere(design, carry.there, table.id, column.id)
    : table.rows.map((_, at) => at + 1)
  const first: Operation[] = [
    { kind: 'column.add', table: table.id, column, at: 0, values: numbers },
    ...(carry ? [{ kind: 'carry.add' as const, carry }] : []),
    { kind: 'unique.add', table: table.id, key: unique }
  ]
  const made = apply(design, { kind: 'batch', operations: first })
  if (!made.ok) return { ok: false, message: made.refusal.message }
  const now = tableOf(made.design, table.id)
  const switched = now && switchKey(made.design, now, unique)
  if (!switched?.ok) return switched ?? { ok: false, message: `${table.name} is no longer in the design.` }
  return {
    ok: true,
    value: {
      kind: 'batch',
      label: `give ${table.name} a generated key, and refer by it`,
      operations: [...first, switched.value]
    }
  }
}

/** The rows of a table with a number each, in the order of its key; nothing where it has none to go by. */
function numbered(table: Table, as: ColumnId): { query: RowQuery; key: ColumnId[] } | undefined {
  const key = columnsIn(table, table.primaryKey?.columns ?? [])
  const hasOrder = key.length > 0 && key.every(({ type }) => isComparable(type))
  if (!hasOrder) return undefined
  const ids = key.map(({ id }) => id)
  const of: RowQuery = { kind: 'table', table: table.id }
  return { key: ids, query: { kind: 'number', of, as, by: ids.map((column) => ({ column })) } }
}

/** Lets a migration count a new column as the design's own rows are counted. */
function numbering(table: Table, { id }: Column): Flowing | undefined {
  const rows = numbered(table, id)
  if (!rows) return undefined
  const fill: Fill = {
    table: table.id,
    columns: [{ id, from: id }],
    from: { kind: 'result', name: 'r_numbered' },
    on: rows.key.map((own) => ({ own, other: own }))
  }
  const there: Flow = { ...STILL, results: [{ name: 'r_numbered', query: rows.query }], fills: [fill] }
  return { id: newId('y'), there, back: STILL }
}
