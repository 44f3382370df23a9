import type { Paused } from '../../core/design/paused.ts'

/** How long a slice of work may take, so that the page goes on (milliseconds). */
const SLICE = 12

/** Lets the page go on from time to time; says whether the work is still wanted. */
export function slicer(isWanted: () => boolean): () => Promise<boolean> {
  let until = performance.now() + SLICE
  return async () => {
    if (performance.now() < until) return true
    await new Promise((resolve) => setTimeout(resolve))
    until = performance.now() + SLICE
    return isWanted()
  }
}

/** Anything but undefined, which stands for work that is no longer wanted. */
type Result = NonNullable<unknown> | null

/** What long work comes to, done in slices; nothing where it is no longer wanted. */
export async function inSlices<T extends Result>(
  work: Paused<T>,
  goOn: () => Promise<boolean>
): Promise<T | undefined> {
  for (;;) {
    const { done, value } = work.next()
    if (done) return value
    if (!(await goOn())) return undefined
  }
}

/** Gives what work comes to: at once where it takes no more than a slice, else when it is done, if still wanted. */
export function soon<T extends Result>(
  work: Paused<T>,
  isWanted: () => boolean,
  give: (result: T) => void
): void {
  const until = performance.now() + SLICE
  do {
    const { done, value } = work.next()
    if (done) return give(value)
  } while (performance.now() < until)
  const later = async (): Promise<void> => {
    if (!isWanted()) return
    const result = await inSlices(work, slicer(isWanted))
    if (result !== undefined && isWanted()) give(result)
  }
  setTimeout(() => void later())
}
