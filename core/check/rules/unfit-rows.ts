import { unfitRows } from '../../rows/unfit.ts'
import type { Rule } from '../finding.ts'

/** Rows of the design's own that an engine refuses, though they break no rule of the design. */
export const rowsUnfit: Rule = {
  name: 'rows that an engine refuses',
  find: (table, { dialects, named }) =>
    dialects.flatMap((dialect) =>
      unfitRows(table, dialect).map(({ column, message }) => ({
        severity: named ? ('wrong' as const) : ('doubtful' as const),
        column,
        message,
        dialects: [dialect.name]
      }))
    )
}
