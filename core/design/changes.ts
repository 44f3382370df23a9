import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { byId } from './by-id.ts'
import { idSchema } from './ids.ts'
import { designSchema, tableSchema, type Design, type Table } from './model.ts'
import type { Parsed } from './type.ts'

/**
 * What a design is otherwise than another, by its parts as they are kept: so that a file with many versions says each
 * part once. It is about what is written, where core/version/delta.ts is about what it means.
 */

/** Some of the parts, none of them put in where it is not said. */
function someOf<S extends z.ZodRawShape>(shape: S): z.ZodType<Partial<{ [K in keyof S]: z.output<S[K]> }>> {
  const parts = Object.entries(shape).map(([key, part]) => {
    const said = part instanceof z.ZodDefault ? part.unwrap() : part
    return [key, (said as z.ZodType).optional()]
  })
  return z.strictObject(Object.fromEntries(parts) as z.ZodRawShape) as never
}

const gone = z.array(z.string().max(40)).optional()
const changedTableSchema = z.strictObject({
  id: idSchema,
  set: someOf(tableSchema.omit({ id: true }).shape),
  gone
})

export const changesSchema = z.strictObject({
  /** Parts of the design, but for its tables, that are new or otherwise. */
  set: someOf(designSchema.omit({ tables: true }).shape),
  /** Parts that it has no more. */
  gone,
  /** Tables that are new, whole; tables that are otherwise, as far as they are. */
  tables: z
    .array(z.union([changedTableSchema, tableSchema]))
    .max(BOUNDS.tables)
    .optional(),
  goneTables: z.array(idSchema).max(BOUNDS.tables).optional(),
  /** In which order its tables stand, where that does not follow: those that stay, and behind them the new ones. */
  order: z.array(idSchema).max(BOUNDS.tables).optional()
})
export type Changes = z.infer<typeof changesSchema>

const same = (one: unknown, other: unknown): boolean =>
  one === other || JSON.stringify(one) === JSON.stringify(other)

/** What the second of two states is otherwise; both with their keys in one order. */
export function changesBetween(before: Design, after: Design): Changes {
  const { tables: was, ...partsBefore } = before
  const { tables: is, ...partsAfter } = after
  const known = byId(was)
  const tables = is.flatMap((table): NonNullable<Changes['tables']> => {
    const old = known.get(table.id)
    if (!old) return [table]
    return same(old, table) ? [] : [changedTable(old, table)]
  })
  const stays = byId(is)
  const goneTables = was.filter(({ id }) => !stays.has(id)).map(({ id }) => id)
  const order = is.map(({ id }) => id)
  const follows = orderThatFollows(was, tables, new Set(goneTables))
  return {
    ...otherwise(partsBefore, partsAfter),
    ...(tables.length > 0 && { tables }),
    ...(goneTables.length > 0 && { goneTables }),
    ...(!same(order, follows) && { order })
  }
}

function changedTable(
  { id, ...before }: Table,
  { id: _, ...after }: Table
): z.infer<typeof changedTableSchema> {
  return { id, ...otherwise(before, after) }
}

/** The parts of a record that are otherwise, and those that are no more. */
function otherwise<T extends object>(before: T, after: T): { set: Partial<T>; gone?: string[] } {
  const set = Object.fromEntries(
    Object.entries(after).filter(
      ([key, value]) => value !== undefined && !same(value, (before as Record<string, unknown>)[key])
    )
  ) as Partial<T>
  const isIn = (record: T, key: string): boolean => (record as Record<string, unknown>)[key] !== undefined
  const missing = Object.keys(before).filter((key) => isIn(before, key) && !isIn(after, key))
  return { set, ...(missing.length > 0 && { gone: missing }) }
}

function orderThatFollows(
  was: readonly Table[],
  tables: NonNullable<Changes['tables']>,
  goneTables: ReadonlySet<string>
): string[] {
  const known = byId(was)
  const stay = was.map(({ id }) => id).filter((id) => !goneTables.has(id))
  return [...stay, ...tables.map(({ id }) => id).filter((id) => !known.has(id))]
}

/** The state that is otherwise in this; what is the same is the very same value. */
export function withChanges(before: Design, changes: Changes): Parsed<Design> {
  const { tables: was, ...parts } = before
  const known = new Map(was.map((table) => [table.id, table]))
  for (const id of changes.goneTables ?? [])
    if (!known.delete(id)) return { ok: false, message: `there is no table ${id} that could go` }
  for (const table of changes.tables ?? []) {
    const old = known.get(table.id)
    if (!('set' in table)) {
      if (old) return { ok: false, message: `there is a table ${table.id} already` }
      known.set(table.id, table)
    } else if (old) known.set(table.id, put(old, table))
    else return { ok: false, message: `there is no table ${table.id} that could be otherwise` }
  }
  const order = changes.order ?? [...known.keys()]
  const isWhole = order.length === known.size && new Set(order).size === known.size
  const tables = order.flatMap((id) => known.get(id) ?? [])
  if (!isWhole || tables.length !== order.length)
    return { ok: false, message: 'the order of its tables does not name each once' }
  if (tables.length > BOUNDS.tables)
    return { ok: false, message: `it has more than ${BOUNDS.tables.toLocaleString('en-GB')} tables` }
  return { ok: true, value: { ...put(parts, changes), tables } as Design }
}

function put<T extends object>(
  before: T,
  { set, gone: missing = [] }: { set: object; gone?: string[] | undefined }
): T {
  const after = { ...before, ...set } as Record<string, unknown>
  for (const key of missing) delete after[key]
  return after as T
}
