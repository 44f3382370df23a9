import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { flawsInTurns, isCarryToNowhere } from './integrity.ts'
import { readJson } from './json.ts'
import { changesBetween, changesSchema, withChanges, type Changes } from './changes.ts'
import { designSchema, tidyRow, type Design, type Table, type Version } from './model.ts'
import { finish, type Paused } from './paused.ts'
import { shapedDesign } from './shaped.ts'
import { shorten, type Parsed } from './type.ts'
import { flawOfText } from './value.ts'
import { type FoldedVersion, foldedVersionSchema } from './folded.ts'
import type { Flaw } from './flaw.ts'

/** The format that this program writes where a file has several versions, and the newest that it reads. */
export const FORMAT = 2

export const designFileSchema = z.strictObject({
  format: z.union([z.literal(1), z.literal(FORMAT)]),
  design: designSchema,
  versions: z.array(foldedVersionSchema).max(BOUNDS.versions)
})
/** The schema of a design file, as JSON Schema says it; what it has in several places stands there once. */
export const designFileJsonSchema = (): object =>
  z.toJSONSchema(designFileSchema, { io: 'input', reused: 'ref' })

/** What a design file holds: the draft and every saved version. */
export interface DesignFile {
  design: Design
  versions: Version[]
}

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
  const file = unfolded(parsed.data)
  if (!file.ok) return file
  const flaw = flawOfFile(file.value)
  if (flaw)
    return {
      ok: false,
      message: `This design file does not hold together: ${shorten(flaw.message, 300)} (at ${flaw.path.join('.')}).`
    }
  if (file.value.versions.some((version, at) => version.number !== at + 1)) {
    return {
      ok: false,
      message: 'This design file cannot be read: its versions are not numbered 1, 2, 3 and so on.'
    }
  }
  return file
}

/** The first flaw in a file: in its draft, in a version, or in what is written about a version. */
function flawOfFile({ design, versions }: DesignFile): Flaw | undefined {
  const states: [Design, Flaw['path']][] = [
    [design, ['design']],
    ...versions.map((version, at): [Design, Flaw['path']] => [version.design, ['versions', at, 'design']])
  ]
  for (const [state, path] of states) {
    const flaw = flawOfState(state)
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

/** The first thing in a state that does not hold together. */
export const flawOfState = (state: Design): Flaw | undefined => finish(flawOfStateInTurns(state))

/** The same, table by table. */
export function* flawOfStateInTurns(state: Design): Paused<Flaw | undefined> {
  const nowhere = state.carries.findIndex((carry) => isCarryToNowhere(state, carry))
  if (nowhere < 0) return (yield* flawsInTurns(state))[0]
  return { path: ['carries', nowhere], message: 'rows are to be carried to a table that is not there' }
}

/** Every version whole, with what it shares with the one before as the same values; rows without what is null. */
function unfolded({ design, versions }: z.infer<typeof designFileSchema>): Parsed<DesignFile> {
  const unfolding = new VersionUnfolding()
  const whole: Version[] = []
  for (const [at, folded] of versions.entries()) {
    const version = unfolding.next(folded)
    if (!version.ok)
      return {
        ok: false,
        message: `This design file does not hold together: ${version.message} (at versions.${at}.since).`
      }
    whole.push(version.value)
  }
  return { ok: true, value: { design: tidy(design), versions: whole } }
}

/** Versions in turn, each but the first as what is otherwise in it than in the one before. */
export class VersionFolding {
  private before: Design | undefined

  next({ number, note, savedAt, design }: Version): FoldedVersion {
    const now = ordered(design)
    const about = { number, note, savedAt }
    const folded = this.before
      ? { ...about, since: changesSchema.parse(changesBetween(this.before, now)) }
      : { ...about, design: now }
    this.before = now
    return folded
  }
}

/** The same versions again, whole; what they share is the same value. */
export class VersionUnfolding {
  private before: Design | undefined

  next(folded: FoldedVersion): Parsed<Version> {
    const state =
      'design' in folded ? { ok: true as const, value: tidy(folded.design) } : this.later(folded.since)
    if (!state.ok) return state
    this.before = state.value
    const { number, note, savedAt } = folded
    return { ok: true, value: { number, note, savedAt, design: state.value } }
  }

  private later(since: Changes): Parsed<Design> {
    if (!this.before) return { ok: false, message: 'there is no version before it' }
    return withChanges(this.before, {
      ...since,
      ...(since.tables && { tables: since.tables.map(tidyTable) })
    })
  }
}

export const tidy = (design: Design): Design => ({ ...design, tables: design.tables.map(tidyTable) })

function tidyTable<T extends Table | NonNullable<Changes['tables']>[number]>(table: T): T {
  if (!('set' in table)) return { ...table, rows: table.rows.map(tidyRow) }
  const { rows } = table.set
  return rows ? { ...table, set: { ...table.set, rows: rows.map(tidyRow) } } : table
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
  const writing = new FileWriting()
  const parts = [writing.begin(design, versions.length), ...versions.map((each) => writing.version(each))]
  return `${parts.join('')}${writing.end()}`
}

/** The text of a file as a program of the first format wrote it: every version whole. Earlier backups are held to it. */
export function writeInFirstForm(design: Design, versions: readonly Version[]): string {
  const whole = versions.map(({ number, note, savedAt, design: state }) => ({
    number,
    note,
    savedAt,
    design: ordered(state)
  }))
  return `${print({ format: 1, design: ordered(design), versions: whole }, '')}\n`
}

/**
 * A design file part by part, so that it need not be in memory whole: the draft, then each version in turn, the first
 * whole and each later one as what is otherwise in it than in the one before.
 */
export class FileWriting {
  private readonly folding = new VersionFolding()
  private count = 0

  /** @param versions how many there will be */
  begin(design: Design, versions: number): string {
    const format = versions > 1 ? FORMAT : 1
    return `{\n  "format": ${format},\n  "design": ${print(ordered(design), '  ')},\n  "versions": [`
  }

  version(version: Version): string {
    const text = print(this.folding.next(version), '    ')
    return `${this.count++ > 0 ? ',' : ''}\n    ${text}`
  }

  end(): string {
    return this.count > 0 ? '\n  ]\n}\n' : ']\n}\n'
  }
}

/** Parsing rebuilds every object in its schema's order of keys, however it came to be. */
export const ordered = (design: Design): Design => inOrder(designSchema.parse(design))

/** The same, table by table. */
export function* orderedInTurns(design: Design): Paused<Design> {
  const parsed = yield* shapedDesign(design)
  if (!parsed.success) throw parsed.error
  yield
  return inOrder(parsed.data)
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

/** The lists that stand on one line. */
const SHORT_LISTS = new Set(['order', 'gone', 'goneTables'])

function print(value: unknown, indent: string, key = ''): string {
  if (typeof value !== 'object' || value === null) return JSON.stringify(value)
  const inner = `${indent}  `
  if (Array.isArray(value)) {
    if (value.length === 0) return '[]'
    if (SHORT_LISTS.has(key)) return inline(value)
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
