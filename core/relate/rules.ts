import { columnOf, referencesTo, tableOf } from '../design/directory.ts'
import type { Action, Design, ForeignKey, ReferenceShape, Table, TableId } from '../design/model.ts'
import { isJunction, junctionSides } from './junction.ts'
import { natureOf, pairRules } from './nature.ts'

/** What is proposed for a reference, and why, as a sentence goes on from “since”. */
export interface ProposedRule {
  onDelete: Action
  onUpdate: Action
  why: string
}

/**
 * What should happen to rows that refer, by what their tables are: a pair goes with either of its sides, a part with its
 * whole; what is listed is protected; a reference that may be empty is emptied. The design's own policy goes before.
 */
export function proposeRule(design: Design, child: Table, key: ForeignKey): ProposedRule {
  const shape = shapeOf(design, child, key)
  const said = usualAction(design, key.table, shape, isRequired(child, key))
  return said ? { onUpdate: 'CASCADE', ...said } : byShape(design, child, key, shape)
}

const isRequired = (child: Table, { pairs }: ForeignKey): boolean =>
  pairs.every(({ column }) => columnOf(child, column)?.required)

/** What a reference is, by its tables. */
export function shapeOf(design: Design, child: Table, key: ForeignKey): ReferenceShape {
  const parent = tableOf(design, key.table)
  if (isJunction(child)) return ruleOfPair(design, child, key) === 'RESTRICT' ? 'list' : 'pair'
  if (parent && isLookup(design, parent)) return 'list'
  if (natureOf(child, key) === 'part') return 'part'
  return isRequired(child, key) ? 'needed' : 'optional'
}

/** What the design's policy says of deletes of a table, or of a shape; nothing where that cannot be. */
export function usualAction(
  { usual }: Pick<Design, 'usual'>,
  parent: TableId,
  shape: ReferenceShape,
  required: boolean
): { onDelete: Action; why: string } | undefined {
  const ofTable = usual?.tables[parent]
  const action = ofTable ?? usual?.shapes[shape]
  if (!action || (action === 'SET NULL' && required)) return undefined
  return {
    onDelete: action,
    why: ofTable ? 'the design says so of this table' : `the design says so of ${SHAPE_WORDS[shape]}`
  }
}

export const SHAPE_WORDS: Record<ReferenceShape, string> = {
  pair: 'a side of a pair',
  part: 'a part and its whole',
  list: 'what is chosen from a list',
  optional: 'what a row may be without',
  needed: 'what a row needs'
}

/** What is proposed for a shape where the design has no policy. */
export const SHAPE_ACTIONS: Record<ReferenceShape, Action> = {
  pair: 'CASCADE',
  part: 'CASCADE',
  list: 'RESTRICT',
  optional: 'SET NULL',
  needed: 'RESTRICT'
}

function byShape(design: Design, child: Table, key: ForeignKey, shape: ReferenceShape): ProposedRule {
  const parent = tableOf(design, key.table)?.name
  const list = isJunction(child) ? 'is a list to choose from' : 'is a list that others lean on'
  const why: Record<ReferenceShape, string> = {
    pair: 'a pair goes with either of its sides',
    part: `it is a part of its ${parent ?? 'whole'}`,
    list: `${parent ?? 'it'} ${list}`,
    optional: 'it may be without',
    needed: `it cannot be without its ${parent ?? 'other'}, and has a key of its own`
  }
  return { onDelete: SHAPE_ACTIONS[shape], onUpdate: 'CASCADE', why: why[shape] }
}

/** What goes with a side of a pair, by what the other side is. */
function ruleOfPair(design: Design, child: Table, key: ForeignKey): Action {
  const other = junctionSides(child).find(({ id }) => id !== key.id)
  const [own, its] = [tableOf(design, key.table), other && tableOf(design, other.table)]
  return own && its ? pairRules(own, its)[0] : 'CASCADE'
}

/** A table that only others refer to, by a key that somebody gave: a list of reasons, of species. */
function isLookup(design: Design, table: Table): boolean {
  const isCounted = table.columns.some((column) => column.default?.kind === 'generated')
  return table.foreignKeys.length === 0 && !isCounted && referencesTo(design, table.id).length > 0
}

/** Whether a reference does what is proposed for it; refusing is refusing, at whichever moment. */
export function isAsProposed({ onDelete }: ForeignKey, proposed: ProposedRule): boolean {
  const one = (action: Action): Action => (action === 'NO ACTION' ? 'RESTRICT' : action)
  return one(onDelete) === one(proposed.onDelete)
}
