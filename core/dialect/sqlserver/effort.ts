import type { CatalogColumn } from '../catalog.ts'
import { columnIn } from '../course.ts'
import { isStoredAlike, sizesOf, type Effort, type EffortFacts, type Work } from '../effort.ts'

/**
 * What steps cost in SQL Server (Transact-SQL, "ALTER TABLE", "Lock modes" and "Adding columns"). A lock on
 * what a table is keeps everybody out until the transaction ends.
 */
export const effort: EffortFacts = {
  until: 'until it ends',
  referred: { work: 'reads', waits: 'all' },
  released: { work: 'none', waits: 'all' },
  held: 'all',
  changed: 'all',
  dropped: 'all',
  shape: (step, table): Effort => {
    switch (step.kind) {
      case 'noteTable':
      case 'orderColumns':
        return { work: 'none', waits: 'nobody' }
      case 'addColumn':
        return { work: added(step.column), waits: 'all' }
      case 'changeColumn': {
        const old = columnIn(table, step.column.id)
        return { work: old ? changed(old, step.column) : 'none', waits: 'all' }
      }
      case 'addConstraint':
        if (step.constraint.kind === 'trigger') return { work: 'none', waits: 'all' }
        // The primary key is clustered: the rows are put in its order.
        if (step.constraint.kind === 'primaryKey') return { work: 'writes', waits: 'all' }
        return { work: 'reads', waits: step.constraint.kind === 'index' ? 'writers' : 'all' }
      case 'dropConstraint':
        return { work: step.of === 'primaryKey' ? 'writes' : 'none', waits: 'all' }
      default:
        return { work: 'none', waits: 'all' }
    }
  }
}

/** Only some editions add a required column without writing it to each row, so that is not counted on. */
function added({ computed, generated, required }: CatalogColumn): Work {
  return computed !== undefined || generated || required ? 'writes' : 'none'
}

function changed(old: CatalogColumn, column: CatalogColumn): Work {
  const isMadeAnew =
    old.generated !== column.generated || (old.computed === undefined) !== (column.computed === undefined)
  if (isMadeAnew || (!isStoredAlike(old, column) && !isWider(old.type.sql, column.type.sql))) return 'writes'
  return column.required && !old.required ? 'reads' : 'none'
}

/** Texts that may be longer are stored alike; `max` is stored otherwise. */
function isWider(from: string, to: string): boolean {
  const isText = (sql: string): boolean => /^n?varchar\(\d/.test(sql)
  const [before = 0, after = 0] = [...sizesOf(from), ...sizesOf(to)]
  return isText(from) && isText(to) && after >= before
}
