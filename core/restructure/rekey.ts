import { STILL } from '../carry/flow.ts'
import type { Fill, Flow } from '../design/carry.ts'
import { columnOf, columnsIn, keyOf, keysOf, referencesTo, sameSet } from '../design/directory.ts'
import {
  newId,
  type Column,
  type ColumnId,
  type ForeignKey,
  type Index,
  type Key,
  type KeyId,
  type Table,
  type TableId
} from '../design/model.ts'
import type { Operation } from '../edit/operation.ts'
import { apply } from '../edit/apply.ts'
import { freeName, referenceNames } from '../naming/names.ts'
import { stuck, type Restructuring } from './restructuring.ts'

/** How deep keys may be made of keys. */
const DEEPEST = 30

/**
 * Makes other columns the key of a table, and lets everything that refers by that key follow: the columns of
 * a reference go with those of the key, the keys that they are in go with them, and so on down. What they
 * held is looked up. A key of which no column stays is another key, with an id of its own.
 * @param becomes columns that the table has by now, in the order of the key
 * @throws Stuck
 */
export function rekey(
  restructuring: Restructuring,
  table: TableId,
  key: KeyId,
  becomes: readonly ColumnId[],
  depth = 0
): void {
  const before = restructuring.table(table)
  const old = keyOf(before, key) ?? stuck(`${before.name} no longer has that key.`)
  if (depth > DEEPEST) stuck(`The key of ${before.name} is made of itself, by way of others.`)
  const references = referencesTo(restructuring.design, table).filter(
    ({ foreignKey }) => foreignKey.key === key
  )
  for (const { table: child, foreignKey } of references)
    restructuring.do({ kind: 'foreignKey.remove', table: child.id, foreignKey: foreignKey.id })
  const isSame = old.columns.some((id) => becomes.includes(id))
  const now: Key = { ...old, id: isSame ? old.id : newId('k'), columns: [...becomes] }
  setKey(restructuring, before, old, now)
  for (const { table: child, foreignKey } of references)
    follow(restructuring, table, old.columns, child, { ...foreignKey, key: now.id }, depth)
}

function setKey(restructuring: Restructuring, table: Table, old: Key, key: Key): void {
  if (table.primaryKey?.id === old.id) {
    restructuring.do({ kind: 'key.setPrimary', table: table.id, key })
    return
  }
  const at = table.uniques.findIndex(({ id }) => id === old.id)
  restructuring.do(
    { kind: 'unique.remove', table: table.id, key: old.id },
    { kind: 'unique.add', table: table.id, key, at }
  )
}

/** One reference goes after the key that it is by; it is taken out by now. */
function follow(
  restructuring: Restructuring,
  parentId: TableId,
  was: readonly ColumnId[],
  before: Table,
  foreignKey: ForeignKey,
  depth: number
): void {
  const parent = restructuring.table(parentId)
  const key = keyOf(parent, foreignKey.key) ?? stuck(`${parent.name} no longer has that key.`)
  const child = restructuring.table(before.id)
  const staying = foreignKey.pairs.filter((pair) => key.columns.includes(pair.refersTo))
  const leaving = foreignKey.pairs.filter((pair) => !key.columns.includes(pair.refersTo))
  const isFree = ({ column }: { column: ColumnId }): boolean =>
    child.foreignKeys.every((each) => each.pairs.every((pair) => pair.column !== column)) &&
    staying.every((pair) => pair.column !== column)
  const gone = leaving.filter(isFree).map(({ column }) => column)
  const made = madeColumns(restructuring, { ...parent, primaryKey: key }, was, child, foreignKey, gone)
  const pairs = key.columns.map((refersTo) => {
    const stays = staying.find((pair) => pair.refersTo === refersTo)
    return stays ?? { column: made.get(refersTo)?.column.id ?? '', refersTo }
  })
  lookUp(restructuring, parent, child, foreignKey.pairs, pairs, made)
  keysFollow(restructuring, child.id, foreignKey.pairs, pairs, gone, depth)
  indexesFollow(
    restructuring,
    child.id,
    [...made.values()].map(({ column }) => column.id),
    gone
  )
  const on = { table: child.id }
  lookUpBack(restructuring, parent, child, foreignKey.pairs, pairs)
  restructuring.do(
    ...gone.map((column): Operation => ({ kind: 'column.remove', ...on, column })),
    ...[...made.values()]
      .filter(({ column, name }) => column.name !== name)
      .map(({ column, name }): Operation => ({ kind: 'column.rename', ...on, column: column.id, name })),
    { kind: 'foreignKey.add', ...on, foreignKey: { ...foreignKey, id: newId('f'), pairs } }
  )
  const again = restructuring.table(child.id).foreignKeys.at(-1)?.id ?? ''
  copiesFollow(restructuring, before, foreignKey, again)
}

