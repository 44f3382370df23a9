import { z } from 'zod'
import { idSchema } from '../ids.ts'
import { beside, part } from './part.ts'

/** A finding that its designer has looked at and lets stand, by its rule and its place, and why. */
export const setAsideSchema = z.strictObject({
  rule: z.string().min(1).max(120),
  table: idSchema,
  column: idSchema.optional(),
  reason: z.string().trim().min(1).max(300)
})
export type SetAside = z.infer<typeof setAsideSchema>

export const setAsidePart = part<SetAside>()({
  name: 'setAside',
  plural: 'findings that stand',
  goesBy: ['rule', 'table', 'column'],
  heldBy: 'design',
  in: 'setAside',
  as: 'list',
  mayBeLeftOut: true,
  schema: setAsideSchema,
  isOfSchema: false,
  aspects: { reason: beside('value', 'reason') }
})
