import type { Operation } from '../edit/operation.ts'

/**
 * How much something weighs. `refused`: an engine will not take it; `wrong`: it will not hold what it seems
 * to; `doubtful`: it does something otherwise, which may be meant so.
 */
export type Weight = 'refused' | 'wrong' | 'doubtful'

/** What an engine refuses of a table, does not hold or does otherwise, and what mends it. */
export interface LimitRemark {
  rule: string
  weight: Weight
  /** The column concerned, where there is one. */
  column?: string | undefined
  message: string
  fix?: { label: string; operation: Operation } | undefined
}

/**
 * What could not be said in a dialect, or is said with a loss; `table` is the design's id, where it is about
 * one. What changes which rows are let in, or whether the table is taken at all, is found by the checks too.
 */
export interface Remark {
  table?: string
  message: string
  finding?: Omit<LimitRemark, 'message'>
}
