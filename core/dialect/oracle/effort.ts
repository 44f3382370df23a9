import type { CatalogColumn } from '../catalog.ts'
import { columnIn } from '../course.ts'
import { isStoredAlike, type Effort, type EffortFacts, type Work } from '../effort.ts'
import { isWider } from './wider.ts'

/**
 * What steps cost in Oracle (Oracle Database SQL Language Reference, "ALTER TABLE"; Concepts, "Data
 * Concurrency and Consistency"): nobody waits to read; who writes waits while the statement runs.
 */
export const effort: EffortFacts = {
  until: 'while its statement runs',
  referred: { work: 'reads', waits: 'writers' },
  released: { work: 'none', waits: 'nobody' },
  held: 'nobody',
  changed: 'writers',
  dropped: 'all',
  shape: (step, table): Effort => {
    switch (step.kind) {
      case 'moveTable':
        return { work: 'writes', waits: 'writers' }
      case 'addColumn':
        // A default is noted once for the rows that are there.
        return { work: step.column.generated ? 'writes' : 'none', waits: 'nobody' }
      case 'changeColumn': {
        const old = columnIn(table, step.column.id)
        const work = old ? changed(old, step.column) : 'none'
        return { work, waits: work === 'none' ? 'nobody' : 'writers' }
      }
      case 'dropColumn': {
        // What is computed is not stored.
        const isStored = table.columns.some(
          ({ id, computed }) => id === step.column && computed === undefined
        )
        return { work: isStored ? 'writes' : 'none', waits: isStored ? 'writers' : 'nobody' }
      }
      case 'addConstraint':
        if (step.constraint.kind === 'trigger') return { work: 'none', waits: 'nobody' }
        return { work: 'reads', waits: 'writers' }
      default:
        return { work: 'none', waits: 'nobody' }
    }
  }
}

function changed(old: CatalogColumn, column: CatalogColumn): Work {
  const isReplaced = old.computed !== undefined && column.computed === undefined
  const isMadeAnew = !old.generated && column.generated
  const isOther = !isStoredAlike(old, column) && !isWider(old.type, column.type)
  if (isReplaced || isMadeAnew || isOther) return 'writes'
  return column.required && !old.required ? 'reads' : 'none'
}
