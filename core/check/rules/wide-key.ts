import { columnOf, columnsIn, keysOf } from '../../design/directory.ts'
import type { Key, Table } from '../../design/model.ts'
import type { Operation } from '../../edit/operation.ts'
import type { Rule } from '../finding.ts'

/**
 * A key with a smaller key inside it says no more than the smaller one, and lets in rows that only seem to
 * differ.
 */
export const wideKey: Rule = {
  name: 'key with a column too many',
  find: (table) => {
    const keys = keysOf(table)
    return keys.flatMap((key) => {
      const smaller = keys.find(
        (other) =>
          other.columns.length < key.columns.length &&
          other.columns.every((id) => key.columns.includes(id) && columnOf(table, id)?.required)
      )
      if (!smaller) return []
      const extra = key.columns.filter((id) => !smaller.columns.includes(id))
      const isPrimary = key === table.primaryKey
      return [
        {
          severity: 'doubtful' as const,
          column: extra[0] as string,
          message: `${names(table, smaller.columns)} tells the rows of ${table.name} apart already: ${names(table, extra)} adds nothing to the ${isPrimary ? 'primary key' : 'unique key'} (${names(table, key.columns)}).`,
          fix: isPrimary
            ? {
                label: `Make ${names(table, smaller.columns)} the primary key`,
                operation: narrow(table, key, smaller)
              }
            : {
                label: `Remove the unique key (${names(table, key.columns)})`,
                operation: { kind: 'unique.remove', table: table.id, key: key.id }
              }
        }
      ]
    })
  }
}

const names = (table: Table, ids: readonly string[]): string =>
  columnsIn(table, ids)
    .map((column) => column.name)
    .join(', ')

/** The key keeps its id, and with it its mark. */
function narrow(table: Table, key: Key, smaller: Key): Operation {
  return { kind: 'key.setPrimary', table: table.id, key: { ...key, columns: [...smaller.columns] } }
}
