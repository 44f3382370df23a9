/** Numbers that look like chance, and are the same again from the same seed. */
export interface Random {
  /** From 0 up to but not including 1. */
  next(): number
  /** A whole number from 0 up to but not including the one given. */
  below(most: number): number
  /** True so many times in a hundred. */
  chance(percent: number): boolean
  pick<T>(list: readonly T[]): T
}

/** A generator of 32 bits of state (Tommy Ettinger's mulberry32, which is in the public domain). */
export function randomFrom(seed: number): Random {
  let state = seed >>> 0
  const next = (): number => {
    state = (state + 0x6d2b79f5) >>> 0
    let mixed = Math.imul(state ^ (state >>> 15), state | 1)
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61)
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32
  }
  const below = (most: number): number => Math.floor(next() * most)
  return {
    next,
    below,
    chance: (percent) => next() * 100 < percent,
    pick: (list) => list[below(list.length)] as never
  }
}
