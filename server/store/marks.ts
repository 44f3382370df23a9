import { createHash, randomBytes } from 'node:crypto'
import { finish, type Paused } from '../../core/design/paused.ts'
import { partsOf } from '../../core/design/text-of.ts'
import type { DesignRow, OperationRow, SnapshotRow, VersionRow } from './models.ts'

/**
 * Checksums of what is kept. Each operation's is made of the one before it and of itself, and so stands
 * for the whole history up to it: two that have the same mark at a revision have the same history, and
 * an operation that is lost, doubled, changed or out of order is found.
 */

const digest = (parts: readonly (string | number)[]): string => finish(digestInTurns(parts))

/**
 * 128 bits of SHA-256 over the parts, each with its length before it, so that none can be taken for
 * another.
 */
function* digestInTurns(parts: readonly (string | number)[]): Paused<string> {
  const sum = createHash('sha256')
  for (const part of parts) {
    const text = String(part)
    sum.update(`${Buffer.byteLength(text)}:`)
    for (const piece of partsOf(text)) {
      sum.update(piece)
      if (piece.length < text.length) yield
    }
  }
  return sum.digest('hex').slice(0, 32)
}

/**
 * The mark of a design at its beginning: no two beginnings have the same, even of one design that comes
 * twice.
 */
export const firstMark = (): string => randomBytes(16).toString('hex')

export function nextMark(before: string, row: Omit<OperationRow, 'mark'>): string {
  return digest([
    'operation',
    before,
    row.designId,
    row.revision,
    row.operationId,
    row.client,
    row.at,
    row.operation
  ])
}

export function checksumOfSnapshot(row: Omit<SnapshotRow, 'checksum'>): Paused<string> {
  return digestInTurns(['snapshot', row.designId, row.revision, row.mark, row.design])
}

export function checksumOfVersion(row: Omit<VersionRow, 'checksum'>): Paused<string> {
  return digestInTurns(['version', row.designId, row.number, row.note, row.savedAt, row.design])
}

export function checksumOfDesign(row: Omit<DesignRow, 'checksum' | 'tables'>): string {
  return digest([
    'design',
    row.id,
    row.name,
    row.revision,
    row.mark,
    row.versions,
    row.createdAt,
    row.changedAt
  ])
}
