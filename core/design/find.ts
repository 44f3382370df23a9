import { directory } from './directory.ts'
import type { Column, Design, Table } from './model.ts'

/** Tables whose name or one of whose columns begins with or contains what was typed, the nearest first. */
export function findTables(design: Design, typed: string, most = 12): { table: Table; column?: Column }[] {
  const wanted = typed.trim().toLowerCase()
  const exact = directory(design).byName.get(wanted)
  const scored: { table: Table; column?: Column; score: number }[] = []
  for (const table of design.tables) {
    const name = table.name.toLowerCase()
    const score = table === exact ? 0 : name.startsWith(wanted) ? 1 : name.includes(wanted) ? 2 : 9
    if (score < 9) scored.push({ table, score })
    else if (wanted !== '') {
      const column = table.columns.find((each) => each.name.toLowerCase().includes(wanted))
      if (column) scored.push({ table, column, score: 3 })
    }
  }
  return scored.sort((a, b) => a.score - b.score).slice(0, most)
}
