import type { z } from 'zod'
import { fold } from '../design/directory.ts'
import { idSchema } from '../design/ids.ts'
import type { Design, Table } from '../design/model.ts'
import type { PartName, PartTypes } from '../design/parts/all.ts'
import { idOf, membersOf, withMembers } from '../design/parts/held.ts'
import { shorten } from '../design/type.ts'
import type { Called } from './called.ts'
import { at, ofTable } from './fields.ts'
import { checkName, checkNewIds, insertedAt, needTable, withTable, withoutAt } from './handler.ts'
import { kind, type Handler, type Kind, type Operation, type Operations, type Outcome } from './operation.ts'
import { Refused } from './refusal.ts'

/** Parts with ids that stand in a list: of each kind one is added, one is changed, and one is removed. */

type InDesign = 'figure' | 'ruling' | 'subject' | 'view'
type InTable = 'check' | 'index' | 'rowPolicy'

/** What the three operations say that they do. */
interface Says<Part> {
  add: (part: Part, called: Called, table: string) => string
  change: (part: Part, called: Called, table: string) => string
  remove: (called: Called, table: string) => string
}

type KindsOf<N extends string, Part extends z.ZodType, Holder> = readonly [
  Kind<`${N}.add`, Holder & Record<N, Part> & { at: typeof at }>,
  Kind<`${N}.change`, Holder & Record<N, Part>>,
  Kind<`${N}.remove`, Holder & Record<N, typeof idSchema>>
]

/** The kinds of operations on a part that a design holds. */
export const inDesign = <N extends InDesign, S extends z.ZodType<PartTypes[N]>>(
  name: N,
  schema: S,
  says: Says<z.output<S>>
): KindsOf<N, S, unknown> => kindsOf(name, schema, {}, says) as never

/** The kinds of operations on a part that a table holds. */
export const inTable = <N extends InTable, S extends z.ZodType<PartTypes[N]>>(
  name: N,
  schema: S,
  says: Says<z.output<S>>
): KindsOf<N, S, typeof ofTable> => kindsOf(name, schema, ofTable, says) as never

function kindsOf<Part>(name: string, schema: z.ZodType, holder: z.ZodRawShape, says: Says<Part>): unknown {
  const partIn = (fields: object): Part => Reflect.get(fields, name) as Part
  const tableIn = (fields: object): string => String(Reflect.get(fields, 'table'))
  return [
    kind(`${name}.add`, { ...holder, [name]: schema, at }, (fields, called) =>
      says.add(partIn(fields), called, tableIn(fields))
    ),
    kind(`${name}.change`, { ...holder, [name]: schema }, (fields, called) =>
      says.change(partIn(fields), called, tableIn(fields))
    ),
    kind(`${name}.remove`, { ...holder, [name]: idSchema }, (fields, called) =>
      says.remove(called, tableIn(fields))
    )
  ]
}

type Handlers<N extends string> = {
  [K in `${N}.add` | `${N}.change` | `${N}.remove`]: Handler<K & keyof Operations>
}

/** What holds the part that an operation is about, and the design with another in its place. */
interface Held {
  holder: Design | Table
  table?: Table
  put: (holder: object) => Design
}

/** What is particular to parts of a kind. */
interface How<N extends PartName, Holder> {
  /** What one is called in a sentence, where that is not the name of the kind. */
  called?: string
  /** Refuses a part that cannot be; `before` is what it was, where it is there already. */
  check?: (holder: Holder, part: PartTypes[N], before?: PartTypes[N]) => void
  /** What undo puts back comes back as it was, even where it could not be made so now. */
  isPutBackUnchecked?: true
  /** The tables that are touched where it comes, changes or goes, beside the one that holds it. */
  touches?: (part: PartTypes[N]) => string[]
}

/** How parts that a design holds are added, changed and removed. */
export const handledInDesign = <N extends InDesign>(name: N, how: How<N, Design> = {}): Handlers<N> =>
  handlersOf(name, how as How<N, Design | Table>, (design) => ({
    holder: design,
    put: (holder) => holder as Design
  }))

