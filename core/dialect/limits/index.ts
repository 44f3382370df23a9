import { changedComputed } from './changed-computed.ts'
import { computedPlaces } from './computed-places.ts'
import type { Limit } from './limit.ts'
import { misfits } from './misfits.ts'
import { referenceTypes } from './reference-types.ts'

/** The limits that every engine is asked for; what it says of them is a fact of its dialect. */
export const LIMITS: readonly Limit[] = [referenceTypes, changedComputed, computedPlaces, misfits]
