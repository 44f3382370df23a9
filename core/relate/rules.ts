import { columnOf, referencesTo, tableOf } from '../design/directory.ts'
import type { Action, Design, ForeignKey, Table } from '../design/model.ts'
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
 * whole; what is listed is protected; a reference that may be empty is emptied.
 */
export function proposeRule(design: Design, child: Table, key: ForeignKey): ProposedRule {
  const parent = tableOf(design, key.table)
  const isRequired = key.pairs.every(({ column }) => columnOf(child, column)?.required)
  const onUpdate: Action = 'CASCADE'
  if (isJunction(child)) {
    const onDelete = ruleOfPair(design, child, key)
    const isHeld = onDelete === 'RESTRICT'
    const why = isHeld
      ? `${parent?.name ?? 'it'} is a list to choose from`
      : 'a pair goes with either of its sides'
    return { onDelete, onUpdate, why }
  }
  if (parent && isLookup(design, parent))
    return { onDelete: 'RESTRICT', onUpdate, why: `${parent.name} is a list that others lean on` }
  if (natureOf(child, key) === 'part')
    return { onDelete: 'CASCADE', onUpdate, why: `it is a part of its ${parent?.name ?? 'whole'}` }
  if (!isRequired) return { onDelete: 'SET NULL', onUpdate, why: 'it may be without' }
  return {
    onDelete: 'RESTRICT',
    onUpdate,
    why: `it is nothing without its ${parent?.name ?? 'other'}, and stands by itself`
  }
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
