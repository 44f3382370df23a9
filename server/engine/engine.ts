import type { DialectName } from '../../core/dialect/dialect.ts'

/** A real engine with a database of its own to try things on. */
export interface Engine {
  dialect: DialectName
  /** What is running, for a person: name and version. */
  title: string
  /** Runs one statement, with values bound at its places, and gives its rows. */
  query(sql: string, values?: readonly unknown[]): Promise<Record<string, unknown>[]>
  close(): Promise<void>
}

/** Why an engine cannot be had, in words for a person. */
export class CannotOpen extends Error {}
