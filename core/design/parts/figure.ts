import { z } from 'zod'
import { expressionSchema, idSchema } from '../ids.ts'
import { nameSchema } from '../name.ts'
import { beside, part } from './part.ts'

/** What a figure says over rows: how many, how many different far ones, a sum, or the first or last value. */
export const MEASURES = ['count', 'different', 'sum', 'first', 'last'] as const
export type Measure = (typeof MEASURES)[number]

/**
 * What a row of a table can say over the rows that refer to it: how many there are, how many of them meet a condition,
 * what they add up to, which comes first or last. One whose ground is gone stays, and is told of (./figure.ts).
 */
export const figureSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  /** Whose rows say it. */
  table: idSchema,
  /** The table whose rows are looked at, and the reference by which they refer to the row. */
  of: idSchema,
  by: idSchema,
  /** Another reference of theirs, where the figure is over what lies beyond: a junction's far side. */
  far: idSchema.optional(),
  measure: z.enum(MEASURES),
  /** What is added up or said: a column of the rows, or of what lies beyond. */
  column: idSchema.optional(),
  /** By which column of the rows the first and the last are told; else by what is said. */
  order: idSchema.optional(),
  /** Only rows that meet it, and only those whose far row meets the other. */
  where: expressionSchema.optional(),
  whereFar: expressionSchema.optional()
})
export type Figure = z.infer<typeof figureSchema>

export const figurePart = part<Figure>()({
  name: 'figure',
  plural: 'figures',
  prefix: 'g',
  heldBy: 'design',
  in: 'figures',
  as: 'list',
  mayBeLeftOut: true,
  schema: figureSchema,
  isOfSchema: false,
  aspects: {
    name: beside('value', 'name'),
    says: beside('value', 'table', 'of', 'by', 'far', 'measure', 'column', 'order', 'where', 'whereFar')
  }
})
