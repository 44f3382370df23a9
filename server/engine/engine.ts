import type { DialectName, Query } from '../../core/dialect/dialect.ts'

/** A real engine with a database of its own to try things on. */
export interface Engine {
  dialect: DialectName
  /** What is running, for a person: name and version. */
  title: string
  query: Query
  close(): Promise<void>
}

/** Why an engine cannot be had, in words for a person. */
export class CannotOpen extends Error {}
