import { STRETCH, type Paused } from './paused.ts'

/** A list in order, sorted with stops: stretches of it, and then two of them put together at a time. */
export function* sorted<T>(list: readonly T[], compare: (one: T, other: T) => number): Paused<T[]> {
  let runs: T[][] = []
  for (let at = 0; at < list.length; at += STRETCH) {
    if (at > 0) yield
    runs.push(list.slice(at, at + STRETCH).sort(compare))
  }
  while (runs.length > 1) {
    const longer: T[][] = []
    for (let at = 0; at < runs.length; at += 2)
      longer.push(yield* merged(runs[at] ?? [], runs[at + 1] ?? [], compare))
    runs = longer
  }
  return runs[0] ?? []
}

/** Two lists in order as one; of two that are alike the one of the first comes first. */
function* merged<T>(
  one: readonly T[],
  other: readonly T[],
  compare: (one: T, other: T) => number
): Paused<T[]> {
  const both: T[] = []
  let [left, right] = [0, 0]
  while (left < one.length || right < other.length) {
    const isLeft =
      right >= other.length || (left < one.length && compare(one[left] as T, other[right] as T) <= 0)
    both.push((isLeft ? one[left++] : other[right++]) as T)
    if (both.length % STRETCH === 0) yield
  }
  return both
}
