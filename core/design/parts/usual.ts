import { z } from 'zod'
import { idSchema } from '../ids.ts'
import { actionSchema } from './foreign-key.ts'

/**
 * By what a reference is, as its shape says: a side of a pair; a part's whole; a list to choose from; what it may be
 * without; or what it needs.
 */
export const SHAPES = ['pair', 'part', 'list', 'optional', 'needed'] as const
export type ReferenceShape = (typeof SHAPES)[number]

/** What deletes do by the design's own policy, where that is not what is proposed: by shape, and by the table deleted from. */
export const usualSchema = z.strictObject({
  shapes: z.partialRecord(z.enum(SHAPES), actionSchema),
  tables: z.record(idSchema, actionSchema)
})
export type Usual = z.infer<typeof usualSchema>
