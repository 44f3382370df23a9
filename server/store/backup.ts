import { createHash } from 'node:crypto'
import { setImmediate } from 'node:timers/promises'
import { BOUNDS } from '../../core/bounds.ts'
import {
  BackupReading,
  formOfBackup,
  readFirstBackup,
  writeBackup,
  type BackedUp
} from '../../core/design/backup.ts'
import { orderedInTurns, type DesignFile } from '../../core/design/file.ts'
import { decodeText } from '../../core/design/json.ts'
import type { Design, Version } from '../../core/design/model.ts'
import { piecesOf as piecesOfDesign } from '../../core/design/text-of.ts'
import { inTurns } from '../in-turns.ts'
import { bytesOf, linesOf, NoLines } from './lines.ts'
import type { Store } from './store.ts'
import { CannotTake } from './trouble.ts'
import type { NotWhole } from './tasks.ts'

/** What of a backup is there already, what came, and what came beside a design that had its id. */
export interface Restored {
  came: string[]
  already: string[]
  beside: string[]
}

/** So many designs are taken in at once, while they have so many tables with their versions at the most. */
const TOGETHER = 24
const HEAVY = 2000
const weightOf = (files: readonly DesignFile[]): number =>
  files.reduce((sum, { design, versions }) => sum + design.tables.length * (versions.length + 1), 0)

/**
 * Everything that a store holds, as the text of one file, line by line: of a design no more is in memory than a version
 * and the one before. Of what is damaged it has what is sound, under a name that says so; `notWhole` is told.
 */
export function backupOf(
  store: Store,
  notWhole: (design: NotWhole) => void = () => undefined
): AsyncGenerator<string> {
  async function* designs(): AsyncGenerator<BackedUp> {
    for (const { id, name, damage } of await store.list()) {
      const why = damage ?? (await flawOf(store, id))
      if (why === undefined) {
        const draft = await store.draft(id)
        if (draft) yield { design: draft.design, versions: store.versionsOf(id) }
        continue
      }
      const sound = await soundCopy(store, id)
      notWhole({ name, why, soundPart: sound !== undefined })
      if (sound) yield sound
    }
  }
  return writeBackup(designs(), new Date().toISOString())
}

/** Why a design or one of its versions cannot be read; nothing where all of it can. */
async function flawOf(store: Store, id: string): Promise<string | undefined> {
  try {
    await store.draft(id)
    for await (const _ of store.versionsOf(id)) await setImmediate()
    return undefined
  } catch (error) {
    return error instanceof Error ? error.message : String(error)
  }
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
 * Takes the designs of a backup in, all of which has been judged ({@link judgeBackup}). One that is here as it was is
 * left alone; one that has changed since comes in beside it.
 * @throws CannotTake
 */
export async function restore(store: Store, path: string): Promise<Restored> {
  const restored: Restored = { came: [], already: [], beside: [] }
  if (isOfFirstForm(path)) {
    const { savedAt, files } = firstAt(path)
    for (const file of files) await take(store, file, savedAt, restored)
    return restored
  }
  let savedAt = ''
  let open: { design: Design; versions: Version[] } | undefined
  // Several go to disk with one sync; how many are in memory at once is bounded by their size.
  let together: DesignFile[] = []
  const takeAll = async (): Promise<void> => {
    await Promise.all(together.map((file) => take(store, file, savedAt, restored)))
    together = []
  }
  for await (const piece of piecesOf(path)) {
    if (piece.kind === 'begin') savedAt = piece.savedAt
    if (piece.kind === 'design') open = { design: piece.design, versions: [] }
    if (piece.kind === 'version') open?.versions.push(piece.version)
    if (piece.kind === 'whole' && open) {
      together.push(open)
      if (together.length >= TOGETHER || weightOf(together) > HEAVY) await takeAll()
    }
    await setImmediate()
  }
  await takeAll()
  return restored
}

/** Reads a backup to its end, and takes nothing of it. @throws CannotTake where it is not whole and sound */
export async function judgeBackup(path: string): Promise<void> {
  if (isOfFirstForm(path)) firstAt(path)
  else for await (const _ of piecesOf(path)) await setImmediate()
}

/** Whether a backup is one value of JSON, as the first ones were, which is read in one stretch. */
export const isOfFirstForm = (path: string): boolean =>
  formOfBackup(bytesOf(path, 4096).toString('utf8')) === 'first'

/** The first design of a backup, with its versions. @throws CannotTake */
export async function firstDesignOf(path: string): Promise<DesignFile> {
  let open: { design: Design; versions: Version[] } | undefined
  for await (const piece of piecesOf(path)) {
    if (piece.kind === 'design') open = { design: piece.design, versions: [] }
    if (piece.kind === 'version') open?.versions.push(piece.version)
    if (piece.kind === 'whole' && open) return open
  }
  throw new CannotTake('This backup has no design in it.')
}

async function* piecesOf(path: string) {
  const reading = new BackupReading()
  try {
    for await (const line of linesOf(path)) {
      const piece = await inTurns(reading.line(line))
      if (!piece.ok) throw new CannotTake(piece.message)
      yield piece.value
    }
  } catch (error) {
    throw error instanceof NoLines ? new CannotTake(`This is not a whole backup: ${error.message}.`) : error
  }
  const flaw = reading.flawAtEnd()
  if (flaw !== undefined) throw new CannotTake(flaw)
}

/** Reads a backup of the first form whole. @throws CannotTake */
export function firstAt(path: string): { savedAt: string; files: DesignFile[] } {
  const text = decodeText(bytesOf(path, BOUNDS.firstBackup + 1))
  const read = text.ok ? readFirstBackup(text.value) : text
  if (!read.ok) throw new CannotTake(read.message)
  return read.value
}

async function take(store: Store, file: DesignFile, savedAt: string, restored: Restored): Promise<void> {
  const { name, id } = file.design
  const here = await sumHere(store, id)
  if (here === undefined) {
    await store.create({ file })
    restored.came.push(name)
  } else if (here === (await sumOf(file))) restored.already.push(name)
  else {
    const design = { ...file.design, name: `${name.slice(0, 90).trim()}, as of ${savedAt.slice(0, 10)}` }
    await store.create({ file: { ...file, design } })
    restored.beside.push(design.name)
  }
}

/** A checksum of a design with its versions as it is here; nothing where it is not, another where it is damaged. */
async function sumHere(store: Store, id: string): Promise<string | undefined> {
  if (!(await store.has(id))) return undefined
  try {
    const draft = await store.draft(id)
    return draft && (await sumOf({ design: draft.design, versions: store.versionsOf(id) }))
  } catch {
    return 'damaged'
  }
}

async function sumOf({ design, versions }: BackedUp): Promise<string> {
  const sum = createHash('sha256')
  const add = async (about: object, state: Design): Promise<void> => {
    sum.update(JSON.stringify(about))
    for (const piece of piecesOfDesign(await inTurns(orderedInTurns(state)))) {
      sum.update(piece)
      await setImmediate()
    }
  }
  await add({}, design)
  for await (const { design: state, ...about } of versions) await add(about, state)
  return sum.digest('hex')
}
