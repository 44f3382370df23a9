import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'

/** An id: a short prefix, an underscore, and lower-case letters and digits, as in `t_admission1`. */
export const idSchema = z
  .string()
  .regex(/^[a-z]{1,4}_[a-z0-9_]{1,40}$/, { error: 'is not an id such as t_k3x9' })

/** An expression as a design keeps it: columns as ids in braces (./expressions.ts). */
export const expressionSchema = z.string().min(1).max(BOUNDS.keptExpression)
