import { namesIn } from '../../design/directory.ts'
import { generatedInstead } from '../../restructure/another-key.ts'
import type { Rule } from '../finding.ts'

/** A key of more columns than this is a burden to everything that refers to it. */
const MOST = 4

/** Identifying relationships one below the other make keys that grow with each. */
export const longKey: Rule = {
  name: 'long key',
  // What would mend it goes through all that refers to the table.
  others: (design, table) => ((table.primaryKey?.columns.length ?? 0) > MOST ? design : undefined),
  find: (table, { design }) => {
    const key = table.primaryKey?.columns ?? []
    if (key.length <= MOST) return []
    const number = generatedInstead(design, table)
    return [
      {
        severity: 'doubtful',
        column: key[0] as string,
        message: `The key of ${table.name} has ${key.length} columns (${namesIn(table, key)}), and each table that refers to it has them all.`,
        ...(number.ok && { fix: { label: 'Let it go by a number of its own', operation: number.value } })
      }
    ]
  }
}
