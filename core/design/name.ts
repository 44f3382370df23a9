import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'

/** The longest name any of the engines takes (characters). */
export const NAME_LENGTH = 128

/**
 * A name as a person gives it. Any character may stand in it but control characters; it is quoted where
 * SQL needs that.
 */
export const nameSchema = z
  .string()
  .refine((name) => name.trim() !== '', { error: 'a name is needed' })
  .refine((name) => name === name.trim(), { error: 'a name may not begin or end with a space' })
  .refine((name) => [...name].length <= NAME_LENGTH, {
    error: `a name may have at most ${NAME_LENGTH} characters`
  })
  // eslint-disable-next-line no-control-regex
  .refine((name) => !/[\u0000-\u001f\u007f]/.test(name) && name.isWellFormed(), {
    error: 'a name may have no control characters in it'
  })

/** What is said of a part, for people. */
export const noteSchema = z.string().max(BOUNDS.note).optional()
