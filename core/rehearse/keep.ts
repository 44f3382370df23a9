import { tableOf } from '../design/directory.ts'
import type { Design, Row, TableId } from '../design/model.ts'
import type { Operation, OperationOf } from '../edit/operation.ts'
import { placeInWhole, type Sound } from './sound-rows.ts'
import type { Effect, Rehearsed } from './trial.ts'

/**
 * What keeps what was tried, as one step: the rows of every table as they are in the end. Nothing where nothing has
 * changed, or it was refused.
 * @param design the whole design, with the rows that were left out of the trial, which stay as they are.
 */
export function keepTrial(
  design: Design,
  sound: Sound,
  rehearsed: Rehearsed,
  label: string
): Operation | undefined {
  const operations = [...rehearsed.rows.keys()].flatMap((id): Operation[] => {
    const table = tableOf(design, id)
    const before = tableOf(sound.design, id)
    if (!table || !before) return []
    const change: OperationOf<'rows.change'> = {
      kind: 'rows.change',
      table: id,
      changed: [],
      gone: [],
      come: []
    }
    const ends = endsOf(id, rehearsed.effects, refusedOf(rehearsed))
    const isGone = [...ends].filter(([place, row]) => place < before.rows.length && row === undefined)
    let next = table.rows.length - isGone.length
    for (const [place, row] of ends) {
      const was = before.rows[place]
      const at = placeInWhole(sound, id, place)
      if (was && row) change.changed.push({ at, was, row })
      else if (was) change.gone.push({ at, row: was })
      else if (row) change.come.push({ at: next++, row })
    }
    return change.changed.length + change.gone.length + change.come.length > 0 ? [change] : []
  })
  return operations.length > 0 ? { kind: 'batch', label, operations } : undefined
}

/** The statements of which nothing was kept. */
const refusedOf = ({ refusals }: Rehearsed): ReadonlySet<number> =>
  new Set(refusals.map(({ statement }) => statement))

/** What each row that anything happened to is in the end, by its place. */
function endsOf(
  table: TableId,
  effects: readonly Effect[],
  refused: ReadonlySet<number>
): ReadonlyMap<number, Row | undefined> {
  const ends = new Map<number, Row | undefined>()
  for (const effect of effects)
    if (effect.table === table && !refused.has(effect.statement)) ends.set(effect.place, effect.after)
  return ends
}
