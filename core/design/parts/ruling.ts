import { z } from 'zod'
import { BOUNDS } from '../../bounds.ts'
import { idSchema } from '../ids.ts'
import { beside, part } from './part.ts'
import { rowSchema } from './row.ts'

/** A row as a ruling names it: by what it holds in some columns, its key as a rule. */
const namedRows = z.array(rowSchema).min(1).max(BOUNDS.operationsInBatch)

/** A statement of a ruling: on rows of the design that it names, or with rows of its own. */
export const ruledStatementSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('delete'), table: idSchema, rows: namedRows }),
  z.strictObject({ kind: z.literal('update'), table: idSchema, rows: namedRows, values: rowSchema }),
  z.strictObject({ kind: z.literal('insert'), table: idSchema, rows: namedRows })
])
export type RuledStatement = z.infer<typeof ruledStatementSchema>

/**
 * What a change of rows must come to: it is taken; it is refused, by one rule where that is named; or it is taken and
 * deletes these rows along.
 */
export const verdictSchema = z.discriminatedUnion('is', [
  z.strictObject({ is: z.literal('taken') }),
  z.strictObject({ is: z.literal('refused'), by: idSchema.optional() }),
  z.strictObject({
    is: z.literal('takes along'),
    rows: z
      .array(z.strictObject({ table: idSchema, row: rowSchema }))
      .min(1)
      .max(BOUNDS.operationsInBatch)
  })
])
export type Verdict = z.infer<typeof verdictSchema>

/**
 * A change of rows with a verdict, which every version, dialect and change of mind is to keep to. What it names may be
 * gone by then, which is told of (core/rehearse/ruling.ts).
 */
export const rulingSchema = z.strictObject({
  id: idSchema,
  /** What it is about, in a person's own words. */
  says: z.string().trim().min(1).max(300),
  statements: z.array(ruledStatementSchema).min(1).max(50),
  /** All in one transaction, or each by itself; and whether that asks for what can be deferred. */
  together: z.boolean(),
  deferring: z.literal(true).optional(),
  verdict: verdictSchema
})
export type Ruling = z.infer<typeof rulingSchema>

export const rulingPart = part<Ruling>()({
  name: 'ruling',
  plural: 'rulings',
  prefix: 'u',
  heldBy: 'design',
  in: 'rulings',
  as: 'list',
  mayBeLeftOut: true,
  schema: rulingSchema,
  isOfSchema: false,
  aspects: {
    says: beside('value', 'says'),
    statements: beside('value', 'statements', 'together', 'deferring'),
    verdict: beside('value', 'verdict')
  }
})
