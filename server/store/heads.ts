import { createHash } from 'node:crypto'
import { readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

/**
 * Up to where a design was acknowledged: its revision and how many versions it had; or that it was
 * removed.
 */
export type Reached = { revision: number; versions: number } | 'removed'
export type Heads = ReadonlyMap<string, Reached>

/** So many removed designs are remembered. */
const REMEMBERED = 1000

/**
 * A small file beside the database that says how far each design had come when it was last acknowledged.
 * A database cannot tell by itself that its end is missing: a damaged log is cut where the damage begins,
 * and an emptied file is a good database with nothing in it. This file can. It is written after each
 * commit and not synced: at a power cut it may be behind, which says nothing, never ahead.
 */
export class HeadsFile {
  private readonly path: string
  private heads = new Map<string, Reached>()

  constructor(folder: string) {
    this.path = join(folder, 'heads')
  }

  /** What was written last; nothing where there is none, or it broke off. */
  read(): Heads | undefined {
    let text: string
    try {
      text = readFileSync(this.path, 'utf8')
    } catch {
      return undefined
    }
    const [sum = '', ...lines] = text.trimEnd().split('\n')
    return sum === checksum(lines.join('\n')) ? new Map(lines.map(readLine)) : undefined
  }

  /** Says where every design stands now. */
  reset(heads: Heads): void {
    this.heads = new Map(heads)
    this.write()
  }

  /** Says how far some designs have come: after that is on disk. */
  came(changed: Heads): void {
    for (const [id, reached] of changed) this.heads.set(id, reached)
    this.write()
  }

  /** A design is about to be removed: before it is, so that it is not missed. */
  goes(id: string): void {
    this.heads.delete(id)
    this.heads.set(id, 'removed')
    const removed = [...this.heads].filter(([, reached]) => reached === 'removed').map(([each]) => each)
    for (const old of removed.slice(0, -REMEMBERED)) this.heads.delete(old)
    this.write()
  }

  /**
   * Whole or not at all. A disk that takes nothing has refused the commit already, or will refuse the
   * next.
   */
  private write(): void {
    const lines = [...this.heads]
      .map(([id, reached]) =>
        reached === 'removed' ? `${id} removed` : `${id} ${reached.revision} ${reached.versions}`
      )
      .join('\n')
    try {
      writeFileSync(`${this.path}.new`, `${checksum(lines)}\n${lines}\n`, { mode: 0o600 })
      renameSync(`${this.path}.new`, this.path)
    } catch {
      // It is behind then, which says nothing.
    }
  }
}

function readLine(line: string): [string, Reached] {
  const [id = '', revision = '', versions = ''] = line.split(' ')
  return [id, revision === 'removed' ? 'removed' : { revision: Number(revision), versions: Number(versions) }]
}

const checksum = (text: string): string => createHash('sha256').update(text).digest('hex')
