import { z } from 'zod'
import { BOUNDS } from '../../bounds.ts'
import { expressionSchema, idSchema } from '../ids.ts'
import { nameSchema } from '../name.ts'
import { ofSchema, part } from './part.ts'

/**
 * An index of a person's own; those of keys and, by policy, of foreign keys come by themselves. `where`:
 * only the rows that meet it.
 */
export const indexSchema = z.strictObject({
  id: idSchema,
  name: nameSchema.optional(),
  columns: z
    .array(z.strictObject({ column: idSchema, descending: z.boolean() }))
    .min(1)
    .max(BOUNDS.columns),
  unique: z.boolean(),
  where: expressionSchema.optional(),
  /** Held by a computed column, beside which it is unique, where the engine has no index on some of the rows. */
  everywhere: z.literal(true).optional()
})
export type Index = z.infer<typeof indexSchema>

export const indexPart = part<Index>()({
  name: 'index',
  plural: 'indexes',
  prefix: 'i',
  heldBy: 'table',
  in: 'indexes',
  as: 'list',
  schema: indexSchema,
  isOfSchema: true,
  aspects: {
    name: ofSchema('value', 'name'),
    rows: ofSchema('value', 'columns', 'unique', 'where', 'everywhere')
  }
})
