/** Long work that stops at times, so that whoever has it done can let others have their turn. */
export type Paused<T> = Generator<undefined, T>

/** How many rows, tables, or characters of a text are looked through between two stops. */
export const STRETCH = 2000
export const TABLES = 50
export const CHARACTERS = 1 << 18

/** The same without a stop. */
export function finish<T>(work: Paused<T>): T {
  for (;;) {
    const { done, value } = work.next()
    if (done) return value
  }
}

/** What each of a list comes to, in order, with a stop after so many. */
export function* eachInTurn<T, R>(list: readonly T[], of: (each: T, at: number) => R): Paused<R[]> {
  const results: R[] = []
  for (const [at, each] of list.entries()) {
    if (at > 0 && at % TABLES === 0) yield
    results.push(of(each, at))
  }
  return results
}
