import type { Design } from '../design/model.ts'
import { apart } from './apart.ts'
import type { ChangeOfMind, ChangeOffer, ChangePlace } from './change.ts'
import { factsApart } from './facts.ts'
import { fromJunction } from './from-junction.ts'
import { howMany } from './how-many.ts'
import { identifying } from './identifying.ts'
import { anotherKey } from './keys.ts'
import { lists } from './lists.ts'
import { merge } from './merge.ts'
import { moveColumns } from './move-columns.ts'
import { oneTable } from './one-table.ts'
import { retarget } from './retarget.ts'
import { splitOff } from './split-off.ts'
import { superfluous } from './superfluous.ts'
import { manyToMany } from './to-junction.ts'

/** Every change of mind, in the order in which they are offered. */
export const CHANGES: readonly ChangeOfMind[] = [
  manyToMany,
  fromJunction,
  howMany,
  identifying,
  retarget,
  moveColumns,
  splitOff,
  factsApart,
  lists,
  merge,
  anotherKey,
  oneTable,
  apart,
  superfluous
]

/** The changes of mind that fit a table, or one of its relationships. */
export const offersFor = (design: Design, place: ChangePlace): ChangeOffer[] =>
  CHANGES.flatMap((change) => change(design, place))
