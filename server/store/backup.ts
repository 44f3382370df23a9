import { writeBackup } from '../../core/design/backup.ts'
import { writeDesignFile, type DesignFile } from '../../core/design/file.ts'
import type { Store } from './store.ts'

/** What of a backup is there already, what came, and what came beside a design that had its id. */
export interface Restored {
  came: string[]
  already: string[]
  beside: string[]
}

/**
 * Something of a store that could not be backed up as it is: what, why, and whether what of it is sound
 * was.
 */
export interface NotWhole {
  name: string
  why: string
  soundPart: boolean
}

/**
 * Everything that a store holds, as the text of one file, part by part. Of what is damaged it has what is
 * sound, under a name that says so; `notWhole` is told.
 */
export function backupOf(
  store: Store,
  notWhole: (design: NotWhole) => void = () => undefined
): AsyncGenerator<string> {
  async function* files(): AsyncGenerator<DesignFile> {
    for (const { id, name, damage } of await store.list()) {
      const whole =
        damage === undefined
          ? await store.file(id).catch((error: unknown) => error as Error)
          : new Error(damage)
      if (whole && !(whole instanceof Error)) yield whole
      if (!(whole instanceof Error)) continue
      const sound = await soundCopy(store, id)
      notWhole({ name, why: whole.message, soundPart: sound !== undefined })
      if (sound) yield sound
    }
  }
  return writeBackup(files(), new Date().toISOString())
}

/**
 * What is sound of a damaged design as a design of its own; nothing where nothing is, or there is no such
 * design.
 */
export async function soundCopy(store: Store, id: string): Promise<DesignFile | undefined> {
  const file = await store.soundFile(id)
  return (
    file && {
      ...file,
      design: { ...file.design, name: `${file.design.name.slice(0, 100).trim()}, what was sound` }
    }
  )
}

/**
 * Takes the designs of a backup in. One that is here as it was is left alone; one that has changed since
 * comes in beside it.
 */
export async function restore(
  store: Store,
  files: readonly DesignFile[],
  savedAt: string
): Promise<Restored> {
  const restored: Restored = { came: [], already: [], beside: [] }
  for (const file of files) {
    const here = await store.file(file.design.id).catch(() => undefined)
    const { name } = file.design
    if (!here) {
      await store.create({ file })
      restored.came.push(name)
    } else if (writeDesignFile(here.design, here.versions) === writeDesignFile(file.design, file.versions))
      restored.already.push(name)
    else {
      const design = { ...file.design, name: `${name.slice(0, 90).trim()}, as of ${savedAt.slice(0, 10)}` }
      await store.create({ file: { ...file, design } })
      restored.beside.push(design.name)
    }
  }
  return restored
}