interface Made {
  column: Column
  /** What it is called when the old ones are out of the way. */
  name: string
}

/** The columns that a reference needs for what is new in the key, by what they refer to. */
function madeColumns(
  { design }: Restructuring,
  parent: Table & { primaryKey: Key },
  was: readonly ColumnId[],
  child: Table,
  foreignKey: ForeignKey,
  gone: readonly ColumnId[]
): Map<ColumnId, Made> {
  const staying = child.columns.filter(({ id }) => !gone.includes(id)).map(({ name }) => name)
  const names = referenceNames(parent, child, design.policy, staying)
  const required = foreignKey.pairs.every((pair) => columnOf(child, pair.column)?.required)
  const taken = child.columns.map(({ name }) => name)
  const made = new Map<ColumnId, Made>()
  for (const [at, target] of columnsIn(parent, parent.primaryKey.columns).entries()) {
    if (was.includes(target.id)) continue
    const name = names[at] ?? target.name
    const passing = freeName(name, taken)
    taken.push(passing)
    made.set(target.id, {
      name,
      column: { id: newId('c'), name: passing, type: target.type, required }
    })
  }
  return made
}

/** The new columns of a reference hold what stands in the row that it led to. */
function lookUp(
  restructuring: Restructuring,
  parent: Table,
  child: Table,
  was: ForeignKey['pairs'],
  becomes: ForeignKey['pairs'],
  made: ReadonlyMap<ColumnId, Made>
): void {
  if (made.size === 0) return
  const fresh = becomes.filter((pair) => made.has(pair.refersTo))
  const at = Math.min(...was.map((pair) => child.columns.findIndex(({ id }) => id === pair.column)))
  restructuring.carry(
    byKey(child, parent, was, fresh),
    STILL,
    ...[...made.values()].map(({ column }, n): Operation => ({
      kind: 'column.add',
      table: child.id,
      column,
      at: at + n
    }))
  )
}

/**
 * How columns that go are looked up on the way back. That is a carry of its own, taken up when they go: on the way
 * back it comes first then, and those of the keys that are made of this one find what they read.
 */
function lookUpBack(
  restructuring: Restructuring,
  parent: Table,
  child: Table,
  was: ForeignKey['pairs'],
  becomes: ForeignKey['pairs']
): void {
  const gone = was.filter((pair) => becomes.every(({ column }) => column !== pair.column))
  if (gone.length > 0) restructuring.carry(STILL, byKey(child, parent, becomes, gone))
}

/** What a reference by some columns stands for in others: looked up in the row referred to. */
function byKey(child: Table, parent: Table, was: ForeignKey['pairs'], becomes: ForeignKey['pairs']): Flow {
  const fill: Fill = {
    table: child.id,
    columns: becomes.map((pair) => ({ id: pair.column, from: pair.refersTo })),
    from: { kind: 'table', table: parent.id },
    on: was.map((pair) => ({ own: pair.column, other: pair.refersTo }))
  }
  return { ...STILL, fills: [fill] }
}

/** The keys that have the columns of the reference in them, or some that go, have the new ones instead. */
function keysFollow(
  restructuring: Restructuring,
  child: TableId,
  was: ForeignKey['pairs'],
  becomes: ForeignKey['pairs'],
  gone: readonly ColumnId[],
  depth: number
): void {
  const old = was.map(({ column }) => column)
  const now = becomes.map(({ column }) => column)
  const fresh = now.filter((id) => !old.includes(id))
  for (const { id, columns } of keysOf(restructuring.table(child))) {
    const isWhole = old.every((column) => columns.includes(column))
    const loses = columns.some((column) => gone.includes(column))
    if (!loses && (!isWhole || fresh.length === 0)) continue
    const place = columns.findIndex((column) => (isWhole ? old : gone).includes(column))
    const coming = isWhole ? now : fresh
    const rest = columns.filter((column) => !gone.includes(column) && !(isWhole && old.includes(column)))
    const before = columns.slice(0, place).filter((column) => rest.includes(column))
    const after = rest.filter((column) => !before.includes(column))
    const becoming = [...new Set([...before, ...coming, ...after])]
    rekey(restructuring, child, id, becoming, depth + 1)
  }
}

