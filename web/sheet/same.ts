/** The list as it was before where each of its elements is the same: what is drawn from it need not be drawn anew. */
export function sameList<T>(before: readonly T[] | undefined, now: readonly T[], same: (one: T, other: T) => boolean): readonly T[] {
  return before?.length === now.length && before.every((each, at) => same(each, now[at] as T)) ? before : now
}

/** Lists by their keys, each as it was before where it is the same. */
export function sameLists<T>(before: ReadonlyMap<string, readonly T[]> | undefined, now: ReadonlyMap<string, readonly T[]>, same: (one: T, other: T) => boolean): ReadonlyMap<string, readonly T[]> {
  return new Map([...now].map(([key, list]) => [key, sameList(before?.get(key), list, same)]))
}
