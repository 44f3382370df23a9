import { openToRead } from './open.ts'
import { Damaged } from './trouble.ts'
import { writeFrom, type Written } from './writing.ts'

/** What is to be written of the designs in a folder, and where to. */
export interface ToWriter {
  folder: string
  written: Written
  to: string
}
/** `message`: what is damaged, in words, or what nobody foresaw. */
export type FromWriter =
  | { kind: 'done'; isThere: boolean }
  | { kind: 'damaged'; message: string }
  | { kind: 'broken'; message: string }

async function write({ folder, written, to }: ToWriter): Promise<FromWriter> {
  try {
    const store = await openToRead(folder)
    const isThere = await writeFrom(store, written, to)
    await store.close()
    return { kind: 'done', isThere }
  } catch (error) {
    const message = error instanceof Error ? error.message : String(error)
    return { kind: error instanceof Damaged ? 'damaged' : 'broken', message }
  }
}

process.once('message', (task: ToWriter) => {
  void write(task).then((answer) => process.send?.(answer, undefined, undefined, () => process.exit()))
})
// Without the server there is nobody left to write for.
process.on('disconnect', () => process.exit())
