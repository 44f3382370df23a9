import { isEqual } from '../design/equal.ts'
import type { Design, Table, TableId } from '../design/model.ts'
import {
  IN_DESIGN,
  IN_TABLE,
  kindOf,
  type AspectOf,
  type PartName,
  type PartTypes
} from '../design/parts/all.ts'
import { idOf, membersOf, property } from '../design/parts/held.ts'
import { haveSameRows } from './rows-between.ts'

/**
 * The difference between two states of a design, by ids: what it is said with (./compare.ts), what of it can
 * be taken by itself (./choice.ts), and what rows may come up against (./warnings.ts). It has everything that a design
 * holds; {@link schemaDelta} is as much of it as a database knows of.
 */

/** Where something changes. `key` tells it from all others of the same two states. */
interface Place {
  key: string
  /** The table that it is about; empty where it is about none. */
  table: TableId
}
type Coming<P extends PartName> = Place & { part: P; kind: 'added'; after: PartTypes[P] }
type Going<P extends PartName> = Place & { part: P; kind: 'removed'; before: PartTypes[P] }
type Turning<P extends PartName> = Place & {
  part: P
  kind: 'changed'
  aspect: AspectOf<P>
  before: PartTypes[P]
  after: PartTypes[P]
}
export type AlterationOf<P extends PartName> = Coming<P> | Going<P> | Turning<P>
export type PartAlteration = { [P in PartName]: AlterationOf<P> }[PartName]

/** One difference that can be taken by itself. */
export type Alteration =
  | PartAlteration
  /** What both states have of a list stands in another order. */
  | (Place & { part: 'order'; kind: 'changed'; of: PartName })
  /** What rows hold, in columns that both states have alike. */
  | (Place & { part: 'rows'; kind: 'changed'; before: Table; after: Table })
  /** Where tables that both states have stand in the diagram. */
  | (Place & { part: 'positions'; kind: 'changed' })

/** Every difference between two states of a design; an added or removed table is one with all that is in it. */
export function deltaOf(from: Design, to: Design): Alteration[] {
  return [
    ...turns('design', '', from, to),
    ...IN_DESIGN.flatMap((name) => (name === 'table' ? ofTables(from, to) : differences(name, '', from, to))),
    ...positions(from, to)
  ]
}

/** Every difference that the schema of a database has a part in. */
export const schemaDelta = (from: Design, to: Design): Alteration[] => deltaOf(from, to).filter(isOfSchema)

/** Whether the schema of a database has a part in a difference. */
export function isOfSchema(alteration: Alteration): boolean {
  if (!isOfPart(alteration)) return alteration.part === 'order' && alteration.of === 'column'
  const kind = kindOf(alteration.part)
  if (alteration.kind !== 'changed') return kind.isOfSchema
  return kind.aspects[alteration.aspect]?.isOfSchema ?? false
}

function ofTables(from: Design, to: Design): Alteration[] {
  const had = new Map(from.tables.map((table) => [table.id, table]))
  const within = (after: Table): Alteration[] => {
    const before = had.get(after.id)
    return before ? inTable(before, after) : []
  }
  return membersBetween('table', '', from, to, within)
}

function inTable(before: Table, after: Table): Alteration[] {
  if (before === after) return []
  const table = after.id
  return [
    ...IN_TABLE.flatMap((name) => differences(name, table, before, after)),
    ...(haveSameRows(before, after)
      ? []
      : [{ part: 'rows', kind: 'changed', key: `rows ${table}`, table, before, after } as const])
  ]
}

/** The differences between what two states of a design or a table hold of a kind. */
function differences(name: PartName, table: TableId, before: object, after: object): Alteration[] {
  return property(name, before) === property(name, after) ? [] : membersBetween(name, table, before, after)
}

/** @param within what else changes in a part that is in both states */
function membersBetween<P extends PartName>(
  name: P,
  table: TableId,
  before: object,
  after: object,
  within: (after: PartTypes[P]) => Alteration[] = () => []
): Alteration[] {
  const [members, others] = [membersOf(name, before), membersOf(name, after)]
  const [had, has] = [idsOf(name, members), idsOf(name, others)]
  return [
    ...others.flatMap((each): Alteration[] => {
      const old = had.get(idIn(name, each))
      return old ? [...turns(name, table, old, each), ...within(each)] : [coming(name, table, each)]
    }),
    ...members.filter((each) => !has.has(idIn(name, each))).map((each) => going(name, table, each)),
    ...order(name, table, had, has)
  ]
}

