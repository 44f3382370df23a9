import { type Difference } from '../dialect/catalog.ts'
import type { DialectName } from '../dialect/dialect.ts'

/** How one step of a proof stands. `done` and `of` count its statements or tables. */
export interface ProofStep {
  name: string
  state: 'waiting' | 'running' | 'good' | 'failed' | 'cancelled'
  done: number
  of: number
  differences: Difference[]
  /** What the engine said, and the statement that it said it of. */
  error?: { message: string; sql: string }
}

export interface Proof {
  engine: DialectName
  steps: ProofStep[]
  good: boolean
  cancelled: boolean
  /** What it says nothing of: rules that the dialect has no words for, tables without a row. */
  unproven: string[]
}

/** Told of every change of a proof as it runs. */
export type Report = (proof: Proof) => void

export interface ProofOptions {
  report?: Report
  signal?: { readonly aborted: boolean }
}
