import type { CatalogColumn } from '../catalog.ts'
import { columnIn } from '../course.ts'
import { isStoredAlike, sizesOf, type Effort, type EffortFacts, type Work } from '../effort.ts'
import type { ShapeStep } from '../step.ts'

/**
 * What steps cost in PostgreSQL (PostgreSQL manual, ALTER TABLE, "Notes", and 13.3.1 on locks). A lock is
 * held until the transaction ends.
 */
export const effort: EffortFacts = {
  until: 'until it ends',
  referred: { work: 'reads', waits: 'writers' },
  released: { work: 'none', waits: 'all' },
  held: 'all',
  changed: 'writers',
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
        return old ? changed(old, step.column) : { work: 'none', waits: 'all' }
      }
      case 'addConstraint':
        return constrained(step)
      default:
        return { work: 'none', waits: 'all' }
    }
  }
}

/** A value that is the same for all rows is noted once; one that is worked out for each is written to each. */
function added({ computed, generated, required, default: begins }: CatalogColumn): Work {
  if (computed !== undefined || generated || isVolatile(begins)) return 'writes'
  return required && begins === undefined ? 'reads' : 'none'
}

/** Another value at each call (PostgreSQL manual, 38.7). */
const isVolatile = (sql: string | undefined): boolean =>
  /\b(gen_random_uuid|random|clock_timestamp)\b/.test(sql ?? '')

function changed(old: CatalogColumn, column: CatalogColumn): Effort {
  const work: Work =
    !isStoredAlike(old, column) && !isWider(old, column)
      ? 'writes'
      : column.required && !old.required
        ? 'reads'
        : 'none'
  const isNoted = old.note !== column.note
  const alike =
    JSON.stringify({ ...old, note: '', name: '' }) === JSON.stringify({ ...column, note: '', name: '' })
  return { work, waits: isNoted && alike ? 'nobody' : 'all' }
}

/** Texts of any length are stored alike, and so are decimals with more digits before the point. */
function isWider({ type: { sql: from } }: CatalogColumn, { type: { sql: to } }: CatalogColumn): boolean {
  const [before, after] = [sizesOf(from), sizesOf(to)]
  if (isText(from) && isText(to)) return (after[0] ?? Infinity) >= (before[0] ?? Infinity)
  if (!from.startsWith('numeric(') || !to.startsWith('numeric(')) return false
  return (before[1] ?? 0) === (after[1] ?? 0) && (after[0] ?? 0) >= (before[0] ?? 0)
}

const isText = (sql: string): boolean => /^(text$|varchar)/.test(sql)

function constrained({ constraint }: Extract<ShapeStep, { kind: 'addConstraint' }>): Effort {
  if (constraint.kind === 'trigger') return { work: 'none', waits: 'writers' }
  const isLight = constraint.kind === 'index' || constraint.kind === 'foreignKey'
  return { work: 'reads', waits: isLight ? 'writers' : 'all' }
}
