import { directory } from './directory.ts'
import type { Column, Design, Table } from './model.ts'

interface Found {
  table: Table
  column?: Column
}

/**
 * Tables whose name or one of whose columns begins with or contains what was typed, the nearest first; of
 * `table.column` both must.
 */
export function findTables(design: Design, typed: string, most = 12): Found[] {
  const wanted = typed.trim().toLowerCase()
  const exact = directory(design).byName.get(wanted)
  const scored: (Found & { score: number })[] = []
  for (const table of design.tables) {
    const score = table === exact ? 0 : nearness(table.name, wanted)
    if (score !== undefined) scored.push({ table, score })
    else if (wanted !== '') {
      const column = table.columns.find((each) => nearness(each.name, wanted) !== undefined)
      if (column) scored.push({ table, column, score: 3 })
      else scored.push(...columnsWithin(table, wanted))
    }
  }
  return scored.sort((a, b) => a.score - b.score).slice(0, most)
}

/** How near a name is to what is sought, the less the nearer; nothing where it does not contain it. */
function nearness(name: string, wanted: string): number | undefined {
  const own = name.toLowerCase()
  if (own.startsWith(wanted)) return 1
  return own.includes(wanted) ? 2 : undefined
}

/** The columns of a table that are sought as `table.column`. */
function columnsWithin(table: Table, wanted: string): (Found & { score: number })[] {
  const dot = wanted.lastIndexOf('.')
  const near = dot < 0 ? undefined : nearness(table.name, wanted.slice(0, dot))
  if (near === undefined) return []
  return table.columns.flatMap((column) => {
    const score = nearness(column.name, wanted.slice(dot + 1))
    return score === undefined ? [] : [{ table, column, score: near + score }]
  })
}
