import { tableOf } from '../design/directory.ts'
import type { Design, TableId } from '../design/model.ts'
import type { Paused } from '../design/paused.ts'
import { lostReferences } from '../design/violations.ts'
import type { Rehearsed } from './trial.ts'

/** Rows of a table that refer by a reference to what is not there. */
export interface Orphans {
  table: TableId
  foreignKey: string
  /** Their places among the rows of the design that they are found in. */
  rows: readonly number[]
}

/** Every row of a design that refers to nothing. */
export function* orphansIn(design: Design): Paused<Orphans[]> {
  const lost = yield* lostReferences(design)
  return lost.map(({ table, of, rows }) => ({ table, foreignKey: of, rows }))
}

/** The design as a trial leaves it. */
export function designAfter(design: Design, { rows }: Pick<Rehearsed, 'rows'>): Design {
  const tables = design.tables.map((table) => {
    const left = rows.get(table.id)
    return left && tableOf(design, table.id) ? { ...table, rows: [...left] } : table
  })
  return { ...design, tables }
}
