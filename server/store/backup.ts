import { writeBackup } from '../../core/design/backup.ts'
import { writeDesignFile, type DesignFile } from '../../core/design/file.ts'
import type { Store, Summary } from './store.ts'

/** What of a backup is there already, what came, and what came beside a design that had its id. */
export interface Restored { came: string[]; already: string[]; beside: string[] }

/** Everything that a store holds, as the text of one file, part by part. What is damaged is left out: `left` is told of it. */
export function backupOf(store: Store, left: (design: Summary) => void = () => undefined): AsyncGenerator<string> {
  async function* files(): AsyncGenerator<DesignFile> {
    for (const summary of await store.list()) {
      const file = summary.damage === undefined ? await store.file(summary.id).catch(() => undefined) : undefined
      if (file) yield file
      else left(summary)
    }
  }
  return writeBackup(files(), new Date().toISOString())
}

/** Takes the designs of a backup in. One that is here as it was is left alone; one that has changed since comes in beside it. */
export async function restore(store: Store, files: readonly DesignFile[], savedAt: string): Promise<Restored> {
  const restored: Restored = { came: [], already: [], beside: [] }
  for (const file of files) {
    const here = await store.file(file.design.id).catch(() => undefined)
    const { name } = file.design
    if (!here) {
      await store.create({ file })
      restored.came.push(name)
    } else if (writeDesignFile(here.design, here.versions) === writeDesignFile(file.design, file.versions)) restored.already.push(name)
    else {
      const design = { ...file.design, name: `${name.slice(0, 90).trim()}, as of ${savedAt.slice(0, 10)}` }
      await store.create({ file: { ...file, design } })
      restored.beside.push(design.name)
    }
  }
  return restored
}
