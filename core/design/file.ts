import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { flawsOf, isCarryToNowhere, type Flaw } from './integrity.ts'
import { readJson } from './json.ts'
import { designSchema, tidyRow, versionSchema, type Design, type Version } from './model.ts'
import { shorten, type Parsed } from './type.ts'
import { flawOfText } from './value.ts'

/** The format that this program writes, and the newest that it reads. */
export const FORMAT = 1

export const designFileSchema = z.strictObject({
  format: z.literal(FORMAT),
  design: designSchema,
  versions: z.array(versionSchema).max(BOUNDS.versions)
})
/** What a design file holds: the draft and every saved version. */
export type DesignFile = z.infer<typeof designFileSchema>

/**
 * Reads the text of a design file. Refuses, with the path and in plain words, what is not JSON, not a
 * design file, newer than this program, or does not hold together.
 */
export function readDesignFile(text: string): Parsed<DesignFile> {
  const json = readJson(text)
  return json.ok
    ? parseDesignFile(json.value)
    : { ok: false, message: `This is not a design file: ${json.message}.` }
}

/** {@link readDesignFile} for what has been read as JSON already. */
export function parseDesignFile(json: unknown): Parsed<DesignFile> {
  if (typeof json !== 'object' || json === null || !('format' in json)) {
    return { ok: false, message: 'This is not a design file: it carries no format number.' }
  }
  if (typeof json.format === 'number' && json.format > FORMAT) {
    return {
      ok: false,
      message: `This design file has format ${json.format}; this program reads up to format ${FORMAT}. A newer Patient Key wrote it: use that one, or a newer.`
    }
  }
  const parsed = designFileSchema.safeParse(json)
  if (!parsed.success)
    return { ok: false, message: `This design file cannot be read. ${sayIssues(parsed.error)}` }
  const flaw = flawOfFile(parsed.data)
  if (flaw)
    return {
      ok: false,
      message: `This design file does not hold together: ${shorten(flaw.message, 300)} (at ${flaw.path.join('.')}).`
    }
  if (parsed.data.versions.some((version, at) => version.number !== at + 1)) {
    return {
      ok: false,
      message: 'This design file cannot be read: its versions are not numbered 1, 2, 3 and so on.'
    }
  }
  return { ok: true, value: tidyFile(parsed.data) }
}

/** The first flaw in a file: in its draft, in a version, or in what is written about a version. */
function flawOfFile({ design, versions }: DesignFile): Flaw | undefined {
  const states: [Design, Flaw['path']][] = [
    [design, ['design']],
    ...versions.map((version, at): [Design, Flaw['path']] => [version.design, ['versions', at, 'design']])
  ]
  for (const [state, path] of states) {
    const nowhere = state.carries.findIndex((carry) => isCarryToNowhere(state, carry))
    const [flaw] =
      nowhere < 0
        ? flawsOf(state)
        : [{ path: ['carries', nowhere], message: 'rows are to be carried to a table that is not there' }]
    if (flaw) return { ...flaw, path: [...path, ...flaw.path] }
  }
  const at = versions.findIndex(({ note }) => flawOfText(note) !== undefined)
  return at < 0
    ? undefined
    : {
        path: ['versions', at, 'note'],
        message: `the note of a version has ${flawOfText(versions[at]?.note ?? '') ?? ''} in it`
      }
}

function tidyFile(file: DesignFile): DesignFile {
  const tidy = (design: Design): Design => ({
    ...design,
    tables: design.tables.map((table) => ({ ...table, rows: table.rows.map(tidyRow) }))
  })
  return {
    ...file,
    design: tidy(file.design),
    versions: file.versions.map((version) => ({ ...version, design: tidy(version.design) }))
  }
}

/** The first faults of a value that fits no schema, each with the path to it. */
export function sayIssues(error: z.ZodError): string {
  const issues = error.issues
    .slice(0, 3)
    .map((issue) => `At ${shorten(issue.path.join('.'), 120) || 'the top'}: ${shorten(issue.message, 160)}.`)
  const more = error.issues.length - issues.length
  return issues.join(' ') + (more > 0 ? ` And ${more} more.` : '')
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

/**
 * The design with its free-form records in the order of its tables and columns, and without what says
 * nothing: empty values, carries to tables that are gone.
 */
function inOrder(design: Design): Design {
  return {
    ...design,
    carries: design.carries.filter((carry) => !isCarryToNowhere(design, carry)),
    tables: design.tables.map((table) => ({
      ...table,
      rows: table.rows.map((row) =>
        pick(
          row,
          table.columns.map((column) => column.id).filter((id) => row[id] !== null)
        )
      )
    })),
    positions: pick(
      design.positions,
      design.tables.map((table) => table.id)
    )
  }
}

function pick<T>(record: Record<string, T>, keys: readonly string[]): Record<string, T> {
  return Object.fromEntries(
    keys.flatMap((key) => {
      const value = record[key]
      return value === undefined ? [] : [[key, value]]
    })
  )
}

/** The lists whose members stand one to a line; everything deeper is written on that line. */
const ENTITY_LISTS = new Set([
  'columns',
  'uniques',
  'foreignKeys',
  'checks',
  'indexes',
  'rowPolicies',
  'rows',
  'carries',
  'setAside',
  'figures',
  'rulings',
  'subjects',
  'views',
  'junctions',
  'schemas',
  'enums'
])

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
    const text =
      name === 'primaryKey' || name === 'policy' || name === 'dialects'
        ? inline(item)
        : key === 'positions'
          ? inline(item)
          : print(item, inner, name)
    return `${inner}${JSON.stringify(name)}: ${text}`
  })
  return `{\n${lines.join(',\n')}\n${indent}}`
}

function inline(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(inline).join(', ')}]`
  if (typeof value !== 'object' || value === null) return JSON.stringify(value)
  const entries = Object.entries(value).filter(([, item]) => item !== undefined)
  return entries.length === 0
    ? '{}'
    : `{ ${entries.map(([name, item]) => `${JSON.stringify(name)}: ${inline(item)}`).join(', ')} }`
}
