import { z } from 'zod'
import { BOUNDS } from '../../bounds.ts'
import { idSchema } from '../ids.ts'
import { nameSchema } from '../name.ts'
import { ofSchema, part } from './part.ts'

/** A list of values that columns share as their type. */
export const enumSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  values: z
    .array(
      z
        .string()
        .min(1)
        .max(60)
        .refine((value) => value === value.trim() && !value.includes('\0') && value.isWellFormed(), {
          error: 'a value may not begin or end with a space'
        })
    )
    .min(1)
    .max(BOUNDS.valuesInList)
})
export type Enum = z.infer<typeof enumSchema>

export const listPart = part<Enum>()({
  name: 'list',
  plural: 'lists of values',
  prefix: 'e',
  heldBy: 'design',
  in: 'enums',
  as: 'list',
  schema: enumSchema,
  isOfSchema: true,
  aspects: { name: ofSchema('value', 'name'), values: ofSchema('sequence', 'values') }
})