/** The only one of its kind goes by what holds it, whatever its id. */
const idIn = <P extends PartName>(name: P, part: PartTypes[P]): string =>
  kindOf(name).as === 'single' ? '' : idOf(name, part)

const idsOf = <P extends PartName>(name: P, members: readonly PartTypes[P][]): Map<string, PartTypes[P]> =>
  new Map(members.map((each) => [idIn(name, each), each]))

function order(
  name: PartName,
  table: TableId,
  had: ReadonlyMap<string, unknown>,
  has: ReadonlyMap<string, unknown>
): Alteration[] {
  if (kindOf(name).as !== 'list') return []
  const after = [...has.keys()].filter((id) => had.has(id))
  let at = 0
  for (const id of had.keys()) {
    if (!has.has(id)) continue
    if (after[at++] !== id)
      return [{ part: 'order', kind: 'changed', of: name, key: keyFrom('order', name, table), table }]
  }
  return []
}

function positions(from: Design, to: Design): Alteration[] {
  if (from.positions === to.positions) return []
  const before = new Set(from.tables.map(({ id }) => id))
  const isMoved = ({ id }: Table): boolean => before.has(id) && !isEqual(from.positions[id], to.positions[id])
  return to.tables.some(isMoved) ? [{ part: 'positions', kind: 'changed', key: 'positions', table: '' }] : []
}

const keyOf = <P extends PartName>(name: P, table: TableId, part: PartTypes[P]): string =>
  keyFrom(name, kindOf(name).as === 'single' ? table : idOf(name, part))

const keyFrom = (...words: string[]): string => words.filter((word) => word !== '').join(' ')

/** The table that a part is about: the one that holds it, the table itself, or the one that it names. */
function aboutOf<P extends PartName>(name: P, table: TableId, part: PartTypes[P]): TableId {
  if (name === 'table') return idOf(name, part)
  if (table !== '' || !('table' in part)) return table
  return part.table
}

function coming<P extends PartName>(part: P, holder: TableId, after: PartTypes[P]): Alteration {
  const [key, table] = [keyOf(part, holder, after), aboutOf(part, holder, after)]
  return { part, kind: 'added', key, table, after } as Alteration
}

function going<P extends PartName>(part: P, holder: TableId, before: PartTypes[P]): Alteration {
  const [key, table] = [keyOf(part, holder, before), aboutOf(part, holder, before)]
  return { part, kind: 'removed', key, table, before } as Alteration
}

function turns<P extends PartName>(
  part: P,
  holder: TableId,
  before: PartTypes[P],
  after: PartTypes[P]
): Alteration[] {
  if (before === after) return []
  const table = aboutOf(part, holder, after)
  return Object.entries(kindOf(part).aspects)
    .filter(([, { of }]) => of.some((key) => !isEqual(before[key], after[key])))
    .map(([aspect]) => {
      const key = keyFrom(keyOf(part, holder, after), aspect)
      return { part, kind: 'changed', aspect, key, table, before, after } as Alteration
    })
}

/** The id of the table that holds what a difference is about; empty where the design itself does. */
export function holderOf(alteration: Alteration): TableId {
  const { part, table } = alteration
  if (part === 'positions') return ''
  if (part === 'rows') return table
  return kindOf(part === 'order' ? alteration.of : part).heldBy === 'table' ? table : ''
}

/** Whether a difference is in a part, and not in how parts stand or what rows hold. */
export const isOfPart = (alteration: Alteration): alteration is PartAlteration =>
  alteration.part !== 'order' && alteration.part !== 'rows' && alteration.part !== 'positions'

export const isOf = <P extends PartName>(
  part: P,
  alteration: Alteration
): alteration is AlterationOf<P> & Alteration => alteration.part === part

/** A part as it is with one aspect of it changed. */
export function turned<P extends PartName>(part: PartTypes[P], { part: name, aspect, after }: Turning<P>) {
  const taken = { ...part }
  for (const key of kindOf(name).aspects[aspect]?.of ?? []) {
    if (after[key] === undefined) delete taken[key]
    else taken[key] = after[key]
  }
  return taken
}

/** What belongs to the aspect that changes, in the state before or after. */
export function aspectIn(
  end: 'before' | 'after',
  { part, aspect, [end]: whole }: Extract<PartAlteration, { kind: 'changed' }>
): unknown[] {
  const aspects: Readonly<Record<string, { of: readonly string[] }>> = kindOf(part).aspects
  return (aspects[aspect]?.of ?? []).map((key): unknown => Reflect.get(whole, key))
}
