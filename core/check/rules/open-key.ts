import { columnsIn } from '../../design/directory.ts'
import type { Operation } from '../../edit/operation.ts'
import type { Rule } from '../finding.ts'

/**
 * A unique key holds no row in which one of its columns is empty (ISO/IEC 9075-2, 11.7), unless the engine
 * takes two empty values for the same.
 */
export const openKey: Rule = {
  name: 'key column may be empty',
  find: (table) =>
    table.uniques.flatMap((key) => {
      const open = columnsIn(table, key.columns).filter((column) => !column.required)
      // One optional column by itself is unique where it is filled, and that is what is meant.
      if (open.length === 0 || (key.columns.length === 1 && table.primaryKey)) return []
      const [first] = open
      const names = open.map((column) => column.name).join(', ')
      return [
        {
          severity: 'doubtful' as const,
          column: first?.id as string,
          message: `${columnsIn(table, key.columns)
            .map((column) => column.name)
            .join(
              ', '
            )} is unique, but ${names} may be empty: two rows that have it empty and are otherwise the same are both let in.`,
          fix: {
            label: `Require ${names}`,
            operation: {
              kind: 'batch',
              label: `require ${names}`,
              operations: open.map((column): Operation => ({
                kind: 'column.require',
                table: table.id,
                column: column.id,
                required: true
              }))
            }
          }
        }
      ]
    })
}
