import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'
import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import {
  flawOfStateInTurns,
  ordered,
  parseDesignFile,
  sayIssues,
  tidy,
  VersionFolding,
  VersionUnfolding,
  writeInFirstForm,
  type DesignFile
} from './file.ts'
import { readJson, readJsonInTurns } from './json.ts'
import type { Design, Version } from './model.ts'
import type { Paused } from './paused.ts'
import { shapedDesign, shapedVersion } from './shaped.ts'
import { partsOf } from './text-of.ts'
import { shorten, type Parsed } from './type.ts'
import { flawOfText } from './value.ts'
import type { FoldedVersion } from './folded.ts'

/**
 * Many designs with their versions in one file, a piece to a line, so that it is written and read line by line and
 * never held in memory whole: a line that says what it is; for each design its draft, its versions in turn, each as
 * what is otherwise in it, and a checksum of those lines; at the end how many designs there were. A file that was cut
 * or changed is not taken for a whole one.
 */

export const BACKUP_FORMAT = 2
const KIND = 'patient-key backup'

/** A design, and its versions in turn. */
export interface BackedUp {
  design: Design
  versions: AsyncIterable<Version> | Iterable<Version>
}

/** The text of a backup, line by line. */
export async function* writeBackup(
  designs: AsyncIterable<BackedUp>,
  savedAt: string
): AsyncGenerator<string> {
  yield `${JSON.stringify({ kind: KIND, format: BACKUP_FORMAT, savedAt })}\n`
  let count = 0
  for await (const { design, versions } of designs) {
    const sum = sha256.create()
    const line = (piece: object): string => {
      const text = `${JSON.stringify(piece)}\n`
      sum.update(utf8ToBytes(text))
      return text
    }
    yield line({ design: ordered(design) })
    const folding = new VersionFolding()
    for await (const version of versions) yield line({ version: folding.next(version) })
    yield `${JSON.stringify({ checksum: bytesToHex(sum.digest()) })}\n`
    count++
  }
  yield `${JSON.stringify({ count })}\n`
}

const headSchema = z.strictObject({
  kind: z.literal(KIND),
  format: z.literal(BACKUP_FORMAT),
  savedAt: z.iso.datetime()
})
/** A line but the first; what may be large of it is held to its own schema. */
const lineSchema = z.union([
  z.strictObject({ design: z.unknown() }),
  z.strictObject({ version: z.unknown() }),
  z.strictObject({ checksum: z.string() }),
  z.strictObject({ count: z.int().min(0) })
])

/** What a line of a backup comes to. */
export type BackupLine =
  | { kind: 'begin'; savedAt: string }
  | { kind: 'design'; design: Design }
  | { kind: 'version'; version: Version }
  | { kind: 'whole' }
  | { kind: 'end' }

/**
 * Reads a backup line by line; each design is held to its checksum, and every state judged like any design file.
 * Refuses, in plain words, what is not whole, was changed, or does not hold together.
 */
export class BackupReading {
  private isBegun = false
  private isEnded = false
  private count = 0
  private open:
    | { sum: ReturnType<typeof sha256.create>; name: string; versions: number; unfolding: VersionUnfolding }
    | undefined;

  /** Takes the next line; the work stops at times. */
  *line(text: string): Paused<Parsed<BackupLine>> {
    const json = yield* readJsonInTurns(text)
    if (!json.ok) return refused(`This is not a whole backup: ${json.message}.`)
    if (!this.isBegun) return this.begin(json.value)
    if (this.isEnded) return refused('This is not a whole backup: something comes behind its end.')
    const parsed = lineSchema.safeParse(json.value)
    if (!parsed.success) return unreadable(parsed.error)
    const line = parsed.data
    if ('count' in line) return this.end(line.count)
    if ('checksum' in line) return this.whole(line.checksum)
    if ('design' in line) {
      const design = yield* shapedDesign(line.design)
      return design.success ? yield* this.design(text, design.data) : unreadable(design.error)
    }
    const version = yield* shapedVersion(line.version)
    return version.success ? yield* this.version(text, version.data) : unreadable(version.error)
  }

  /** What is wrong where the file ends here; nothing where it is whole. */
  flawAtEnd(): string | undefined {
    if (!this.isBegun) return 'This is not a backup of Patient Key.'
    return this.isEnded ? undefined : 'This is not a whole backup: it breaks off before its end.'
  }

  private begin(value: unknown): Parsed<BackupLine> {
    if (typeof value !== 'object' || value === null || !('kind' in value) || value.kind !== KIND)
      return refused('This is not a backup of Patient Key.')
    if ('format' in value && typeof value.format === 'number' && value.format > BACKUP_FORMAT)
      return refused(
        `This backup has format ${value.format}; this program reads up to format ${BACKUP_FORMAT}. A newer Patient Key wrote it: use that one, or a newer.`
      )
    const parsed = headSchema.safeParse(value)
    if (!parsed.success) return refused(`This backup cannot be read. ${sayIssues(parsed.error)}`)
    this.isBegun = true
    return { ok: true, value: { kind: 'begin', savedAt: parsed.data.savedAt } }
  }

