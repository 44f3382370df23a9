import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import type { Prefix } from './parts/all.ts'
import { designSchema, type Design } from './parts/design.ts'
import { FIRST_POLICY } from './parts/policy.ts'
import type { Table } from './parts/table.ts'

/**
 * The design: one immutable JSON value. Every entity has an id that outlives its name, so that a
 * rename is a rename and never a drop and an add. What can be derived (a junction, a cardinality,
 * the name of a constraint) is derived, never stored. Each kind of part is a file in ./parts.
 */
export { NAME_LENGTH, nameSchema } from './name.ts'
export * from './parts/check.ts'
export * from './parts/column.ts'
export * from './parts/design.ts'
export * from './parts/figure.ts'
export * from './parts/foreign-key.ts'
export * from './parts/index-part.ts'
export * from './parts/key.ts'
export * from './parts/list.ts'
export * from './parts/output.ts'
export * from './parts/policy.ts'
export * from './parts/position.ts'
export * from './parts/row.ts'
export * from './parts/row-policy.ts'
export * from './parts/ruling.ts'
export * from './parts/schema.ts'
export * from './parts/set-aside.ts'
export * from './parts/standing.ts'
export * from './parts/subject.ts'
export * from './parts/table.ts'
export * from './parts/template.ts'
export * from './parts/usual.ts'
export * from './parts/view.ts'

/** A saved state of the design. Versions are numbered from 1; only the last may become another state. */
export const versionSchema = z.strictObject({
  number: z.int().min(1),
  note: z.string().max(BOUNDS.note),
  savedAt: z.iso.datetime(),
  design: designSchema
})
export type Version = z.infer<typeof versionSchema>

export type TableId = string
export type ColumnId = string
export type KeyId = string

/** A new id, with what ids of its kind begin with. */
export function newId(prefix: Prefix): string {
  const bytes = crypto.getRandomValues(new Uint8Array(10))
  return `${prefix}_${[...bytes].map((byte) => (byte % 36).toString(36)).join('')}`
}

/** A design with nothing in it. */
export function emptyDesign(name: string, id = newId('d')): Design {
  return {
    id,
    name,
    dialects: [],
    policy: FIRST_POLICY,
    schemas: [],
    enums: [],
    tables: [],
    carries: [],
    positions: {}
  }
}

/** A table with nothing in it but its name. */
export function emptyTable(name: string, id = newId('t')): Table {
  return {
    id,
    name,
    columns: [],
    uniques: [],
    foreignKeys: [],
    checks: [],
    indexes: [],
    rowPolicies: [],
    rows: []
  }
}
