import { byId } from '../design/by-id.ts'
import type {
  Check,
  Column,
  Design,
  Enum,
  ForeignKey,
  Index,
  Key,
  Policy,
  RowPolicy,
  Schema,
  Table,
  TableId
} from '../design/model.ts'
import type { Carry } from '../design/carry.ts'
import { once } from '../once.ts'
import { isSamePart } from './sharing.ts'

/**
 * The difference between two states of a design, by ids: what it is said with (./compare.ts), what of it can
 * be taken by itself (./some.ts), and what rows may come up against (./warnings.ts). Rows, places in the
 * diagram, how a relationship reads and is called in code, and the names of designs are no part of a schema and of this.
 */

/** What a design is made of. A table's primary key goes by the table's id. */
export interface PartTypes {
  schema: Schema
  list: Enum
  table: Table
  column: Column
  primaryKey: Key
  unique: Key
  foreignKey: ForeignKey
  check: Check
  index: Index
  rowPolicy: RowPolicy
  carry: Carry
}
export type PartName = keyof PartTypes

type Aspects<P extends PartName> = Readonly<Record<string, readonly (keyof PartTypes[P])[]>>

/** In what a part can change by itself, and what belongs to that. */
const ASPECTS = {
  schema: { name: ['name'] },
  list: { name: ['name'], values: ['values'] },
  table: {
    name: ['name'],
    schema: ['schema'],
    external: ['external'],
    rowSecurity: ['rowSecurity'],
    note: ['note']
  },
  column: {
    name: ['name'],
    type: ['type'],
    required: ['required'],
    default: ['default'],
    computed: ['computed'],
    copied: ['copied'],
    renewed: ['renewed'],
    note: ['note']
  },
  primaryKey: { name: ['name'], columns: ['id', 'columns'] },
  unique: { name: ['name'], columns: ['columns'] },
  foreignKey: {
    name: ['name'],
    target: ['table', 'key', 'pairs'],
    onDelete: ['onDelete'],
    onUpdate: ['onUpdate'],
    deferrable: ['deferrable'],
    atLeastOne: ['atLeastOne']
  },
  check: { name: ['name'], condition: ['condition', 'everywhere'] },
  index: { name: ['name'], rows: ['columns', 'unique', 'where', 'everywhere'] },
  rowPolicy: { name: ['name'], rows: ['command', 'role', 'condition', 'writes'] },
  carry: {}
} as const satisfies { [P in PartName]: Aspects<P> }

type AspectOf<P extends PartName> = keyof (typeof ASPECTS)[P] & string

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
  /** The columns that a table has in both states stand in another order. */
  | (Place & { part: 'order'; kind: 'changed'; before: Table; after: Table })
  | (Place & { part: 'policy'; kind: 'changed'; before: Policy; after: Policy })
  /** The versions of engines that it is to run on. */
  | (Place & { part: 'oldest'; kind: 'changed'; before: Design['oldest']; after: Design['oldest'] })

/** Every difference between two states of a design; an added or removed table is one with all that is in it. */
export function deltaOf(from: Design, to: Design): Alteration[] {
  const [had, has] = [byId(from.tables), byId(to.tables)]
  return [
    ...(sameIn(from.policy, to.policy)
      ? []
      : [{ ...policyPlace, before: from.policy, after: to.policy } as const]),
    ...(sameIn(from.oldest ?? {}, to.oldest ?? {})
      ? []
      : [{ ...oldestPlace, before: from.oldest, after: to.oldest } as const]),
    ...partsBetween('schema', '', from.schemas, to.schemas),
    ...partsBetween('list', '', from.enums, to.enums),
    ...to.tables.flatMap((table): Alteration[] => {
      const before = had.get(table.id)
      return before ? inTable(before, table) : [coming('table', table.id, table)]
    }),
    ...from.tables.filter(({ id }) => !has.has(id)).map((table) => going('table', table.id, table)),
    ...partsBetween('carry', '', from.carries, to.carries)
  ]
}

const oldestPlace = { part: 'oldest', kind: 'changed', key: 'oldest', table: '' } as const
const policyPlace = { part: 'policy', kind: 'changed', key: 'policy', table: '' } as const

