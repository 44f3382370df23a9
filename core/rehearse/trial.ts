import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { idSchema } from '../design/ids.ts'
import { rowSchema, type Row, type TableId } from '../design/model.ts'

const places = z.array(z.int().min(0)).max(BOUNDS.rows)

/**
 * What is tried on a design's rows. A row is named by its place among the rows of its table, counted from 0; rows that
 * a trial makes have the places behind them, in the order in which they were made.
 */
export const trialStatementSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('delete'), table: idSchema, rows: places.readonly() }),
  /** The columns of `values` become what stands there; null is empty. */
  z.strictObject({ kind: z.literal('update'), table: idSchema, rows: places.readonly(), values: rowSchema }),
  /** A column that a row does not name takes its default, as with an INSERT. */
  z.strictObject({
    kind: z.literal('insert'),
    table: idSchema,
    rows: z.array(rowSchema).max(BOUNDS.rows).readonly()
  })
])
export type TrialStatement = z.infer<typeof trialStatementSchema>

export const trialSchema = z.strictObject({
  statements: z.array(trialStatementSchema).max(BOUNDS.operationsInBatch).readonly(),
  /** In one transaction: all or nothing. Else each statement is kept by itself, or refused. */
  together: z.boolean(),
  /** Whether the transaction asks that what can be deferred is. */
  deferring: z.boolean().optional(),
  /** What the present moment is, as a timestamp; where it is needed and not said, the first of the year 2000. */
  now: z.string().max(30).optional()
})
export type Trial = z.infer<typeof trialSchema>

/** What became of a row, by the words that stand for it everywhere. */
export type EffectKind = 'deleted' | 'emptied' | 'defaulted' | 'changed' | 'inserted'

export interface Cause {
  effect: number
  foreignKey: string
}

/** One row, and what became of it. */
export interface Effect {
  kind: EffectKind
  table: TableId
  place: number
  /** Nothing before a row that is put in, and nothing after one that goes. */
  before: Row | undefined
  after: Row | undefined
  /** Which statement of the trial it is of, counted from 0. */
  statement: number
  /** How many references it is away from what the statement itself did. */
  step: number
  /** What brought it about: another effect, by its place in the list, through a reference of this row's table. */
  cause: Cause | undefined
}

/** Why a statement, or the end of a transaction, was refused. */
export interface TrialRefusal {
  /**
   * `reference`: rows refer to what would be gone. `nothing`: a row would refer to what is not there. `again` and
   * `depth`: what the engine does not do, see ActionFacts.
   */
  kind: 'reference' | 'nothing' | 'minimum' | 'key' | 'required' | 'check' | 'value' | 'again' | 'depth'
  /** The table whose rows refuse, and which rows. */
  table: TableId
  rows: readonly number[]
  /** The reference, key, unique index, check or column that they refuse by. */
  of?: string
  statement: number
  when: 'at once' | 'at the end of the statement' | 'at the end of the transaction'
  /** What was refused: the effect that had come before, by its place. */
  effect?: number
}

/**
 * What has become of a table's rows, by their places: what each is in the end that is another than before, or nothing
 * where it is gone. Those that came have the places behind the others.
 */
export type ChangedRows = ReadonlyMap<number, Row | undefined>

/** What a trial came to. */
export interface Rehearsed {
  /** In the order in which they came; those of what was refused as well. */
  effects: readonly Effect[]
  /** One for each statement that was refused; with `together`, at the most one. */
  refusals: readonly TrialRefusal[]
  /** The rows that each statement named, as they were before it; for those that it makes, as it makes them. */
  named: readonly (readonly Row[])[]
  /** Every table that says another than before in a row. */
  changed: ReadonlyMap<TableId, ChangedRows>
  /** Every table in which a row was put, with all of its rows as they are in the end. */
  rows: ReadonlyMap<TableId, readonly Row[]>
}
