import type { ComputedFacts, ReferenceFacts } from '../facts.ts'
import type { Limit } from '../limits/limit.ts'

/** SQLite, "Generated Columns", 2.3. */
export const computed: ComputedFacts = {
  fromComputed: true,
  fromCounted: true,
  required: true,
  inPrimaryKey: false,
  folded: false
}

/** What refers is given the kind of what it refers to before the two are compared (SQLite, "Foreign Keys", 3). */
export const references: ReferenceFacts = {
  types: () => 'taken',
  changingComputed: 'row',
  indexesComputed: false
}

/** SQLite, "Generated Columns", 2.3: a table has a column of its own. */
export const ownColumns: Limit = ({ table }) =>
  table.columns.every((column) => column.computed !== undefined)
    ? [
        {
          rule: 'nothing of its own',
          weight: 'refused',
          message: `SQLite has no table without columns of its own: it will refuse ${table.name}.`
        }
      ]
    : []
