import { tableOf } from '../design/directory.ts'
import type { Flow } from '../design/carry.ts'
import type { Design, Row, TableId } from '../design/model.ts'
import type { TypedColumn } from '../design/row-query.ts'
import { rowsAfter } from './after.ts'
import { columnsOf } from './columns.ts'
import { rowsOf, type RowSource } from './evaluate.ts'
import { groundOf } from './ground.ts'

/** A requirement that rows do not meet, with the rows that stand in the way. */
export interface UnmetRequirement {
  says: string
  rows: readonly Row[]
}

/** What comes of a flow on a design's own rows. */
export interface FlowOutcome {
  /** The rows of each table that the flow speaks of. */
  rows: ReadonlyMap<TableId, readonly Row[]>
  hindrances: readonly UnmetRequirement[]
}

/**
 * Works a flow out on a design's own rows. Rows come with every column that they had and that the flow
 * gives them, whether or not the design that it leads to still has it.
 * @throws BrokenQuery where the flow names what is not there; NeedsEngine.
 */
export function carryRows(flow: Flow, design: Design): FlowOutcome {
  const source = sourceOf(flow, design)
  const rows = new Map<TableId, readonly Row[]>()
  for (const table of new Set([...flow.adds, ...flow.fills].map((each) => each.table))) {
    const query = rowsAfter(flow, table, source.ground.table(table), source.ground)
    if (query) rows.set(table, rowsOf(query, source))
  }
  const hindrances = flow.requires
    .map(({ query, says }) => ({ says, rows: rowsOf(query, source) }))
    .filter((each) => each.rows.length > 0)
  return { rows, hindrances }
}

/** The design's rows, and the flow's results worked out over them, each once. */
function sourceOf(flow: Flow, design: Design): RowSource {
  const types = new Map<string, readonly TypedColumn[]>()
  const results = new Map<string, readonly Row[]>()
  const source: RowSource = {
    ground: groundOf(design, types),
    table: (id) => tableOf(design, id)?.rows ?? [],
    result: (name) => results.get(name) ?? []
  }
  for (const { name, query } of flow.results) {
    results.set(name, rowsOf(query, source))
    types.set(name, columnsOf(query, source.ground))
  }
  return source
}
