import { byId } from '../design/by-id.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import { isEqual } from '../design/equal.ts'
import { tidyRow, type Column, type Design, type Enum, type Row, type Table } from '../design/model.ts'
import { IN_DESIGN, IN_TABLE, type PartName, type PartTypes } from '../design/parts/all.ts'
import { idOf, membersOf, withMembers } from '../design/parts/held.ts'
import { fits, type Value } from '../design/value.ts'
import { holderOf, isOf, turned, type Alteration } from './delta.ts'
import { placesBefore } from './rows-between.ts'

/**
 * A state between two: the first with some of what changes to the second. With nothing taken it is the first, with all
 * the second. Whether it holds together is for ./choice.ts to see to.
 */
export function designWith(from: Design, to: Design, taken: readonly Alteration[]): Design {
  const held = byHolder(taken)
  const own = held.get('') ?? []
  const turns = own.filter((each) => isOf('design', each)).filter((each) => each.kind === 'changed')
  const frame = holderWith(IN_DESIGN, turns.reduce<Design>(turned, from), [from, to], own)
  const tables = frame.tables.map((table) => {
    const [before, after, within] = [tableOf(from, table.id), tableOf(to, table.id), held.get(table.id)]
    const states = before && after ? ([before, after] as const) : undefined
    const whole = states && within ? holderWith(IN_TABLE, table, states, within) : table
    const isOfRows = within?.some(({ part }) => part === 'rows') ?? false
    return states ? withRows(whole, states, isOfRows, frame.enums) : whole
  })
  const arePlaced = own.some(({ part }) => part === 'positions')
  return { ...frame, tables, positions: positionsOf(tables, arePlaced ? [to, from] : [from, to]) }
}

/** What is taken, by the id of the table that holds what it is about; empty for what the design itself holds. */
function byHolder(taken: readonly Alteration[]): ReadonlyMap<string, Alteration[]> {
  const groups = new Map<string, Alteration[]>()
  for (const each of taken) {
    const group = groups.get(holderOf(each))
    if (group) group.push(each)
    else groups.set(holderOf(each), [each])
  }
  return groups
}

/** A design or a table with what is taken of the changes in what it holds of these kinds. */
function holderWith<H extends object>(
  names: readonly PartName[],
  holder: H,
  states: readonly [H, H],
  taken: readonly Alteration[]
): H {
  return names.reduce<H>((whole, name) => {
    const isOfName = (each: Alteration): boolean =>
      each.part === name || (each.part === 'order' && each.of === name)
    const own = taken.filter(isOfName)
    return own.length === 0 ? whole : withMembers(name, whole, membersWith(name, states, own))
  }, holder)
}

/** The parts of one kind, with what is taken of their changes. */
function membersWith<P extends PartName>(
  name: P,
  states: readonly [object, object],
  taken: readonly Alteration[]
): PartTypes[P][] {
  const [before, after] = states.map((state) => membersOf(name, state)) as [PartTypes[P][], PartTypes[P][]]
  const idIn = (part: PartTypes[P]): string => idOf(name, part)
  const parts = new Map(before.map((each) => [idIn(each), each]))
  for (const each of taken) {
    if (!isOf(name, each)) continue
    if (each.kind === 'added') parts.set(idIn(each.after), each.after)
    if (each.kind === 'removed') parts.delete(idIn(each.before))
    const old = each.kind === 'changed' && parts.get(idIn(each.before))
    // The only one of its kind may change its id as well.
    if (old && each.kind === 'changed') parts.set(idIn(each.before), turned(old, each))
  }
  const isInOrder = taken.some(({ part }) => part === 'order')
  const ids = (members: readonly PartTypes[P][]): string[] => members.map(idIn)
  const [order, other] = isInOrder ? [ids(after), ids(before)] : [ids(before), ids(after)]
  return inOrder(new Set(parts.keys()), order, other).flatMap((id) => parts.get(id) ?? [])
}

/** Ids in the order of one state; what only another has stands behind what it stood behind there. */
function inOrder(ids: ReadonlySet<string>, order: readonly string[], other: readonly string[]): string[] {
  const sorted = order.filter((id) => ids.has(id))
  const placed = new Set(sorted)
  const passed = new Set<string>()
  for (const id of other) {
    if (ids.has(id) && !placed.has(id)) {
      sorted.splice(sorted.findLastIndex((one) => passed.has(one)) + 1, 0, id)
      placed.add(id)
    }
    passed.add(id)
  }
  return sorted
}

/** Where these tables stand in the diagram: as in the first of two states, or in the other where only that has them. */
function positionsOf(
  tables: readonly Table[],
  [first, second]: readonly [Design, Design]
): Design['positions'] {
  const known = byId(tables)
  const isThere = ([id]: [string, unknown]): boolean => known.has(id)
  const only = Object.entries(second.positions).filter(([id]) => !tableOf(first, id))
  return Object.fromEntries([...Object.entries(first.positions), ...only].filter(isThere))
}

/**
 * A table with rows of one state, as it was before or as it became: a value in a column that is as in the other
 * state comes from the row that is the same one there.
 */
function withRows(
  table: Table,
  [before, after]: readonly [Table, Table],
  areTaken: boolean,
  enums: readonly Enum[]
): Table {
  const [base, other] = areTaken ? [after, before] : [before, after]
  const isAsIn = (state: Table, column: Column): boolean => {
    const old = columnOf(state, column.id)
    return old !== undefined && old.computed === column.computed && isEqual(old.type, column.type)
  }
  const fromOther = table.columns.filter((column) => !isAsIn(base, column))
  const gone = base.columns.filter(({ id }) => !columnOf(table, id))
  if (fromOther.length === 0 && gone.length === 0)
    return table.rows === base.rows ? table : { ...table, rows: base.rows }
  const partners = partnersOf(before, after, areTaken)
  const rows = base.rows.map((row, at) => {
    const values: Row = { ...row }
    for (const { id } of gone) delete values[id]
    for (const column of fromOther) {
      const [own, found] = [row[column.id], partners[at]?.[column.id]]
      values[column.id] =
        isAsIn(other, column) && partners[at] ? (found ?? null) : fitting(own, column, enums)
    }
    return tidyRow(values)
  })
  return { ...table, rows }
}

/** For each row of the base, the one that is the same in the other state. */
function partnersOf(before: Table, after: Table, isBaseAfter: boolean): readonly (Row | undefined)[] {
  const places = placesBefore(before, after)
  if (isBaseAfter) return places.map((at) => (at === undefined ? undefined : before.rows[at]))
  const partners: (Row | undefined)[] = before.rows.map(() => undefined)
  places.forEach((place, at) => {
    if (place !== undefined) partners[place] = after.rows[at]
  })
  return partners
}

/** What a column may hold of a value that was meant for another. */
function fitting(value: Value | undefined, { type, computed }: Column, enums: readonly Enum[]): Value {
  const isHeld = value !== undefined && computed === undefined && fits(value, type, [...enums])
  return isHeld ? value : null
}
