import { z } from 'zod'

/**
 * What is said of a kind of part, in one place: where it is held, how it is told from others of its kind, and in
 * what it can change. Whatever goes through all parts of a design folds over this (./all.ts).
 */

/**
 * How two changes of one thing come together: as one value, of which there is one in the end; or member by member, of a
 * set, of a sequence, of a map.
 */
export type Merges = 'value' | 'set' | 'sequence' | 'map'

/** Properties of a part that change together. */
export interface Aspect<T> {
  of: readonly (keyof T & string)[]
  /** Whether the schema of a database depends on it; else it is only said here. */
  isOfSchema: boolean
  merges: Merges
}
export type Aspects<T> = Readonly<Record<string, Aspect<T>>>

/** An aspect on which the schema of a database depends. */
export const ofSchema = <const K extends string>(merges: Merges, ...of: K[]) => ({
  of,
  isOfSchema: true as const,
  merges
})
/** An aspect of which a database knows nothing. */
export const beside = <const K extends string>(merges: Merges, ...of: K[]) => ({
  of,
  isOfSchema: false as const,
  merges
})

export interface PartKind<T> {
  name: string
  /** What several are called, in sentences. */
  plural: string
  /** What its ids begin with; a part without ids goes by what stands in these properties. */
  prefix?: string
  goesBy?: readonly (keyof T & string)[]
  /** What holds it, in which property, and how: as one of a list, as the only one, or by name in a record. */
  heldBy: 'design' | 'table'
  in: string
  as: 'list' | 'single' | 'record'
  /** Whether the property is left out where nothing is in it. */
  mayBeLeftOut?: true
  schema: z.ZodType<T>
  /** Whether a database has it. */
  isOfSchema: boolean
  aspects: Aspects<T>
}

/** Declares a kind of part. */
export const part =
  <T>() =>
  <const K extends PartKind<T>>(kind: K): K =>
    kind

/** A member of a record, as a part: the name that it has there, and what stands there. */
export interface Entry<V> {
  id: string
  value: V
}
export const entrySchema = <V>(value: z.ZodType<V>): z.ZodType<Entry<V>> =>
  z.strictObject({ id: z.string(), value })
