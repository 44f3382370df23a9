import { createHash } from 'node:crypto'
import { readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

/** Up to which revision each design was acknowledged. */
export type Heads = Map<string, number>

/**
 * A small file beside the database that says how far each design had come when its last operation was
 * acknowledged. A database cannot tell by itself that its end is missing: a damaged log is cut where the
 * damage begins, and an emptied file is a good database with nothing in it. This file can. It is written
 * after each commit and not synced: at a power cut it may be behind, which says nothing, never ahead.
 */
export class HeadsFile {
  private readonly path: string
  private heads: Heads = new Map()

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
    if (sum !== checksum(lines.join('\n'))) return undefined
    return new Map(lines.map((line) => {
      const [id = '', revision = ''] = line.split(' ')
      return [id, Number(revision)]
    }))
  }

  /** Says where every design stands now. */
  reset(heads: Heads): void {
    this.heads = new Map(heads)
    this.write()
  }

  /** An operation was taken, or a design made: after it is on disk. */
  came(changed: Heads): void {
    for (const [id, revision] of changed) this.heads.set(id, revision)
    this.write()
  }

  /** A design is about to be removed: before it is, so that it is not missed. */
  goes(id: string): void {
    if (this.heads.delete(id)) this.write()
  }

  /** Whole or not at all. A disk that takes nothing has refused the commit already, or will refuse the next. */
  private write(): void {
    const lines = [...this.heads].map(([id, revision]) => `${id} ${revision}`).join('\n')
    try {
      writeFileSync(`${this.path}.new`, `${checksum(lines)}\n${lines}\n`, { mode: 0o600 })
      renameSync(`${this.path}.new`, this.path)
    } catch {
      // It is behind then, which says nothing.
    }
  }
}

const checksum = (text: string): string => createHash('sha256').update(text).digest('hex')
