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

/** How many are sorted in one go. */
const RUN = 2000

/**
 * A list in order, sorted in slices: runs that are short, and then two of them put together at a time. Nothing where it
 * is no longer wanted.
 */
export async function sortInSlices<T>(
  list: readonly T[],
  compare: (one: T, other: T) => number,
  goOn: () => Promise<boolean>
): Promise<T[] | undefined> {
  let runs: T[][] = []
  for (let at = 0; at < list.length; at += RUN) {
    runs.push(list.slice(at, at + RUN).sort(compare))
    if (!(await goOn())) return undefined
  }
  while (runs.length > 1) {
    const longer: T[][] = []
    for (let at = 0; at < runs.length; at += 2) {
      const merged = await merge(runs[at] ?? [], runs[at + 1] ?? [], compare, goOn)
      if (!merged) return undefined
      longer.push(merged)
    }
    runs = longer
  }
  return runs[0] ?? []
}

async function merge<T>(
  one: readonly T[],
  other: readonly T[],
  compare: (one: T, other: T) => number,
  goOn: () => Promise<boolean>
): Promise<T[] | undefined> {
  const merged: T[] = []
  let [left, right] = [0, 0]
  while (left < one.length || right < other.length) {
    const isLeft =
      right >= other.length || (left < one.length && compare(one[left] as T, other[right] as T) <= 0)
    merged.push((isLeft ? one[left++] : other[right++]) as T)
    if (merged.length % RUN === 0 && !(await goOn())) return undefined
  }
  return merged
}
