/** Long work that stops at times, so that whoever has it done can let others have their turn. */
export type Paused<T> = Generator<undefined, T>

/** How many rows are looked through between two stops. */
export const STRETCH = 2000

/** The same without a stop. */
export function finish<T>(work: Paused<T>): T {
  for (;;) {
    const { done, value } = work.next()
    if (done) return value
  }
}
