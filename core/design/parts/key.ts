import { z } from 'zod'
import { BOUNDS } from '../../bounds.ts'
import { idSchema } from '../ids.ts'
import { nameSchema } from '../name.ts'
import { ofSchema, part } from './part.ts'

/** A primary or unique key: its columns in order. `name` only where a person gave one. */
export const keySchema = z.strictObject({
  id: idSchema,
  name: nameSchema.optional(),
  columns: z.array(idSchema).min(1).max(BOUNDS.columns)
})
export type Key = z.infer<typeof keySchema>

/** It goes by its table, whatever its id: another key in its place is another way to tell the rows apart. */
export const primaryKeyPart = part<Key>()({
  name: 'primaryKey',
  plural: 'primary keys',
  prefix: 'k',
  heldBy: 'table',
  in: 'primaryKey',
  as: 'single',
  schema: keySchema,
  isOfSchema: true,
  aspects: { name: ofSchema('value', 'name'), columns: ofSchema('sequence', 'id', 'columns') }
})

export const uniquePart = part<Key>()({
  name: 'unique',
  plural: 'unique keys',
  prefix: 'k',
  heldBy: 'table',
  in: 'uniques',
  as: 'list',
  schema: keySchema,
  isOfSchema: true,
  aspects: { name: ofSchema('value', 'name'), columns: ofSchema('sequence', 'columns') }
})