  private *design(text: string, given: Design): Paused<Parsed<BackupLine>> {
    if (this.open) return refused(`${this.called()} has no checksum.`)
    if (this.count >= BOUNDS.designs)
      return refused(`This backup has more than ${BOUNDS.designs.toLocaleString('en-GB')} designs.`)
    const design = tidy(given)
    this.open = { sum: sha256.create(), name: design.name, versions: 0, unfolding: new VersionUnfolding() }
    yield* sum(this.open.sum, text)
    return (yield* this.judged(design, 'its draft')) ?? { ok: true, value: { kind: 'design', design } }
  }

  private *version(text: string, folded: FoldedVersion): Paused<Parsed<BackupLine>> {
    const { open } = this
    if (!open) return refused('This backup cannot be read: a version stands behind no design.')
    yield* sum(open.sum, text)
    open.versions++
    if (folded.number !== open.versions || open.versions > BOUNDS.versions)
      return refused(`${this.called()}: its versions are not numbered 1, 2, 3 and so on.`)
    const version = open.unfolding.next(folded)
    const called = `version ${folded.number}`
    if (!version.ok) return refused(`${this.called()} cannot be taken: ${version.message} (${called}).`)
    const note = flawOfText(folded.note)
    if (note !== undefined) return refused(`${this.called()}: the note of ${called} has ${note} in it.`)
    return (
      (yield* this.judged(version.value.design, called)) ?? {
        ok: true,
        value: { kind: 'version', version: version.value }
      }
    )
  }

  private *judged(state: Design, what: string): Paused<Parsed<BackupLine> | undefined> {
    const flaw = yield* flawOfStateInTurns(state)
    if (!flaw) return undefined
    const where = flaw.path.join('.')
    return refused(
      `${this.called()} does not hold together: ${shorten(flaw.message, 300)} (${what}, at ${where}).`
    )
  }

  private whole(checksum: string): Parsed<BackupLine> {
    const { open } = this
    if (!open) return refused('This backup cannot be read: a checksum stands behind no design.')
    const called = this.called()
    this.open = undefined
    this.count++
    if (bytesToHex(open.sum.digest()) !== checksum) return refused(`${called}, is not as it was written.`)
    return { ok: true, value: { kind: 'whole' } }
  }

  private end(count: number): Parsed<BackupLine> {
    if (this.open) return refused(`${this.called()} has no checksum.`)
    this.isEnded = true
    if (count !== this.count)
      return refused(
        `This backup is not whole: it says that it has ${count} designs, and it has ${this.count}.`
      )
    return { ok: true, value: { kind: 'end' } }
  }

  private called(): string {
    return `Design ${this.count + 1} of this backup, ${shorten(this.open?.name ?? '')}`
  }
}

const refused = (message: string): { ok: false; message: string } => ({ ok: false, message })
const unreadable = (error: z.ZodError): { ok: false; message: string } =>
  refused(`This backup cannot be read. ${sayIssues(error)}`)

/** A line in a checksum, part by part. */
function* sum(open: ReturnType<typeof sha256.create>, text: string): Paused<void> {
  for (const part of partsOf(text)) {
    open.update(utf8ToBytes(part))
    yield
  }
  open.update(utf8ToBytes('\n'))
}

const firstSchema = z.strictObject({
  kind: z.literal(KIND),
  format: z.literal(1),
  savedAt: z.iso.datetime(),
  designs: z.array(z.strictObject({ checksum: z.string(), file: z.unknown() })).max(BOUNDS.designs),
  count: z.int().min(0)
})

/** Reads a backup of the first format, which is one value of JSON. */
export function readFirstBackup(text: string): Parsed<{ savedAt: string; files: DesignFile[] }> {
  const json = readJson(text, BOUNDS.firstBackup)
  if (!json.ok) return refused(`This is not a whole backup: ${json.message}.`)
  const parsed = firstSchema.safeParse(json.value)
  if (!parsed.success) return refused(`This backup cannot be read. ${sayIssues(parsed.error)}`)
  const { designs, count, savedAt } = parsed.data
  if (designs.length !== count)
    return refused(
      `This backup is not whole: it says that it has ${count} designs, and it has ${designs.length}.`
    )
  const files: DesignFile[] = []
  for (const [at, { checksum, file }] of designs.entries()) {
    const read = parseDesignFile(file)
    if (!read.ok) return refused(`Design ${at + 1} of this backup cannot be taken. ${read.message}`)
    const { design, versions } = read.value
    if (bytesToHex(sha256(utf8ToBytes(writeInFirstForm(design, versions)))) !== checksum)
      return refused(`Design ${at + 1} of this backup, ${shorten(design.name)}, is not as it was written.`)
    files.push(read.value)
  }
  return { ok: true, value: { savedAt, files } }
}

/** Which form of backup a text begins as; nothing where it is none. */
export function formOfBackup(beginning: string): 'lines' | 'first' | undefined {
  const [line = ''] = beginning.split('\n', 1)
  if (new RegExp(`^\\s*\\{\\s*"kind"\\s*:\\s*${JSON.stringify(KIND)}`).test(beginning) === false)
    return undefined
  return line.trimEnd().endsWith('}') ? 'lines' : 'first'
}
