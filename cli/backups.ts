import { closeSync, fsyncSync, mkdirSync, openSync, renameSync, rmSync, statSync, writeSync } from 'node:fs'
import { dirname } from 'node:path'
import { BOUNDS } from '../core/bounds.ts'
import { CannotDo, type Outcome } from './outcome.ts'
import { whyNot } from './files.ts'
import type { NotWhole } from '../server/store/tasks.ts'

/** Writes every design with its versions into one file, whether or not the application is running on them. */
export async function backup({ data, output }: { data: string; output: string }): Promise<Outcome> {
  const [{ openToRead }, { backupOf, judgeBackup }] = await Promise.all([
    import('../server/store/open.ts'),
    import('../server/store/backup.ts')
  ])
  const store = await openToRead(data).catch(inWords)
  try {
    const damaged: NotWhole[] = []
    const count = (await store.list()).length
    await writeWhole(
      output,
      backupOf(store, (each) => damaged.push(each)),
      judgeBackup
    )
    const words = [
      `${output}: ${sayCount(count - damaged.length)} with their versions`,
      ...damaged.map(
        ({ name, why, soundPart }) =>
          `  damaged, and ${soundPart ? 'backed up as far as it is sound' : 'left out'}: ${name}: ${why}`
      )
    ]
    return {
      status: damaged.length > 0 ? 1 : 0,
      json: { written: output, designs: count - damaged.length, damaged },
      words
    }
  } finally {
    await store.close()
  }
}

/** Takes the designs of a backup in. */
export async function restore(path: string, { data }: { data: string }): Promise<Outcome> {
  const size = statSync(path, { throwIfNoEntry: false })?.size
  if (size === undefined) throw new CannotDo(`${path}: there is no such file.`)
  if (size > BOUNDS.backup)
    throw new CannotDo(
      `${path}: it is longer than ${BOUNDS.backup.toLocaleString('en-GB')} bytes, which is more than is read.`
    )
  const [{ openStore }, { CannotTake }, backups] = await Promise.all([
    import('../server/store/open.ts'),
    import('../server/store/trouble.ts'),
    import('../server/store/backup.ts')
  ])
  await backups.judgeBackup(path).catch((error: unknown) => {
    throw error instanceof CannotTake ? new CannotDo(`${path}: ${error.message}`) : error
  })
  const store = await openStore(data).catch(inWords)
  try {
    const { came, already, beside } = await backups.restore(store, path)
    const words = [
      `${data}: ${sayCount(came.length)} taken in`,
      ...(already.length > 0 ? [`  here already as they were: ${already.join('; ')}`] : []),
      ...(beside.length > 0
        ? [`  changed here since, and so taken in beside what is here: ${beside.join('; ')}`]
        : [])
    ]
    return { status: 0, json: { came, already, beside }, words }
  } finally {
    await store.close()
  }
}

const sayCount = (count: number): string => (count === 1 ? '1 design' : `${count} designs`)

function inWords(error: unknown): never {
  const message = error instanceof Error ? error.message : String(error)
  throw new CannotDo(
    error instanceof Error && error.name === 'InUse'
      ? 'Patient Key is running on these designs. Use its shelf, or stop it first.'
      : message
  )
}

/** Writes a file whole, or leaves the one that is there as it is; it is read back before it takes its place. */
async function writeWhole(
  path: string,
  parts: AsyncIterable<string>,
  look: (file: string) => Promise<void>
): Promise<void> {
  const passing = `${path}.new`
  try {
    mkdirSync(dirname(path), { recursive: true })
    const file = openSync(passing, 'w', 0o600)
    try {
      let size = 0
      for await (const part of parts) {
        size += writeSync(file, part)
        if (size > BOUNDS.backup)
          throw new CannotDo(
            `${path}: it would be longer than ${BOUNDS.backup.toLocaleString('en-GB')} bytes, which is the most that can be restored. Nothing was written; back up fewer designs.`
          )
      }
      fsyncSync(file)
    } finally {
      closeSync(file)
    }
    await look(passing)
    renameSync(passing, path)
  } catch (error) {
    rmSync(passing, { force: true })
    if (error instanceof CannotDo) throw error
    throw new CannotDo(`${path}: it cannot be written${whyNot(error)}.`)
  }
}
