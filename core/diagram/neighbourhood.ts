import { referencesTo, tableOf } from '../design/directory.ts'
import type { Design, TableId } from '../design/model.ts'
import { hubsOf } from './hubs.ts'

/**
 * The part of a design that lies around a table: what it refers to and what refers to it, so many steps far, with the
 * places given by hand left out. It does not go on from a hub, which leads everywhere.
 */
export function neighbourhood(design: Design, start: TableId, steps: number): Design {
  const hubs = hubsOf(design)
  const found = new Map<TableId, number>([[start, 0]])
  for (const [id, step] of found) {
    if (step === steps || (hubs.has(id) && id !== start)) continue
    const ones = tableOf(design, id)?.foreignKeys.map(({ table }) => table) ?? []
    const manys = referencesTo(design, id).map(({ table }) => table.id)
    for (const other of [...ones, ...manys]) if (!found.has(other)) found.set(other, step + 1)
  }
  const { subjects: _, ...bare } = design
  return { ...bare, tables: design.tables.filter(({ id }) => found.has(id)), positions: {} }
}
