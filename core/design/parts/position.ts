import { z } from 'zod'

/** Where a table was put in the diagram by hand, in pixels from the drawing's origin. */
export const positionSchema = z.strictObject({
  x: z.number().min(-1e6).max(1e6),
  y: z.number().min(-1e6).max(1e6)
})
export type Position = z.infer<typeof positionSchema>
