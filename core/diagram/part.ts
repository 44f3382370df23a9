import { referencesTo, tableOf } from '../design/directory.ts'
import type { Design, ShownPart, TableId } from '../design/model.ts'
import { hubsOf } from './hubs.ts'
import { neighbourhood } from './neighbourhood.ts'

/** The part of a design that is drawn. */
export interface DrawnPart {
  design: Design
  /** Tables that are beside it, which are drawn by their names alone. */
  slim: ReadonlySet<TableId>
  /** How many more, that are not drawn, refer to a table of it. */
  more: ReadonlyMap<TableId, number>
  /** How many tables it names that are not in the design any longer. */
  gone: number
}

/** Of more tables than this that refer to one from outside it is told how many they are. */
const MOST_BESIDE = 6

/** What of a design is drawn. What was put somewhere by hand stands there in the whole alone. */
export function partOf(design: Design, shows: ShownPart): DrawnPart {
  const whole = { design, slim: new Set<TableId>(), more: new Map<TableId, number>(), gone: 0 }
  switch (shows.kind) {
    case 'all':
      return whole
    case 'near': {
      if (!tableOf(design, shows.table)) return { ...whole, design: withTables(design, new Set()), gone: 1 }
      return { ...whole, design: neighbourhood(design, shows.table, shows.steps) }
    }
    case 'tables':
      return withBeside(design, shows.tables)
    case 'subject': {
      const subject = design.subjects?.find(({ id }) => id === shows.subject)
      if (!subject) return { ...whole, design: withTables(design, new Set()), gone: 1 }
      return withBeside(design, subject.tables)
    }
  }
}

/** Tables with those that refer to them from outside; what they refer to outside is told beside them as it is drawn. */
function withBeside(design: Design, ids: readonly TableId[]): DrawnPart {
  const inside = new Set(ids.filter((id) => tableOf(design, id)))
  const hubs = hubsOf(design)
  const slim = new Set<TableId>()
  const more = new Map<TableId, number>()
  for (const id of inside) {
    const beside = new Set(
      referencesTo(design, id).flatMap(({ table }) => (inside.has(table.id) ? [] : [table.id]))
    )
    if (beside.size === 0) continue
    if (hubs.has(id) || beside.size > MOST_BESIDE) more.set(id, beside.size)
    else for (const other of beside) slim.add(other)
  }
  return {
    design: withTables(design, new Set([...inside, ...slim])),
    slim,
    more,
    gone: new Set(ids).size - inside.size
  }
}

const withTables = (design: Design, ids: ReadonlySet<TableId>): Design => {
  const { subjects: _, ...bare } = design
  return { ...bare, tables: design.tables.filter(({ id }) => ids.has(id)), positions: {} }
}
