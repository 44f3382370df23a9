import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { idSchema } from '../design/ids.ts'

/** Fields that many operations have. */

/** A place among others of its kind; left out: behind them. */
export const at = z.int().min(0).optional()
export const to = z.int().min(0)
/** Empty: there is none. */
export const note = z.string().max(BOUNDS.note)
export const ofTable = { table: idSchema }
export const ofColumn = { table: idSchema, column: idSchema }
export const ofForeignKey = { table: idSchema, foreignKey: idSchema }
