import { fold } from '../design/directory.ts'
import type { Table, Verbs } from '../design/model.ts'
import { wordsOf } from '../naming/names.ts'

/** Words that say how something is referred to, not as what. */
const ENDS = new Set(['id', 'code', 'no', 'nr', 'number', 'key', 'uuid', 'ref'])
/** Words behind which what is referred to would come: `given_by`, `moved_to`. */
const TOWARDS = new Set(['by', 'to', 'from', 'at', 'in', 'on', 'for', 'of', 'with', 'after', 'before'])

/**
 * What a column's name says of what it refers to, beside what that is: `other_species_code` is the other species,
 * `mentor` of a member a mentor. Nothing where it says no more than the table and its key do.
 * @param referred the name of the column that it refers to
 */
export function roleIn(column: string, parent: Pick<Table, 'name'>, referred: string): string | undefined {
  const known = new Set([parent.name, referred].flatMap(wordsOf).map(fold))
  const words = wordsOf(column)
    .map(fold)
    .filter((word) => !known.has(word))
  const role = words.filter((word, at) => at < words.length - 1 || !ENDS.has(word)).join(' ')
  return role === '' ? undefined : role
}

/** How a relationship reads in which what is referred to is something to what refers: `mentor`, `given by`. */
export function roleVerbs(role: string): Verbs {
  const isTowards = TOWARDS.has(role.split(' ').at(-1) ?? '')
  const verbs = isTowards
    ? { child: `is ${role}`, parent: 'has' }
    : { child: `has as ${role}`, parent: `is ${role} of` }
  return { child: within(verbs.child), parent: within(verbs.parent) }
}

/** As much of it as may be said of a relationship, without half a character at its end. */
const within = (words: string): string =>
  words
    .slice(0, 60)
    .replace(/[\uD800-\uDBFF]$/, '')
    .trim()
