import { z } from 'zod'
import { columnSchema } from './column.ts'

/** A column as new tables begin with it, or new junctions: when a row was made, by whom. */
export const standingColumnSchema = columnSchema.pick({
  name: true,
  type: true,
  required: true,
  default: true,
  renewed: true,
  note: true
})
export type StandingColumn = z.infer<typeof standingColumnSchema>

/** What every new table begins with, beside its key, and what every new junction, beside its sides. */
export const standingSchema = z.strictObject({
  tables: z.array(standingColumnSchema).max(20),
  junctions: z.array(standingColumnSchema).max(20),
  /** How large the number is that a table goes by. */
  key: z.enum(['normal', 'big'])
})
export type Standing = z.infer<typeof standingSchema>

export const NOTHING_STANDING: Standing = { tables: [], junctions: [], key: 'normal' }
