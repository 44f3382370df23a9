import type { NotWhole } from './backup.ts'
import { readDesignText } from './unfold.ts'
import { openToRead } from './open.ts'
import { some } from './some.ts'
import { CannotTake, Damaged } from './trouble.ts'
import { writeAsLines, writeFrom, type Whole, type Written } from './writing.ts'

/** What a process of its own is asked for. */
export type ToHelper =
  /** To write what there is in a folder with designs. */
  | { kind: 'write'; folder: string; written: Written; to: string }
  /** To write what a file from outside holds as a backup, line by line. */
  | { kind: 'lines'; what: Whole; from: string; to: string }
  /** Some of the changes between two states, each a text of JSON. */
  | { kind: 'some'; from: string; to: string; only: readonly string[] }

/**
 * `notWhole`: the designs of which not all was written; `design`: the state, as a text of JSON. Both are nothing where
 * there was not what was asked for.
 */
export type FromHelper =
  | { kind: 'done'; notWhole?: NotWhole[] | undefined; design?: string | undefined }
  /** What is damaged, or cannot be taken, in words; or what nobody foresaw. */
  | { kind: 'damaged' | 'refused' | 'broken'; message: string }

async function work(task: ToHelper): Promise<FromHelper> {
  if (task.kind === 'lines') {
    await writeAsLines(task.what, task.from, task.to)
    return { kind: 'done' }
  }
  if (task.kind === 'some') {
    const design = some(readDesignText(task.from), readDesignText(task.to), task.only)
    return { kind: 'done', design: design && JSON.stringify(design) }
  }
  const store = await openToRead(task.folder)
  const notWhole = await writeFrom(store, task.written, task.to)
  await store.close()
  return { kind: 'done', notWhole }
}

function trouble(error: unknown): FromHelper {
  const message = error instanceof Error ? error.message : String(error)
  if (error instanceof CannotTake) return { kind: 'refused', message }
  return { kind: error instanceof Damaged ? 'damaged' : 'broken', message }
}

process.once('message', (task: ToHelper) => {
  void work(task)
    .catch(trouble)
    .then((answer) => process.send?.(answer, undefined, undefined, () => process.exit()))
})
// Without the server there is nobody left to work for.
process.on('disconnect', () => process.exit())
