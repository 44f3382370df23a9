/**
 * How much is done to a value, counted and not timed: every property that is read of it or of anything in
 * it. The same on every machine, however busy it is.
 */
export function counted<T extends object>(value: T): { value: T; reads(): number } {
  let reads = 0
  const known = new WeakMap<object, object>()
  const wrap = (target: object): object => {
    const before = known.get(target)
    if (before) return before
    const proxy: object = new Proxy(target, {
      get: (of, key) => {
        reads++
        const found: unknown = Reflect.get(of, key)
        return typeof found === 'object' && found !== null ? wrap(found) : found
      }
    })
    known.set(target, proxy)
    return proxy
  }
  return { value: wrap(value) as T, reads: () => reads }
}
