import { carryRows } from '../carry/apply.ts'
import { BrokenQuery } from '../carry/columns.ts'
import { NeedsEngine } from '../carry/evaluate.ts'
import type { Flow } from '../design/carry.ts'
import type { Design, Row, TableId } from '../design/model.ts'

/**
 * The rows that a table has after a flow, worked out on the design's own: what a restructuring does to them
 * at once is what a migration does to those of a database. None where only an engine can work them out.
 */
export function rowsThere(design: Design, flow: Flow, table: TableId): readonly Row[] {
  try {
    return carryRows(flow, design).rows.get(table) ?? []
  } catch (error) {
    if (error instanceof NeedsEngine || error instanceof BrokenQuery) return []
    throw error
  }
}
