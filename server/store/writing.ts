import { createWriteStream, readFileSync } from 'node:fs'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { setImmediate } from 'node:timers/promises'
import { writeBackup } from '../../core/design/backup.ts'
import { readDesignFile, type DesignFile } from '../../core/design/file.ts'
import { decodeText } from '../../core/design/json.ts'
import { backupOf, firstAt, judgeBackup } from './backup.ts'
import type { Store } from './store.ts'
import { CannotTake } from './trouble.ts'
import type { NotWhole, Written, Whole } from './tasks.ts'

/**
 * Writes it to a file.
 * @returns the designs of which not all is in it; nothing where there is no such design
 * @throws Damaged
 */
export async function writeFrom(store: Store, written: Written, to: string): Promise<NotWhole[] | undefined> {
  const notWhole: NotWhole[] = []
  const parts =
    written.kind === 'backup'
      ? backupOf(store, (each) => notWhole.push(each))
      : await store.file(written.design)
  if (!parts) return undefined
  await write(parts, to)
  if (written.kind === 'backup') await judgeBackup(to)
  return notWhole
}

/**
 * Judges what is read whole, and writes what it holds as a backup, which is read line by line.
 * @throws CannotTake where it cannot be taken
 */
export async function writeAsLines(what: Whole, from: string, to: string): Promise<void> {
  const { savedAt, files } =
    what === 'backup' ? firstAt(from) : { savedAt: new Date().toISOString(), files: [designFileAt(from)] }
  await write(writeBackup(Readable.from(files), savedAt), to)
}

/** Reads a design file. @throws CannotTake where it is none */
export function designFileAt(path: string): DesignFile {
  const text = decodeText(readFileSync(path))
  const read = text.ok ? readDesignFile(text.value) : text
  if (!read.ok) throw new CannotTake(read.message)
  return read.value
}

const write = (parts: AsyncIterable<string>, to: string): Promise<void> =>
  pipeline(Readable.from(inTurns(parts)), createWriteStream(to, { mode: 0o600 }))

/** Others are served between two parts. */
async function* inTurns(parts: AsyncIterable<string>): AsyncGenerator<string> {
  for await (const part of parts) {
    yield part
    await setImmediate()
  }
}
