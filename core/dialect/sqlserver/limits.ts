import type { ComputedFacts, ReferenceFacts } from '../facts.ts'

/** Msg 1759 (SQL Server, "Database engine errors"). */
export const computed: ComputedFacts = {
  fromComputed: false,
  fromCounted: true,
  required: true,
  inPrimaryKey: true,
  folded: false
}

/** Types and lengths must be the same (Msg 1778, 1753); a computed column is changed by nothing (Msg 1764). */
export const references: ReferenceFacts = {
  types: ({ sql: own }, { sql: its }) => (own === its ? 'taken' : 'refused'),
  changingComputed: 'table',
  indexesComputed: false
}
