import { columnsIn } from '../../design/directory.ts'
import { columnsUsed } from '../../design/expressions.ts'
import type { Action } from '../../design/model.ts'
import { columnsNamedBy } from '../table-builder.ts'
import type { ComputedFacts } from '../facts.ts'
import type { Limit } from '../limits/limit.ts'
import { refusing } from '../limits/refusing.ts'

/** MySQL 8.4 Reference Manual, 15.1.20.8, "CREATE TABLE and Generated Columns". */
export const computed: ComputedFacts = {
  // It takes only those that stand before it in the table.
  fromComputed: false,
  fromCounted: true,
  required: true,
  inPrimaryKey: true,
  folded: false
}

/** MySQL, "CREATE TABLE and Generated Columns": nothing is computed from a column that is counted. */
export const computedFromCounted: Limit = ({ table, made, facts }) => {
  const counted = made.columns.find(({ generated }) => generated)
  return table.columns
    .filter((column) => column.computed !== undefined)
    .filter((column) => columnsNamedBy(column.computed ?? '', table).includes(counted?.id ?? ''))
    .map((column) => ({
      rule: 'computed from a counted column',
      weight: 'refused',
      column: column.id,
      message: `${column.name} of ${table.name} is computed from ${counted?.name}, which ${facts.title} counts by itself: it refuses the table.`,
      fix: {
        label: `Keep ${column.name} as it is put in`,
        operation: { kind: 'column.compute', table: table.id, column: column.id, expression: null }
      }
    }))
}

const REFUSES: readonly Action[] = ['NO ACTION', 'RESTRICT']

/**
 * A reference whose columns a stored column is computed from may do nothing but refuse (MySQL 8.4 Reference
 * Manual, 15.1.20.5, "FOREIGN KEY Constraints").
 */
export const referenceUnderStored: Limit = ({ table, made, facts }) => {
  const stored = made.columns.filter((column) => column.stored)
  return made.foreignKeys.flatMap((key) => {
    const wanted = table.foreignKeys.find(({ id }) => id === key.id)
    const leaning = stored.find(({ id }) => {
      const [column] = columnsIn(table, [id])
      const from = columnsUsed(column?.computed ?? '')
      return key.columns.some((each) => from.includes(each))
    })
    const acting = (['delete', 'update'] as const).filter(
      (on) => !REFUSES.includes(on === 'delete' ? key.onDelete : key.onUpdate)
    )
    if (!wanted || !leaning || acting.length === 0) return []
    return [
      {
        rule: 'reference under a stored column',
        weight: 'refused' as const,
        column: key.columns[0],
        message: `${leaning.name} of ${table.name} is computed, stands in a key, and is computed from what refers: ${facts.title} takes no action on delete or update there, and refuses the table.`,
        fix: { label: 'Refuse it instead', operation: refusing(table.id, wanted, acting) }
      }
    ]
  })
}
