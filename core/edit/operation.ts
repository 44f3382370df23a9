import type { z } from 'zod'
import type { Design } from '../design/model.ts'
import type { Called } from './called.ts'

/**
 * Operations: the only way in which a design changes. Each is a plain value named for what the person meant. They
 * travel to the server, into the log, and back as undo. The operations on a noun are declared in its file (./column.ts,
 * ./table.ts …), which adds them to this list. ./all.ts knows all nouns; ./apply.ts carries operations out.
 */
export interface Operations {
  batch: Batch
}
export type Operation = Operations[keyof Operations]
export type OperationOf<K extends keyof Operations> = Operations[K]

/** Several operations as one step: all of them, or none. `label` names the step for undo. */
export interface Batch {
  kind: 'batch'
  label?: string | undefined
  operations: Operation[]
}

/** A kind of operation: its name, its fields, and what it says that it does. */
export interface Kind<K extends string, F extends z.ZodRawShape> {
  name: K
  fields: F
  /** For undo and the log, said of the design before it: “rename patient to animal”. */
  say: (fields: FieldsOf<F>, called: Called) => string
}
type FieldsOf<F extends z.ZodRawShape> = z.output<z.ZodObject<F, z.core.$strict>>

/** Any kind of operation. */
export interface AnyKind {
  name: string
  fields: z.ZodRawShape
  say: (fields: never, called: Called) => string
}

export function kind<const K extends string, F extends z.ZodRawShape>(
  name: K,
  fields: F,
  say: (fields: FieldsOf<F>, called: Called) => string
): Kind<K, F> {
  return { name, fields, say }
}

/** The operations of these kinds, by their names. */
export type OperationsOf<Kinds extends readonly AnyKind[]> = {
  [Each in Kinds[number] as Each['name']]: { kind: Each['name'] } & FieldsOf<Each['fields']>
}

/**
 * What one operation comes to: a changed design with the operation that takes it back, or simpler
 * operations to apply in turn.
 */
export type Outcome = { design: Design; inverse: Operation; touched: string[] } | { instead: Operation[] }
export type Handler<K extends keyof Operations> = (design: Design, operation: OperationOf<K>) => Outcome

/** All that can be done to one kind of thing. */
export interface Noun<Kinds extends readonly AnyKind[]> {
  kinds: Kinds
  handlers: HandlersOf<Kinds>
}
type HandlersOf<Kinds extends readonly AnyKind[]> = {
  [Each in Kinds[number] as Each['name']]: Handler<Each['name'] & keyof Operations>
}

export const noun = <Kinds extends readonly AnyKind[]>(
  kinds: Kinds,
  handlers: HandlersOf<Kinds>
): Noun<Kinds> => ({ kinds, handlers })
