import { boundedInKey } from './bounded-in-key.ts'
import { changedComputed } from './changed-computed.ts'
import { computedPlaces } from './computed-places.ts'
import type { Limit } from './limit.ts'
import { longKey } from './long-key.ts'
import { lost } from './lost.ts'
import { misfits } from './misfits.ts'
import { referenceTypes } from './reference-types.ts'

/** The limits that every engine is asked for; what it says of them is a fact of its dialect. */
export const LIMITS: readonly Limit[] = [
  longKey,
  boundedInKey,
  referenceTypes,
  changedComputed,
  computedPlaces,
  misfits,
  lost
]
