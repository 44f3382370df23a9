import { boundedInKey } from './bounded-in-key.ts'
import { changedComputed } from './changed-computed.ts'
import { computedPlaces } from './computed-places.ts'
import { inexact } from './inexact.ts'
import { letters } from './letters.ts'
import type { Limit } from './limit.ts'
import { indexTwice } from './index-twice.ts'
import { largeInKey } from './large-in-key.ts'
import { longKey } from './long-key.ts'
import { longListValue } from './long-list-value.ts'
import { lost } from './lost.ts'
import { manyColumns } from './many-columns.ts'
import { misfits } from './misfits.ts'
import { referenceTwice } from './reference-twice.ts'
import { referenceTypes } from './reference-types.ts'
import { tooOld } from './too-old.ts'
import { unkept } from './unkept.ts'
import { unsaid } from './unsaid.ts'

/** The limits that every engine is asked for; what it says of them is a fact of its dialect. */
export const LIMITS: readonly Limit[] = [
  longKey,
  longListValue,
  inexact,
  letters,
  largeInKey,
  indexTwice,
  manyColumns,
  boundedInKey,
  referenceTypes,
  referenceTwice,
  changedComputed,
  computedPlaces,
  misfits,
  tooOld,
  unsaid,
  unkept,
  lost
]
