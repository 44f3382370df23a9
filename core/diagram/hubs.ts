import { tableOf } from '../design/directory.ts'
import type { Design, Table, TableId } from '../design/model.ts'
import { once } from '../once.ts'

/**
 * In a large design a table that very many refer to would pull everything into one tall column, and its lines would
 * cover the sheet: what refers to such a hub says so beside itself.
 */
const HUB = { tables: 25, referrers: 9 }

/** The tables that so many refer to that no lines are drawn to them. */
export const hubsOf = once((design: Design): ReadonlySet<TableId> => {
  const referrers = new Map<TableId, number>()
  for (const { id, foreignKeys } of design.tables)
    for (const { table } of foreignKeys)
      if (table !== id) referrers.set(table, (referrers.get(table) ?? 0) + 1)
  const isLarge = design.tables.length >= HUB.tables
  return new Set([...referrers].flatMap(([id, count]) => (isLarge && count >= HUB.referrers ? [id] : [])))
})

/** Whether a reference leads to a hub, or to what is not in the drawing, so that no line is drawn wherever tables stand. */
export const leadsAway = (design: Design, table: Table, to: TableId): boolean =>
  to !== table.id && (hubsOf(design).has(to) || !tableOf(design, to))
