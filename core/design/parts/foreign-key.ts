import { z } from 'zod'
import { BOUNDS } from '../../bounds.ts'
import { idSchema } from '../ids.ts'
import { nameSchema } from '../name.ts'
import { beside, ofSchema, part } from './part.ts'

/** Referential actions as the SQL standard names them (ISO/IEC 9075-2, 11.8). */
export const ACTIONS = ['NO ACTION', 'RESTRICT', 'CASCADE', 'SET NULL', 'SET DEFAULT'] as const
export const actionSchema = z.enum(ACTIONS)
export type Action = z.infer<typeof actionSchema>

/**
 * How the two sentences of a relationship are said: “Each admission *is of* one patient”, “Each patient
 * *has* …”.
 */
export const verbsSchema = z.strictObject({
  child: z.string().trim().min(1).max(60),
  parent: z.string().trim().min(1).max(60)
})
export type Verbs = z.infer<typeof verbsSchema>

/**
 * That each row referred to has at least one that refers to it, which no key holds: said only, or held by triggers
 * that wait for the end of the transaction, where the engine has such.
 */
export const minimumSchema = z.enum(['said', 'held'])
export type Minimum = z.infer<typeof minimumSchema>

/**
 * That a reference may be looked at when a transaction ends, and not with each statement: where the transaction asks
 * for it, or always (ISO/IEC 9075-2, 10.8).
 */
export const deferrableSchema = z.enum(['immediate', 'deferred'])
export type Deferrable = z.infer<typeof deferrableSchema>

/** What a row is to the one that it refers to: a part of it, or a thing by itself that is listed there. */
export const natureSchema = z.enum(['part', 'listed'])
export type Nature = z.infer<typeof natureSchema>

/** What each direction is called in code, where it is not as proposed: the one that a child has, those of a parent. */
export const accessorsSchema = z.strictObject({ child: nameSchema.optional(), parent: nameSchema.optional() })
export type Accessors = z.infer<typeof accessorsSchema>

export const foreignKeySchema = z.strictObject({
  id: idSchema,
  name: nameSchema.optional(),
  /** The table referred to, and which of its keys. */
  table: idSchema,
  key: idSchema,
  /** Column of this table, and the key column that it refers to. */
  pairs: z
    .array(z.strictObject({ column: idSchema, refersTo: idSchema }))
    .min(1)
    .max(BOUNDS.columns),
  onDelete: actionSchema,
  onUpdate: actionSchema,
  deferrable: deferrableSchema.optional(),
  verbs: verbsSchema.optional(),
  atLeastOne: minimumSchema.optional(),
  childIs: natureSchema.optional(),
  accessors: accessorsSchema.optional()
})
export type ForeignKey = z.infer<typeof foreignKeySchema>

export const foreignKeyPart = part<ForeignKey>()({
  name: 'foreignKey',
  plural: 'references',
  prefix: 'f',
  heldBy: 'table',
  in: 'foreignKeys',
  as: 'list',
  schema: foreignKeySchema,
  isOfSchema: true,
  aspects: {
    name: ofSchema('value', 'name'),
    target: ofSchema('value', 'table', 'key', 'pairs'),
    onDelete: ofSchema('value', 'onDelete'),
    onUpdate: ofSchema('value', 'onUpdate'),
    deferrable: ofSchema('value', 'deferrable'),
    atLeastOne: ofSchema('value', 'atLeastOne'),
    verbs: beside('value', 'verbs'),
    childIs: beside('value', 'childIs'),
    accessors: beside('value', 'accessors')
  }
})
