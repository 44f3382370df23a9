import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { idSchema } from './ids.ts'
import { rowQuerySchema } from './row-query.ts'
import { typeSchema } from './type.ts'
import { valueSchema } from './value.ts'

/**
 * What a restructuring does to rows, one way: the rows that tables begin with, over the tables that were
 * there. A table that it does not speak of is itself.
 */
export const flowSchema = z.strictObject({
  /** Intermediate results, each worked out once, in their order. */
  results: z.array(z.strictObject({ name: idSchema, query: rowQuerySchema })).max(BOUNDS.columns),
  /** Rows that a table gets, beside those that it has. */
  adds: z.array(z.strictObject({ table: idSchema, rows: rowQuerySchema })).max(BOUNDS.columns),
  /**
   * New columns of the rows that a table has: taken from the one row of `from` that agrees with the row in
   * `on`, and empty where there is none. A column that is there already keeps what it has; with `whereEmpty`
   * it gets what is taken where it has nothing. `partly`: not every row gets back by it alone what it had, so
   * that is kept as well.
   */
  fills: z
    .array(
      z.strictObject({
        table: idSchema,
        columns: z
          .array(z.strictObject({ id: idSchema, from: idSchema }))
          .min(1)
          .max(BOUNDS.columns),
        from: rowQuerySchema,
        on: z
          .array(z.strictObject({ own: idSchema, other: idSchema, empty: z.literal(true).optional() }))
          .min(1)
          .max(BOUNDS.columns),
        whereEmpty: z.literal(true).optional(),
        partly: z.literal(true).optional()
      })
    )
    .max(BOUNDS.columns),
  /** Queries that must come out empty, each with what it means if one does not. */
  requires: z
    .array(z.strictObject({ query: rowQuerySchema, says: z.string().min(1).max(300) }))
    .max(BOUNDS.columns)
})
export type Flow = z.infer<typeof flowSchema>
export type Fill = Flow['fills'][number]
export type Adding = Flow['adds'][number]
export type Result = Flow['results'][number]
export type Requirement = Flow['requires'][number]

/** A column of a table as it was when a carry read it, and what it began with. */
export const readColumnSchema = z.strictObject({
  table: idSchema,
  id: idSchema,
  type: typeSchema,
  begins: valueSchema.optional(),
  /** Numbered by the engine. */
  counted: z.literal(true).optional()
})
export type ReadColumn = z.infer<typeof readColumnSchema>

/**
 * What a restructuring moves, there and back; back is never guessed. `reads`: the columns that it names, since one
 * may come after the state that a migration starts from, and be gone before the one that it leads to.
 */
export const flowingSchema = z.strictObject({
  id: idSchema,
  there: flowSchema,
  back: flowSchema,
  reads: z.array(readColumnSchema).max(BOUNDS.columns).optional()
})
export type Flowing = z.infer<typeof flowingSchema>

/** The two forms of a carry in designs of an earlier time, which core/carry/earlier.ts reads as flows. */

/** What a column of the target takes: a column of the source row, or one value for all. */
export const carriedSchema = z.union([
  z.strictObject({ to: idSchema, from: idSchema }),
  z.strictObject({ to: idSchema, value: valueSchema })
])
export type Carried = z.infer<typeof carriedSchema>

/**
 * Rows that a restructuring moves when a migration runs: for each row of `source` in which the
 * columns of `where` are filled, one row of `target`. The source's columns may be gone from the
 * design by then; they are those of the version that the migration starts from.
 */
export const carriedRowsSchema = z.strictObject({
  id: idSchema,
  source: idSchema,
  target: idSchema,
  where: z.array(idSchema).max(BOUNDS.columns),
  columns: z.array(carriedSchema).max(BOUNDS.columns)
})
export type CarriedRows = z.infer<typeof carriedRowsSchema>

const pairsSchema = z
  .array(z.strictObject({ column: idSchema, refersTo: idSchema }))
  .min(1)
  .max(BOUNDS.columns)

/**
 * A reference of `table` that goes over to another key of the table `referred`: in each row, the
 * columns that it is to be by are looked up in the row that the columns it was by refer to. It reads
 * the same backwards.
 */
export const lookedUpSchema = z.strictObject({
  id: idSchema,
  table: idSchema,
  referred: idSchema,
  was: pairsSchema,
  becomes: pairsSchema
})
export type LookedUp = z.infer<typeof lookedUpSchema>

/** What a restructuring moves when a migration runs. */
export const carrySchema = z.union([flowingSchema, carriedRowsSchema, lookedUpSchema])
export type Carry = z.infer<typeof carrySchema>
