import { createWriteStream } from 'node:fs'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { setImmediate } from 'node:timers/promises'
import { backupOf, judgeBackup } from './backup.ts'
import type { Store } from './store.ts'

/** What is written of a store: all of it as a backup, which is read back; or one design with its versions. */
export type Written = { kind: 'backup' } | { kind: 'file'; design: string }

/** Writes it to a file. False where there is no such design. @throws Damaged */
export async function writeFrom(store: Store, written: Written, to: string): Promise<boolean> {
  const parts = written.kind === 'backup' ? backupOf(store) : await store.file(written.design)
  if (!parts) return false
  await pipeline(Readable.from(inTurns(parts)), createWriteStream(to, { mode: 0o600 }))
  if (written.kind === 'backup') await judgeBackup(to)
  return true
}

/** Others are served between two parts. */
async function* inTurns(parts: AsyncIterable<string>): AsyncGenerator<string> {
  for await (const part of parts) {
    yield part
    await setImmediate()
  }
}