/** Indexes on columns that go are on the new ones. */
function indexesFollow(
  restructuring: Restructuring,
  child: TableId,
  made: readonly ColumnId[],
  gone: readonly ColumnId[]
): void {
  for (const index of restructuring.table(child).indexes) {
    const place = index.columns.findIndex(({ column }) => gone.includes(column))
    if (place < 0) continue
    const stays = (each: Index['columns'][number]): boolean => !gone.includes(each.column)
    const columns = [
      ...index.columns.slice(0, place).filter(stays),
      ...made.map((column) => ({ column, descending: false })),
      ...index.columns.slice(place).filter(stays)
    ]
    if (columns.length === 0) restructuring.do({ kind: 'index.remove', table: child, index: index.id })
    else restructuring.do({ kind: 'index.change', table: child, index: { ...index, columns } })
  }
}

/** What is copied by way of the reference is so by the new one. */
function copiesFollow(
  restructuring: Restructuring,
  before: Table,
  foreignKey: ForeignKey,
  again: string,
  of = (column: ColumnId): ColumnId => column
): void {
  for (const { id, copied } of before.columns)
    if (copied?.foreignKey === foreignKey.id && columnOf(restructuring.table(before.id), id))
      restructuring.do({
        kind: 'column.copy',
        table: before.id,
        column: id,
        copied: { ...copied, foreignKey: again, column: of(copied.column) }
      })
}

/** What a reference goes to, and by which columns. */
export type Goal = Pick<ForeignKey, 'table' | 'key' | 'pairs'>

/**
 * A reference goes to another key, of another table maybe, or to one of several: by columns that are there and filled
 * by now. Those that it went by go, and the keys and indexes that they are in follow.
 * @param way how the columns that go are filled on the way back, and which column is copied instead of another
 */
export function followAnother(
  restructuring: Restructuring,
  before: Table,
  foreignKey: ForeignKey,
  goals: readonly Goal[],
  { back, copied }: { back: Fill; copied(column: ColumnId): ColumnId }
): void {
  const on = { table: before.id }
  restructuring.do({ kind: 'foreignKey.remove', ...on, foreignKey: foreignKey.id })
  const child = restructuring.table(before.id)
  const pairs = goals.flatMap((goal) => goal.pairs)
  const isFree = (column: ColumnId): boolean =>
    child.foreignKeys.every((each) => each.pairs.every((pair) => pair.column !== column))
  const gone = foreignKey.pairs.map(({ column }) => column).filter(isFree)
  keysFollow(restructuring, before.id, foreignKey.pairs, pairs, gone, 0)
  indexesFollow(
    restructuring,
    before.id,
    pairs.map(({ column }) => column),
    gone
  )
  const columns = back.columns.filter(({ id }) => gone.includes(id))
  if (columns.length > 0) restructuring.carry(STILL, { ...STILL, fills: [{ ...back, columns }] })
  const again = goals.map((goal): ForeignKey => ({
    ...foreignKey,
    ...goal,
    id: newId('f'),
    name: undefined
  }))
  restructuring.do(
    ...gone.map((column): Operation => ({ kind: 'column.remove', ...on, column })),
    ...again.map((each): Operation => ({ kind: 'foreignKey.add', ...on, foreignKey: each }))
  )
  const [only, ...others] = again
  if (only && others.length === 0) copiesFollow(restructuring, before, foreignKey, only.id, copied)
}

/** Refuses columns that cannot be a primary key. */
export function mustBeKey({ design }: Restructuring, table: Table, columns: readonly ColumnId[]): void {
  const open = columnsIn(table, columns).find((column) => !column.required || column.computed !== undefined)
  if (open?.computed !== undefined) stuck(`${open.name} is computed, and a primary key is given.`)
  if (open) stuck(`${open.name} may be empty, and a primary key never is. Require it first.`)
  if (isKept(table, columns)) return
  const key: Key = { id: newId('k'), columns: [...columns] }
  const held = apply(design, { kind: 'unique.add', table: table.id, key })
  if (!held.ok) stuck(held.refusal.message)
}

const isKept = (table: Table, columns: readonly ColumnId[]): boolean =>
  keysOf(table).some((key) => sameSet(key.columns, columns))

/** A unique key on the columns, unless the table is held to that by now. */
export function keepUnique(restructuring: Restructuring, table: TableId, columns: readonly ColumnId[]): void {
  if (!isKept(restructuring.table(table), columns))
    restructuring.do({ kind: 'unique.add', table, key: { id: newId('k'), columns: [...columns] } })
}
