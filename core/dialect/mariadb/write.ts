import type { CatalogColumn, CatalogTable } from '../catalog.ts'
import { bothActions } from '../write.ts'
import { createTrigger } from './trigger.ts'
import { triggersOf } from './check-trigger.ts'
import { quote, quoteText } from './types.ts'
import { conditionOf, type Words } from '../sql-words.ts'

/** Texts are told apart as they are written, and not by what they look like. */
export const COLLATION = 'utf8mb4_nopad_bin'

export const wordsOf = (collation: string): Words => ({
  quote,
  column: (column, table) => {
    const parts = [column.type.sql]
    // A stored one takes no column that a reference changes by itself.
    const kept = column.stored ? 'STORED' : 'VIRTUAL'
    if (column.computed !== undefined)
      parts.push(`GENERATED ALWAYS AS (${conditionOf({ quote }, table, column.computed)}) ${kept}`)
    if (column.required) parts.push('NOT NULL')
    if (isCounted(table, column)) parts.push('AUTO_INCREMENT')
    else if (column.default !== undefined) parts.push(`DEFAULT ${column.default}`)
    if (column.renewed !== undefined) parts.push(`ON UPDATE ${column.renewed}`)
    if (column.note !== undefined) parts.push(`COMMENT ${quoteText(column.note)}`)
    return parts.join(' ')
  },
  inside: (table) => {
    const counted = table.columns.find((column) => isCounted(table, column))
    const hasKey = [table.primaryKey, ...table.uniques].some((key) => key?.columns[0] === counted?.id)
    return counted && !hasKey ? table.indexes.filter(({ columns }) => columns[0] === counted.id) : []
  },
  actions: bothActions,
  after: triggersOf,
  trigger: createTrigger,
  tail: (table) =>
    ` ENGINE = InnoDB DEFAULT CHARACTER SET = utf8mb4 COLLATE = ${collation}${table.note === undefined ? '' : ` COMMENT = ${quoteText(table.note)}`}`,
  descending: true
})

export const words = wordsOf(COLLATION)

/** Counted is a column only as long as a key or an index begins with it. */
export function isCounted(table: CatalogTable, column: CatalogColumn): boolean {
  const keys = [table.primaryKey, ...table.uniques, ...table.indexes]
  return column.generated && keys.some((key) => key?.columns[0] === column.id)
}
