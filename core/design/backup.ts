import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'
import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { parseDesignFile, sayIssues, writeDesignFile, type DesignFile } from './file.ts'
import { readJson } from './json.ts'
import { shorten, type Parsed } from './type.ts'

/**
 * Many designs with their versions in one file. Each stands with a checksum of its design file, and the
 * number of them at the end, so that a file that was cut or changed is not taken for a whole one.
 */

export const BACKUP_FORMAT = 1
const KIND = 'patient-key backup'

const backupSchema = z.strictObject({
  kind: z.literal(KIND),
  format: z.literal(BACKUP_FORMAT),
  savedAt: z.iso.datetime(),
  designs: z.array(z.strictObject({ checksum: z.string(), file: z.unknown() })).max(BOUNDS.designs),
  count: z.int().min(0)
})

/** The text of a backup, part by part, so that it need not be held in memory whole. */
export async function* writeBackup(
  files: AsyncIterable<DesignFile>,
  savedAt: string
): AsyncGenerator<string> {
  yield `{\n"kind": ${JSON.stringify(KIND)},\n"format": ${BACKUP_FORMAT},\n"savedAt": ${JSON.stringify(savedAt)},\n"designs": [`
  let count = 0
  for await (const { design, versions } of files) {
    const text = writeDesignFile(design, versions)
    yield `${count > 0 ? ',' : ''}\n{ "checksum": ${JSON.stringify(checksumOf(text))}, "file": ${text.trimEnd()} }`
    count++
  }
  yield `\n],\n"count": ${count}\n}\n`
}

/**
 * Reads a backup. Refuses, in plain words, one that is not whole, was changed, or holds a design that does
 * not hold together.
 */
export function readBackup(text: string): Parsed<{ savedAt: string; files: DesignFile[] }> {
  const json = readJson(text, BOUNDS.backup)
  if (!json.ok) return { ok: false, message: `This is not a whole backup: ${json.message}.` }
  const { value } = json
  if (typeof value !== 'object' || value === null || !('kind' in value) || value.kind !== KIND)
    return { ok: false, message: 'This is not a backup of Patient Key.' }
  if ('format' in value && typeof value.format === 'number' && value.format > BACKUP_FORMAT)
    return {
      ok: false,
      message: `This backup has format ${value.format}; this program reads up to format ${BACKUP_FORMAT}. A newer Patient Key wrote it: use that one, or a newer.`
    }
  const parsed = backupSchema.safeParse(value)
  if (!parsed.success) return { ok: false, message: `This backup cannot be read. ${sayIssues(parsed.error)}` }
  const { designs, count, savedAt } = parsed.data
  if (designs.length !== count)
    return {
      ok: false,
      message: `This backup is not whole: it says that it has ${count} designs, and it has ${designs.length}.`
    }
  const files: DesignFile[] = []
  for (const [at, { checksum, file }] of designs.entries()) {
    const read = parseDesignFile(file)
    if (!read.ok)
      return { ok: false, message: `Design ${at + 1} of this backup cannot be taken. ${read.message}` }
    const { design, versions } = read.value
    if (checksumOf(writeDesignFile(design, versions)) !== checksum)
      return {
        ok: false,
        message: `Design ${at + 1} of this backup, ${shorten(design.name)}, is not as it was written.`
      }
    files.push(read.value)
  }
  return { ok: true, value: { savedAt, files } }
}

/** Whether a text means to be a backup, and not a design file. */
export const isBackup = (text: string): boolean =>
  new RegExp(`^\\s*\\{\\s*"kind"\\s*:\\s*${JSON.stringify(KIND)}`).test(text)

const checksumOf = (text: string): string => bytesToHex(sha256(utf8ToBytes(text)))
