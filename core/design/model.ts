import { z } from 'zod'
import { typeSchema } from './type.ts'
import { defaultSchema, valueSchema } from './value.ts'

/**
 * The design: one immutable JSON value. Every entity has an id that outlives its name, so that a
 * rename is a rename and never a drop and an add. What can be derived (a junction, a cardinality,
 * the name of a constraint) is derived, never stored.
 */

/** An id: a short prefix, an underscore, and lower-case letters and digits, as in `t_admission1`. */
export const idSchema = z.string().regex(/^[a-z]{1,4}_[a-z0-9_]{1,40}$/, { error: 'is not an id such as t_k3x9' })

/** The longest name any of the engines takes (characters). */
export const NAME_LENGTH = 128

/** A name as a person gives it. Any character may stand in it but control characters; it is quoted where SQL needs that. */
export const nameSchema = z.string()
  .refine((name) => name.trim() !== '', { error: 'a name is needed' })
  .refine((name) => name === name.trim(), { error: 'a name may not begin or end with a space' })
  .refine((name) => [...name].length <= NAME_LENGTH, { error: `a name may have at most ${NAME_LENGTH} characters` })
  // eslint-disable-next-line no-control-regex
  .refine((name) => !/[\u0000-\u001f\u007f]/.test(name) && name.isWellFormed(), { error: 'a name may have no control characters in it' })

const noteSchema = z.string().max(2000).optional()

/** Referential actions as the SQL standard names them (ISO/IEC 9075-2, 11.8). */
export const ACTIONS = ['NO ACTION', 'RESTRICT', 'CASCADE', 'SET NULL', 'SET DEFAULT'] as const
export const actionSchema = z.enum(ACTIONS)
export type Action = z.infer<typeof actionSchema>

export const columnSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  type: typeSchema,
  required: z.boolean(),
  default: defaultSchema.optional(),
  note: noteSchema
})
export type Column = z.infer<typeof columnSchema>

/** A primary or unique key: its columns in order. `name` only where a person gave one. */
export const keySchema = z.strictObject({
  id: idSchema,
  name: nameSchema.optional(),
  columns: z.array(idSchema).min(1)
})
export type Key = z.infer<typeof keySchema>

/** How the two sentences of a relationship are said: “Each admission *is of* one patient”, “Each patient *has* …”. */
export const verbsSchema = z.strictObject({ child: z.string().trim().min(1).max(60), parent: z.string().trim().min(1).max(60) })
export type Verbs = z.infer<typeof verbsSchema>

export const foreignKeySchema = z.strictObject({
  id: idSchema,
  name: nameSchema.optional(),
  /** The table referred to, and which of its keys. */
  table: idSchema,
  key: idSchema,
  /** Column of this table, and the key column that it refers to. */
  pairs: z.array(z.strictObject({ column: idSchema, refersTo: idSchema })).min(1),
  onDelete: actionSchema,
  onUpdate: actionSchema,
  verbs: verbsSchema.optional()
})
export type ForeignKey = z.infer<typeof foreignKeySchema>

/** Values by column id; a column that is missing is null. */
export const rowSchema = z.record(idSchema, valueSchema)
export type Row = z.infer<typeof rowSchema>

export const tableSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  note: noteSchema,
  columns: z.array(columnSchema),
  primaryKey: keySchema.optional(),
  uniques: z.array(keySchema),
  foreignKeys: z.array(foreignKeySchema),
  rows: z.array(rowSchema)
})
export type Table = z.infer<typeof tableSchema>

/** What a column of the target takes: a column of the source row, or one value for all. */
export const carriedSchema = z.union([
  z.strictObject({ to: idSchema, from: idSchema }),
  z.strictObject({ to: idSchema, value: valueSchema })
])
export type Carried = z.infer<typeof carriedSchema>

/**
 * Rows that a restructuring moves when a migration runs: for each row of `source` in which the
 * columns of `where` are filled, one row of `target`. The source's columns may be gone from the
 * design by then; they are those of the version that the migration starts from.
 */
export const carrySchema = z.strictObject({
  id: idSchema,
  source: idSchema,
  target: idSchema,
  where: z.array(idSchema),
  columns: z.array(carriedSchema)
})

/** Where a table was put in the diagram by hand, in pixels from the drawing's origin. */
export const positionSchema = z.strictObject({ x: z.number().min(-1e6).max(1e6), y: z.number().min(-1e6).max(1e6) })
export type Position = z.infer<typeof positionSchema>

export const designSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  tables: z.array(tableSchema),
  carries: z.array(carrySchema),
  positions: z.record(idSchema, positionSchema)
})
export type Design = z.infer<typeof designSchema>

/** A saved state of the design. Versions are numbered from 1 and never change. */
export const versionSchema = z.strictObject({
  number: z.int().min(1),
  note: z.string().max(2000),
  savedAt: z.iso.datetime(),
  design: designSchema
})
export type Version = z.infer<typeof versionSchema>

export type TableId = string
export type ColumnId = string
export type KeyId = string

/** A new id with the prefix (`t` table, `c` column, `k` key, `f` foreign key, `y` carry, `d` design). */
export function newId(prefix: 't' | 'c' | 'k' | 'f' | 'y' | 'd'): string {
  const bytes = crypto.getRandomValues(new Uint8Array(10))
  return `${prefix}_${[...bytes].map((byte) => (byte % 36).toString(36)).join('')}`
}

/** A design with nothing in it. */
export function emptyDesign(name: string, id = newId('d')): Design {
  return { id, name, tables: [], carries: [], positions: {} }
}
