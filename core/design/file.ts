import { parse, type ParseError } from 'jsonc-parser'
import { z } from 'zod'
import { flawsOf } from './integrity.ts'
import { designSchema, versionSchema, type Design, type Version } from './model.ts'
import type { Parsed } from './type.ts'

/** The format that this program writes, and the newest that it reads. */
export const FORMAT = 1

export const designFileSchema = z.strictObject({
  format: z.literal(FORMAT),
  design: designSchema,
  versions: z.array(versionSchema)
})
/** What a design file holds: the draft and every saved version. */
export type DesignFile = z.infer<typeof designFileSchema>

/**
 * Reads the text of a design file. Refuses, with the path and in plain words, what is not JSON, not a
 * design file, newer than this program, or does not hold together.
 */
export function readDesignFile(text: string): Parsed<DesignFile> {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    return { ok: false, message: `This is not a design file: it is not JSON (${where(text)}).` }
  }
  return parseDesignFile(json)
}

/** {@link readDesignFile} for what has been read as JSON already. */
export function parseDesignFile(json: unknown): Parsed<DesignFile> {
  if (typeof json !== 'object' || json === null || !('format' in json)) {
    return { ok: false, message: 'This is not a design file: it carries no format number.' }
  }
  if (typeof json.format === 'number' && json.format > FORMAT) {
    return { ok: false, message: `This design file has format ${json.format}; this program reads up to format ${FORMAT}. A newer Patient Key wrote it: use that one, or a newer.` }
  }
  const parsed = designFileSchema.safeParse(json)
  if (!parsed.success) return { ok: false, message: `This design file cannot be read. ${sayIssues(parsed.error)}` }
  const designs: [Design, string][] = [[parsed.data.design, 'design'], ...parsed.data.versions.map((version, at): [Design, string] => [version.design, `versions.${at}.design`])]
  for (const [design, path] of designs) {
    const [flaw] = flawsOf(design)
    if (flaw) return { ok: false, message: `This design file does not hold together: ${flaw.message} (at ${[path, ...flaw.path].join('.')}).` }
  }
  if (parsed.data.versions.some((version, at) => version.number !== at + 1)) {
    return { ok: false, message: 'This design file cannot be read: its versions are not numbered 1, 2, 3 and so on.' }
  }
  return { ok: true, value: parsed.data }
}

/** The first faults of a value that fits no schema, each with the path to it. */
export function sayIssues(error: z.ZodError): string {
  const issues = error.issues.slice(0, 3).map((issue) => `At ${issue.path.join('.') || 'the top'}: ${issue.message}.`)
  const more = error.issues.length - issues.length
  return issues.join(' ') + (more > 0 ? ` And ${more} more.` : '')
}

/** Where a text stops being JSON. JSON.parse says so in words that differ from one engine to the next, so another parser is asked. */
function where(text: string): string {
  if (text.trim() === '') return 'it is empty'
  const errors: ParseError[] = []
  parse(text, errors, { disallowComments: true })
  const before = text.slice(0, errors[0]?.offset ?? text.length).split('\n')
  return `line ${before.length}, column ${(before.at(-1)?.length ?? 0) + 1}`
}

/**
 * The text of a design file: keys in a fixed order, one entity to a line, so that two people's
 * changes merge in version control. Equal designs give equal bytes.
 */
export function writeDesignFile(design: Design, versions: readonly Version[] = []): string {
  // Parsing rebuilds every object in its schema's order of keys, however it came to be.
  const ordered = designFileSchema.parse({ format: FORMAT, design, versions })
  ordered.design = inOrder(ordered.design)
  ordered.versions = ordered.versions.map((version) => ({ ...version, design: inOrder(version.design) }))
  return `${print(ordered, '')}\n`
}

/** The design with its free-form records in the order of its tables and columns, and no value written where there is none. */
function inOrder(design: Design): Design {
  return {
    ...design,
    tables: design.tables.map((table) => ({ ...table, rows: table.rows.map((row) => pick(row, table.columns.map((column) => column.id).filter((id) => row[id] !== null))) })),
    positions: pick(design.positions, design.tables.map((table) => table.id))
  }
}

function pick<T>(record: Record<string, T>, keys: readonly string[]): Record<string, T> {
  return Object.fromEntries(keys.flatMap((key) => {
    const value = record[key]
    return value === undefined ? [] : [[key, value]]
  }))
}

/** The lists whose members stand one to a line; everything deeper is written on that line. */
const ENTITY_LISTS = new Set(['columns', 'uniques', 'foreignKeys', 'checks', 'indexes', 'rowPolicies', 'rows', 'carries', 'schemas', 'enums'])

function print(value: unknown, indent: string, key = ''): string {
  if (typeof value !== 'object' || value === null) return JSON.stringify(value)
  const inner = `${indent}  `
  if (Array.isArray(value)) {
    if (value.length === 0) return '[]'
    const lines = value.map((item) => inner + (ENTITY_LISTS.has(key) ? inline(item) : print(item, inner)))
    return `[\n${lines.join(',\n')}\n${indent}]`
  }
  const entries = Object.entries(value).filter(([, item]) => item !== undefined)
  if (entries.length === 0) return '{}'
  const lines = entries.map(([name, item]) => {
    const text = name === 'primaryKey' || name === 'policy' || name === 'dialects' ? inline(item) : key === 'positions' ? inline(item) : print(item, inner, name)
    return `${inner}${JSON.stringify(name)}: ${text}`
  })
  return `{\n${lines.join(',\n')}\n${indent}}`
}

function inline(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(inline).join(', ')}]`
  if (typeof value !== 'object' || value === null) return JSON.stringify(value)
  const entries = Object.entries(value).filter(([, item]) => item !== undefined)
  return entries.length === 0 ? '{}' : `{ ${entries.map(([name, item]) => `${JSON.stringify(name)}: ${inline(item)}`).join(', ')} }`
}
