import { carryRows } from '../carry/apply.ts'
import { BrokenQuery } from '../carry/columns.ts'
import { NeedsEngine } from '../carry/evaluate.ts'
import { tableOf } from '../design/directory.ts'
import type { Design } from '../design/model.ts'
import { sayTable } from '../dialect/qualified.ts'
import type { Moves } from './moves.ts'

/** How many of a design's own rows are carried into each table, a sentence each; none where only an engine can tell. */
export function sayCarried({ flow, grown }: Moves, to: Design): string[] {
  const into = new Set(flow.adds.map(({ table }) => table))
  if (into.size === 0) return []
  try {
    const { rows } = carryRows(flow, grown)
    return [...into].flatMap((id) => {
      const count = (rows.get(id)?.length ?? 0) - (tableOf(grown, id)?.rows.length ?? 0)
      const table = tableOf(to, id)
      return table ? [`Carries rows into ${sayTable(table.name)} (${count} here).`] : []
    })
  } catch (error) {
    if (error instanceof NeedsEngine || error instanceof BrokenQuery) return []
    throw error
  }
}
