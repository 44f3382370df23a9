import { tableOf } from '../design/directory.ts'
import type { Design } from '../design/model.ts'
import type { Operation, OperationOf } from '../edit/operation.ts'
import { placeInWhole, type Sound } from './sound-rows.ts'
import type { Rehearsed } from './trial.ts'

/**
 * What keeps what was tried, as one step: the rows of every table as they are in the end. Nothing where nothing has
 * changed, or it was refused.
 * @param design the whole design, with the rows that were left out of the trial, which stay as they are.
 */
export function keepTrial(
  design: Design,
  sound: Sound,
  { changed }: Pick<Rehearsed, 'changed'>,
  label: string
): Operation | undefined {
  const operations = [...changed].flatMap(([id, ends]): Operation[] => {
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
    const isGone = [...ends].filter(([place, row]) => place < before.rows.length && row === undefined)
    let next = table.rows.length - isGone.length
    for (const [place, row] of ends) {
      const was = before.rows[place]
      const at = placeInWhole(sound, id, place)
      if (was && row) change.changed.push({ at, was, row })
      else if (was) change.gone.push({ at, row: was })
      else if (row) change.come.push({ at: next++, row })
    }
    return [change]
  })
  return operations.length > 0 ? { kind: 'batch', label, operations } : undefined
}
