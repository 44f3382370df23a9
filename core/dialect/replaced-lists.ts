import { same } from './course.ts'
import { sort, type MigrationInput } from './migration.ts'
import type { InPlace } from './survival.ts'

/**
 * The lists of values that another takes the place of, by their ids: one that loses a value or is ordered anew, or
 * gets a value that is used in the same step.
 */
export function replacedLists(input: MigrationInput, inPlace: Pick<InPlace, 'addsToList'>): Set<string> {
  const { from, to, flow, restore } = input
  const touched = new Set([...flow.adds, ...flow.fills, ...restore].map(({ table }) => table))
  const isTouched = (list: string): boolean =>
    to.tables.some(({ id, columns }) => touched.has(id) && columns.some(({ type }) => type.list === list))
  const changed = sort(from.enums, to.enums).kept.filter((pair) => !same(pair.from.values, pair.to.values))
  const replaced = changed.filter(
    (pair) => isTouched(pair.to.id) || !inPlace.addsToList(pair.from.values, pair.to.values, input)
  )
  return new Set(replaced.map((pair) => pair.to.id))
}
