import { namesIn } from '../../design/directory.ts'
import type { Rule } from '../finding.ts'

/** A key of more columns than this is a burden to everything that refers to it. */
const MOST = 4

/** Identifying relationships one below the other make keys that grow with each. */
export const longKey: Rule = {
  name: 'long key',
  find: (table) => {
    const key = table.primaryKey?.columns ?? []
    if (key.length <= MOST) return []
    return [
      {
        severity: 'doubtful',
        column: key[0] as string,
        message: `The key of ${table.name} has ${key.length} columns (${namesIn(table, key.slice(0, MOST))}, …), and each table that refers to it has them all. A number of its own would be shorter; press M with the table in the middle.`
      }
    ]
  }
}
