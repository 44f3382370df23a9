import type { ComputedFacts, ReferenceFacts } from '../facts.ts'

/** A virtual column is computed from no other (ORA-54012). */
export const computed: ComputedFacts = {
  fromComputed: false,
  fromCounted: true,
  required: true,
  inPrimaryKey: true,
  folded: false
}

/** The kinds must be the same, the lengths need not (ORA-02267); a virtual column is changed by nothing. */
export const references: ReferenceFacts = {
  types: ({ sql: own }, { sql: its }) => (kindOf(own) === kindOf(its) ? 'taken' : 'refused'),
  changingComputed: 'table',
  indexesComputed: false
}

const kindOf = (sql: string): string => sql.replace(/\(.*?\)/g, '')
