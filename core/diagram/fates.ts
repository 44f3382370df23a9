import type { Fate, FateOf } from './compared.ts'

/** What became of something, as a sign before it. */
export const SIGNS: Record<Fate, string> = { added: '+', removed: '−', renamed: '»', changed: '~' }
/** And as a word. */
export const FATE_WORDS: Record<Fate, string> = {
  added: 'new',
  removed: 'removed',
  renamed: 'renamed',
  changed: 'changed'
}

/** What stands over a table: what became of it, and what it was called. */
export function tagOf({ fate, was }: FateOf): string {
  const word = `${SIGNS[fate]} ${FATE_WORDS[fate]}`
  return was === undefined ? word : `${SIGNS[fate]} was ${was}`
}