/** How parts that a table holds are added, changed and removed. */
export const handledInTable = <N extends InTable>(name: N, how: How<N, Table> = {}): Handlers<N> =>
  handlersOf(name, how as How<N, Design | Table>, (design, id) => {
    const table = needTable(design, id ?? '')
    return { holder: table, table, put: (holder) => withTable(design, table.id, () => holder as Table) }
  })

/** The fields of the three operations, by the names that they have in all of them. */
interface Fields<Part> {
  table?: string
  part: Part
  at?: number
}

function handlersOf<N extends InDesign | InTable>(
  name: N,
  how: How<N, Design | Table>,
  heldBy: (design: Design, table: string | undefined) => Held
): Handlers<N> {
  type Part = PartTypes[N]
  const read = <T>(operation: object): Fields<T> => ({
    ...operation,
    part: Reflect.get(operation, name) as T
  })
  const operation = (does: string, { table }: Held, part: unknown, place?: number): Operation =>
    ({
      kind: `${name}.${does}`,
      ...(table && { table: table.id }),
      [name]: part,
      ...(place !== undefined && { at: place })
    }) as never
  const need = ({ holder, table }: Held, id: string): { place: number; found: Part } => {
    const place = membersOf(name, holder).findIndex((each) => idOf(name, each) === id)
    const found = membersOf(name, holder)[place]
    if (found) return { place, found }
    const called = how.called ?? name
    const says = table
      ? `${table.name} no longer has that ${called}.`
      : `That ${called} is no longer in the design.`
    throw new Refused('missing', says, table ? { table: table.id } : {})
  }
  const outcome = (held: Held, members: readonly Part[], inverse: Operation, touching: Part[]): Outcome => ({
    design: held.put(withMembers(name, held.holder, members)),
    inverse,
    touched: [
      ...(held.table ? [held.table.id] : []),
      ...touching.flatMap((part) => how.touches?.(part) ?? [])
    ]
  })

  const add = (design: Design, fields: object): Outcome => {
    const { table, part, at } = read<Part>(fields)
    const held = heldBy(design, table)
    const id = idOf(name, part)
    checkNewIds(design, [id])
    if (at === undefined || !how.isPutBackUnchecked) how.check?.(held.holder, part)
    const members = insertedAt(membersOf(name, held.holder), part, at)
    return outcome(held, members, operation('remove', held, id), [part])
  }
  const change = (design: Design, fields: object): Outcome => {
    const { table, part } = read<Part>(fields)
    const held = heldBy(design, table)
    const id = idOf(name, part)
    const { place, found } = need(held, id)
    how.check?.(held.holder, part, found)
    const members = membersOf(name, held.holder).with(place, part)
    const back: Operation = how.isPutBackUnchecked
      ? { kind: 'batch', operations: [operation('remove', held, id), operation('add', held, found, place)] }
      : operation('change', held, found)
    return outcome(held, members, back, [part, found])
  }
  const remove = (design: Design, fields: object): Outcome => {
    const { table, part: id } = read<string>(fields)
    const held = heldBy(design, table)
    const { place, found } = need(held, id)
    const members = withoutAt(membersOf(name, held.holder), place)
    return outcome(held, members, operation('add', held, found, place), [found])
  }
  return { [`${name}.add`]: add, [`${name}.change`]: change, [`${name}.remove`]: remove } as never
}

/** Refuses a name that another part of the kind has, of those that it is to be told from. */
export function checkMemberName<N extends 'figure' | 'subject' | 'view'>(
  design: Design,
  name: N,
  part: PartTypes[N],
  isBeside: (other: PartTypes[N]) => boolean = () => true
): void {
  const where = 'table' in part ? { table: part.table } : {}
  checkName(part.name, where)
  const others = membersOf(name, design).filter((each) => each.id !== part.id && isBeside(each))
  if (others.some((each) => fold(each.name) === fold(part.name)))
    throw new Refused('name-taken', `There is already a ${name} called ${shorten(part.name)}.`, where)
}
