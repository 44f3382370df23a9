import { z } from 'zod'
import { BOUNDS } from '../../bounds.ts'
import { idSchema } from '../ids.ts'
import { nameSchema, noteSchema } from '../name.ts'
import { checkSchema } from './check.ts'
import { columnSchema } from './column.ts'
import { foreignKeySchema } from './foreign-key.ts'
import { indexSchema } from './index-part.ts'
import { keySchema } from './key.ts'
import { beside, ofSchema, part } from './part.ts'
import { rowPolicySchema } from './row-policy.ts'
import { rowSchema } from './row.ts'

/** `forced`: also for the table's owner, whom an engine lets pass otherwise. */
export const ROW_SECURITY = ['off', 'on', 'forced'] as const
export type RowSecurity = (typeof ROW_SECURITY)[number]

/** Whether a table's rows are held to its row policies. */
export const rowSecurityOf = ({ rowSecurity, rowPolicies }: Table): RowSecurity =>
  rowSecurity ?? (rowPolicies.length > 0 ? 'on' : 'off')

export const tableSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  /** The schema that it stands in; the database's own where none is named. */
  schema: idSchema.optional(),
  /** Owned by another system: it may be referred to, and is never made, changed or dropped. */
  external: z.literal(true).optional(),
  note: noteSchema,
  /** The columns that a row is called by; one that refers stands for what the row referred to is called. */
  label: z.array(idSchema).min(1).max(8).optional(),
  columns: z.array(columnSchema).max(BOUNDS.columns),
  primaryKey: keySchema.optional(),
  uniques: z.array(keySchema).max(BOUNDS.rules),
  foreignKeys: z.array(foreignKeySchema).max(BOUNDS.rules),
  checks: z
    .array(checkSchema)
    .max(BOUNDS.rules)
    .default(() => []),
  indexes: z
    .array(indexSchema)
    .max(BOUNDS.rules)
    .default(() => []),
  rowPolicies: z
    .array(rowPolicySchema)
    .max(BOUNDS.rules)
    .default(() => []),
  /** Whether rows are held to row policies; where it is not said, where there is one. */
  rowSecurity: z.enum(ROW_SECURITY).optional(),
  rows: z.array(rowSchema).max(BOUNDS.rows)
})
export type Table = z.infer<typeof tableSchema>

export const tablePart = part<Table>()({
  name: 'table',
  plural: 'tables',
  prefix: 't',
  heldBy: 'design',
  in: 'tables',
  as: 'list',
  schema: tableSchema,
  isOfSchema: true,
  aspects: {
    name: ofSchema('value', 'name'),
    schema: ofSchema('value', 'schema'),
    external: ofSchema('value', 'external'),
    rowSecurity: ofSchema('value', 'rowSecurity'),
    note: ofSchema('value', 'note'),
    label: beside('sequence', 'label')
  }
})