/** A table but for its rows. */
const bare = once((table: Table): Table => (table.rows.length === 0 ? table : { ...table, rows: [] }))

function inTable(before: Table, after: Table): Alteration[] {
  if (isSamePart(bare(before), bare(after))) return []
  const table = after.id
  return [
    ...turns('table', table, before, after),
    ...partsBetween('column', table, before.columns, after.columns),
    ...(isInOrder(before, after)
      ? []
      : [{ part: 'order', kind: 'changed', key: `order ${table}`, table, before, after } as const]),
    ...primaryKeys(before, after),
    ...partsBetween('unique', table, before.uniques, after.uniques),
    ...partsBetween('foreignKey', table, before.foreignKeys, after.foreignKeys),
    ...partsBetween('check', table, before.checks, after.checks),
    ...partsBetween('index', table, before.indexes, after.indexes),
    ...partsBetween('rowPolicy', table, before.rowPolicies, after.rowPolicies)
  ]
}

/** Whether the columns that both have follow each other alike. */
function isInOrder(before: Table, after: Table): boolean {
  const common = (one: Table, other: Table): string[] =>
    one.columns.map(({ id }) => id).filter((id) => byId(other.columns).has(id))
  return common(before, after).join() === common(after, before).join()
}

function primaryKeys({ primaryKey: before }: Table, { id, primaryKey: after }: Table): Alteration[] {
  if (before && after) return turns('primaryKey', id, before, after, id)
  if (after) return [coming('primaryKey', id, after, id)]
  return before ? [going('primaryKey', id, before, id)] : []
}

function partsBetween<P extends PartName>(
  part: P,
  table: TableId,
  before: readonly PartTypes[P][],
  after: readonly PartTypes[P][]
): Alteration[] {
  if (before === after) return []
  const [had, has] = [byId(before), byId(after)]
  return [
    ...after.flatMap((each): Alteration[] => {
      const old = had.get(each.id)
      return old ? turns(part, table, old, each) : [coming(part, table, each)]
    }),
    ...before.filter(({ id }) => !has.has(id)).map((each) => going(part, table, each))
  ]
}

function coming<P extends PartName>(part: P, table: TableId, after: PartTypes[P], id = after.id): Alteration {
  return { part, kind: 'added', key: `${part} ${id}`, table, after } as Alteration
}

function going<P extends PartName>(
  part: P,
  table: TableId,
  before: PartTypes[P],
  id = before.id
): Alteration {
  return { part, kind: 'removed', key: `${part} ${id}`, table, before } as Alteration
}

function turns<P extends PartName>(
  part: P,
  table: TableId,
  before: PartTypes[P],
  after: PartTypes[P],
  id = after.id
): Alteration[] {
  if (before === after) return []
  return aspectsOf(part)
    .filter(([, keys]) => keys.some((key) => !sameIn(before[key], after[key])))
    .map(
      ([aspect]) =>
        ({
          part,
          kind: 'changed',
          aspect,
          key: `${part} ${id} ${aspect}`,
          table,
          before,
          after
        }) as Alteration
    )
}

const ALL: { [P in PartName]: Aspects<P> } = ASPECTS

/** The aspects of a part, with the properties that belong to each. */
const aspectsOf = <P extends PartName>(part: P) => Object.entries<Aspects<P>[string]>(ALL[part])

export const isOf = <P extends PartName>(
  part: P,
  alteration: Alteration
): alteration is AlterationOf<P> & Alteration => alteration.part === part

/** A part as it is with one aspect of it changed. */
export function turned<P extends PartName>(part: PartTypes[P], { part: name, aspect, after }: Turning<P>) {
  const taken = { ...part }
  for (const key of (ALL[name] as Aspects<P>)[aspect] ?? []) {
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
  const keys: readonly string[] = (ALL[part] as Readonly<Record<string, readonly string[]>>)[aspect] ?? []
  return keys.map((key) => (whole as unknown as Readonly<Record<string, unknown>>)[key])
}

/** Whether two values of a design are the same; both are made by one schema, in one order. */
const sameIn = (one: unknown, other: unknown): boolean =>
  one === other || JSON.stringify(one) === JSON.stringify(other)
