import fc from 'fast-check'
import { beforeEach } from 'vitest'
import { times } from './times.ts'

/**
 * Random tests draw from a seed of their own, so that a test that fails fails again, and has a change to
 * thank for it. A soak (`npm run soak`) draws from a new one each time, and longer; what it finds is mended.
 */
beforeEach(({ task }) => {
  if (times(1) > 1) return
  fc.configureGlobal({ seed: seedOf(task.suite ? `${task.suite.name} ${task.name}` : task.name) })
})

/** A number of 31 bits that stands for a text (FNV-1a). */
function seedOf(text: string): number {
  let seed = 2166136261
  for (const char of text) seed = Math.imul(seed ^ (char.codePointAt(0) ?? 0), 16777619) >>> 0
  return seed >>> 1
}
