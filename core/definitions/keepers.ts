import { byId } from '../design/by-id.ts'
import type { Design, Table } from '../design/model.ts'
import { dialectsOf } from '../dialect/index.ts'

/** What sees to a column that is to be renewed or copied by the database, by the titles of the engines. */
export interface Keepers {
  inColumn: string[]
  byTrigger: string[]
  byNothing: string[]
}

export function keepersOf(design: Design, table: Table, column: string): Keepers {
  const found: Keepers = { inColumn: [], byTrigger: [], byNothing: [] }
  for (const anyVersion of dialectsOf(design)) {
    const dialect = anyVersion.for(design)
    const made = byId(dialect.catalog(design).catalog.tables).get(table.id)
    const isInColumn = made?.columns.some(({ id, renewed }) => id === column && renewed !== undefined)
    const isByTrigger = made?.triggers.some(({ id }) => id === column)
    const list = isInColumn ? found.inColumn : isByTrigger ? found.byTrigger : found.byNothing
    list.push(dialect.title)
  }
  return found
}
