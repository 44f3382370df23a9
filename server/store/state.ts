import { sizeInTurns } from '../../core/design/size.ts'
import { inTurns } from '../in-turns.ts'
import { nextMark } from './marks.ts'
import type { OperationRow } from './models.ts'
import type { Head, Kept } from './records.ts'
import { Damaged } from './trouble.ts'
import { readOperation, unfold, type Draft, type Logged, type Unfolded } from './unfold.ts'

/** How many tables of designs are kept at hand, and for how many a design counts at least. */
const AT_HAND = 20_000
const LEAST = 50
/** The last operations are kept at hand: so many, and so many characters of them. */
const RECENT = { operations: 100, length: 4_000_000 }

/** A design in memory: as it stands, with the last operations that led there. */
export interface Open {
  draft: Draft
  head: Head
  recent: Recent[]
}
/** `length`: of the operation as text. */
type Recent = Logged & { length: number }
/** How a design stands; or what is wrong with it. */
export type State = { ok: true; open: Open } | Extract<Unfolded, { ok: false }>

/** How a design stands by all that is kept of it. */
export async function stateOf(kept: Kept): Promise<State> {
  const unfolded = await inTurns(unfold(kept))
  if (!unfolded.ok) return unfolded
  await inTurns(sizeInTurns(unfolded.draft.design))
  const recent = unfolded.log.map((logged) => ({
    ...logged,
    length: JSON.stringify(logged.operation).length
  }))
  return { ok: true, open: { draft: unfolded.draft, head: kept.head, recent: lastOf(recent) } }
}

/** @throws Damaged */
export function openOf(state: State): Open {
  if (state.ok) return state.open
  throw new Damaged(`This design is damaged, and stays as it is. ${state.message}`)
}

/** The designs to let go of, of those in memory from the one used longest ago to the one used last, which stays. */
export function tooMany(states: ReadonlyMap<string, State>): string[] {
  let weight = [...states.values()].reduce((sum, each) => sum + weightOf(each), 0)
  const gone: string[] = []
  for (const [id, state] of [...states].slice(0, -1)) {
    if (weight <= AT_HAND) break
    gone.push(id)
    weight -= weightOf(state)
  }
  return gone
}

const weightOf = (state: State): number =>
  Math.max(LEAST, state.ok ? state.open.draft.design.tables.length : 0)

/** The last of the operations, as many as are kept at hand. */
export function lastOf(recent: readonly Recent[]): Recent[] {
  let length = 0
  const at = recent.findLastIndex(
    (each, place) => (length += each.length) > RECENT.length || recent.length - place > RECENT.operations
  )
  return recent.slice(at + 1)
}

/** An operation as others are told of it. */
export const plain = ({ length: _, ...logged }: Recent): Logged => logged

/**
 * Entries of the log as they were written, up to where the draft stands: each is held to its mark, which is made of the
 * one before it. Nothing where one is not, or is missing.
 * @param mark of the revision before the first
 */
export function followed(rows: readonly OperationRow[], mark: string, draft: Draft): Logged[] | undefined {
  let [last, at] = [mark, rows[0]?.revision ?? draft.revision + 1]
  const read: Logged[] = []
  for (const row of rows) {
    const logged = row.revision === at ? readOperation(row) : undefined
    if (!logged || row.mark !== nextMark(last, row)) return undefined
    read.push(logged)
    last = row.mark
    at++
  }
  return last === draft.mark && at === draft.revision + 1 ? read : undefined
}
