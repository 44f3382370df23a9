import { z } from 'zod'
import { expressionSchema, idSchema } from '../ids.ts'
import { nameSchema } from '../name.ts'
import { ofSchema, part } from './part.ts'

/** A condition that every row must meet, or leave open. */
export const checkSchema = z.strictObject({
  id: idSchema,
  name: nameSchema.optional(),
  condition: expressionSchema,
  /** Held by triggers where the engine has no such check. */
  everywhere: z.literal(true).optional()
})
export type Check = z.infer<typeof checkSchema>

export const checkPart = part<Check>()({
  name: 'check',
  plural: 'checks',
  prefix: 'x',
  heldBy: 'table',
  in: 'checks',
  as: 'list',
  schema: checkSchema,
  isOfSchema: true,
  aspects: { name: ofSchema('value', 'name'), condition: ofSchema('value', 'condition', 'everywhere') }
})
