import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { changesSchema, type Changes } from './changes.ts'
import { designSchema, tableSchema, versionSchema, type Design } from './model.ts'
import { eachInTurn, type Paused } from './paused.ts'
import type { FoldedVersion } from './folded.ts'

/** Values from outside held to the schemas of what may have thousands of tables: table by table, with stops. */

/** What `designSchema.safeParse` says of a value. */
export const shapedDesign = (value: unknown): Paused<z.ZodSafeParseResult<Design>> =>
  byTables(designSchema, tableSchema, value)

const aboutVersion = versionSchema.omit({ design: true }).shape
const framedVersion = z.union([
  z.strictObject({ ...aboutVersion, design: z.unknown() }),
  z.strictObject({ ...aboutVersion, since: z.unknown() })
])

/** What `foldedVersionSchema.safeParse` says of a value; of what is wrong, it says where. */
export function* shapedVersion(value: unknown): Paused<z.ZodSafeParseResult<FoldedVersion>> {
  const framed = framedVersion.safeParse(value)
  if (!framed.success) return { success: false, error: framed.error as z.ZodError<FoldedVersion> }
  const { number, note, savedAt } = framed.data
  const about = { number, note, savedAt }
  if ('design' in framed.data) {
    const design = yield* shapedDesign(framed.data.design)
    return design.success
      ? { success: true, data: { ...about, design: design.data } }
      : within('design', design.error)
  }
  const since = yield* shapedChanges(framed.data.since)
  return since.success
    ? { success: true, data: { ...about, since: since.data } }
    : within('since', since.error)
}

function within(part: string, { issues }: z.ZodError): z.ZodSafeParseError<FoldedVersion> {
  const inside = issues.map((issue) => ({ ...issue, path: [part, ...issue.path] }))
  return { success: false, error: new z.ZodError(inside) as z.ZodError<FoldedVersion> }
}

const changedTable = changesSchema.shape.tables.unwrap().element

/** What `changesSchema.safeParse` says of a value. */
export const shapedChanges = (value: unknown): Paused<z.ZodSafeParseResult<Changes>> =>
  byTables(changesSchema, changedTable, value)

function* byTables<T extends { tables?: unknown[] | undefined }>(
  schema: z.ZodType<T>,
  member: z.ZodType,
  value: unknown
): Paused<z.ZodSafeParseResult<T>> {
  const tables = tablesIn(value)
  // What is no list of tables is refused as a whole.
  if (!tables) return schema.safeParse(value)
  const rest = schema.safeParse({ ...(value as object), tables: [] })
  const each = yield* eachInTurn(tables, (table) => member.safeParse(table))
  const issues = [
    ...(rest.error?.issues ?? []),
    ...each.flatMap(({ error }, at) =>
      (error?.issues ?? []).map((issue) => ({ ...issue, path: ['tables', at, ...issue.path] }))
    )
  ]
  if (!rest.success || issues.length > 0)
    return { success: false, error: new z.ZodError(issues) as z.ZodError<T> }
  return { success: true, data: { ...rest.data, tables: each.map(({ data }) => data) } }
}

function tablesIn(value: unknown): unknown[] | undefined {
  if (typeof value !== 'object' || value === null || !('tables' in value)) return undefined
  const { tables } = value
  return Array.isArray(tables) && tables.length <= BOUNDS.tables ? tables : undefined
}
