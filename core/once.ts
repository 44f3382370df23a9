/**
 * A function whose result is worked out once for each value that it is asked about, and forgotten with
 * it. The values must never change.
 */
export function once<K extends object, V>(work: (value: K) => V): (value: K) => V {
  const known = new WeakMap<K, { result: V }>()
  return (value) => {
    const found = known.get(value)
    if (found) return found.result
    const result = work(value)
    known.set(value, { result })
    return result
  }
}
