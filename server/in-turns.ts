import { setImmediate } from 'node:timers/promises'
import type { Paused } from '../core/design/paused.ts'

/** What long work comes to; whoever waits is served at each of its stops. */
export async function inTurns<T>(work: Paused<T>): Promise<T> {
  for (;;) {
    const { done, value } = work.next()
    if (done) return value
    await setImmediate()
  }
}
