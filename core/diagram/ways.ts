import { referencesTo, tableOf } from '../design/directory.ts'
import type { Design, TableId } from '../design/model.ts'
import { hubsOf } from './hubs.ts'

/**
 * The tables on the shortest ways between two, along references in either direction, both ends among them; none where
 * there is no way. A hub, which leads everywhere, is gone through only where nothing else leads there.
 */
export function waysBetween(design: Design, from: TableId, to: TableId): ReadonlySet<TableId> {
  const around = shortest(design, from, to, hubsOf(design))
  return around.size > 0 ? around : shortest(design, from, to, new Set())
}

function shortest(design: Design, from: TableId, to: TableId, closed: ReadonlySet<TableId>): Set<TableId> {
  const steps = stepsFrom(design, from, closed, to)
  const length = steps.get(to)
  if (length === undefined) return new Set()
  const back = stepsFrom(design, to, closed, from)
  const isOn = (id: TableId): boolean => (steps.get(id) ?? Infinity) + (back.get(id) ?? Infinity) === length
  return new Set(design.tables.flatMap(({ id }) => (isOn(id) ? [id] : [])))
}

/** How many references away each table is that can be come to, without going through those that are closed. */
function stepsFrom(
  design: Design,
  start: TableId,
  closed: ReadonlySet<TableId>,
  end: TableId
): Map<TableId, number> {
  const steps = new Map<TableId, number>(tableOf(design, start) ? [[start, 0]] : [])
  for (const [id, step] of steps) {
    if (closed.has(id) && id !== start && id !== end) continue
    const ones = tableOf(design, id)?.foreignKeys.map(({ table }) => table) ?? []
    const manys = referencesTo(design, id).map(({ table }) => table.id)
    for (const other of [...ones, ...manys]) if (!steps.has(other)) steps.set(other, step + 1)
  }
  return steps
}
