import { readDesignText } from './unfold.ts'
import { openToRead } from './open.ts'
import { some } from './some.ts'
import { CannotTake, Damaged } from './trouble.ts'
import { writeAsLines, writeFrom } from './writing.ts'
import type { FromHelper, ToHelper } from './tasks.ts'

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
