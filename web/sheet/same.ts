/**
 * The list as it was before where each of its elements is the same: what is drawn from it need not be
 * drawn anew.
 */
export function sameList<T>(
  before: readonly T[] | undefined,
  now: readonly T[],
  same: (one: T, other: T) => boolean
): readonly T[] {
  return before?.length === now.length && before.every((each, at) => same(each, now[at] as T)) ? before : now
}

/** Lists by their keys, each as it was before where it is the same; all of them where all are. */
export function sameLists<T>(
  before: ReadonlyMap<string, readonly T[]> | undefined,
  now: ReadonlyMap<string, readonly T[]>,
  same: (one: T, other: T) => boolean
): ReadonlyMap<string, readonly T[]> {
  const lists = new Map([...now].map(([key, list]) => [key, sameList(before?.get(key), list, same)]))
  return before?.size === lists.size && [...lists].every(([key, list]) => before.get(key) === list)
    ? before
    : lists
}
