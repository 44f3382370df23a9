import { z } from 'zod'
import { idSchema } from '../ids.ts'
import { nameSchema } from '../name.ts'
import { ofSchema, part } from './part.ts'

/** A schema (namespace) that tables stand in. */
export const schemaSchema = z.strictObject({ id: idSchema, name: nameSchema })
export type Schema = z.infer<typeof schemaSchema>

export const schemaPart = part<Schema>()({
  name: 'schema',
  plural: 'schemas',
  prefix: 's',
  heldBy: 'design',
  in: 'schemas',
  as: 'list',
  schema: schemaSchema,
  isOfSchema: true,
  aspects: { name: ofSchema('value', 'name') }
})
