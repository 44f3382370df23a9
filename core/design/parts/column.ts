import { z } from 'zod'
import { expressionSchema, idSchema } from '../ids.ts'
import { nameSchema, noteSchema } from '../name.ts'
import { typeSchema } from '../type.ts'
import { defaultSchema } from '../value.ts'
import { ofSchema, part } from './part.ts'

/**
 * Taken from the row referred to when a row is made that says nothing of it, and the row's own from then on: a price
 * at the time of sale. `again`: also when the row refers to another one. `fixed`: it can be nothing else. Triggers
 * see to it where that is wanted, else whatever writes the rows.
 */
export const copiedSchema = z.strictObject({
  foreignKey: idSchema,
  column: idSchema,
  again: z.literal(true).optional(),
  fixed: z.literal(true).optional(),
  byTrigger: z.literal(true).optional()
})
export type Copied = z.infer<typeof copiedSchema>

/** Who sees to it that a column becomes the present moment with each change of its row. */
export const renewedSchema = z.enum(['database', 'application'])
export type Renewed = z.infer<typeof renewedSchema>

export const columnSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  type: typeSchema,
  required: z.boolean(),
  default: defaultSchema.optional(),
  /** Worked out by the engine from the other columns of the row, always. */
  computed: expressionSchema.optional(),
  copied: copiedSchema.optional(),
  renewed: renewedSchema.optional(),
  note: noteSchema
})
export type Column = z.infer<typeof columnSchema>

export const columnPart = part<Column>()({
  name: 'column',
  plural: 'columns',
  prefix: 'c',
  heldBy: 'table',
  in: 'columns',
  as: 'list',
  schema: columnSchema,
  isOfSchema: true,
  aspects: {
    name: ofSchema('value', 'name'),
    type: ofSchema('value', 'type'),
    required: ofSchema('value', 'required'),
    default: ofSchema('value', 'default'),
    computed: ofSchema('value', 'computed'),
    copied: ofSchema('value', 'copied'),
    renewed: ofSchema('value', 'renewed'),
    note: ofSchema('value', 'note')
  }
})
