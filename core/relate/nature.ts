import { columnsIn } from '../design/directory.ts'
import type { Action, ForeignKey, Nature, Table } from '../design/model.ts'
import { isIdentifying, isJunction } from './junction.ts'

/** What rows are to what they refer to, and what follows from that for the rule on delete. */

/** As it was said, or as the shape says: a row that goes by the key of another is a part of it. */
export const natureOf = (child: Table, foreignKey: ForeignKey): Nature =>
  foreignKey.childIs ?? (isIdentifying(child, foreignKey) && !isJunction(child) ? 'part' : 'listed')

/** A part goes with its whole; a thing by itself outlives what it is listed at, or holds it back where it needs it. */
export function ruleFor(nature: Nature, required: boolean): Action {
  if (nature === 'part') return 'CASCADE'
  return required ? 'RESTRICT' : 'SET NULL'
}

/**
 * What deleting a row of either side does to the pairs of a junction. They are facts about both, and go with either;
 * but where one side is a list that the other chooses from, what is listed is protected.
 */
export function pairRules(first: Table, second: Table): [Action, Action] {
  if (first.id === second.id) return ['CASCADE', 'CASCADE']
  const [one, other] = [listLike(first), listLike(second)]
  return [one > other ? 'RESTRICT' : 'CASCADE', other > one ? 'RESTRICT' : 'CASCADE']
}

/** How much a table is like a list to choose from: it needs no other, is told by a code or a name, and says little more. */
function listLike(table: Table): number {
  const key = columnsIn(table, table.primaryKey?.columns ?? [])
  const isNatural = key.length === 1 && key[0]?.default?.kind !== 'generated'
  const isNamed = table.uniques.some(({ columns }) => columns.length === 1)
  const isCalled = table.columns.some(({ type }) => type.kind === 'text' || type.kind === 'char')
  const signs: [boolean, number][] = [
    [table.foreignKeys.every((each) => each.table === table.id), 2],
    [isNatural || isNamed, 1],
    [isCalled && table.columns.length <= 3, 1]
  ]
  return signs.reduce((sum, [is, weight]) => sum + (is ? weight : 0), 0)
}
