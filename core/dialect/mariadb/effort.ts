import type { CatalogColumn, CatalogTable } from '../catalog.ts'
import { columnIn } from '../course.ts'
import { isStoredAlike, sizesOf, type Effort, type EffortFacts } from '../effort.ts'

const INSTANT: Effort = { work: 'none', waits: 'nobody' }
const NOCOPY: Effort = { work: 'reads', waits: 'nobody' }
const COPY: Effort = { work: 'writes', waits: 'writers' }

/**
 * What steps cost in MariaDB with InnoDB (MariaDB, "InnoDB Online DDL Operations with the INSTANT, NOCOPY
 * and COPY Alter Algorithms"). What is instant waits for nobody; what is copied lets others read. A statement
 * waits by itself.
 */
export const effort: EffortFacts = {
  until: 'while its statement runs',
  referred: INSTANT,
  released: INSTANT,
  held: 'nobody',
  changed: 'writers',
  dropped: 'nobody',
  shape: (step, table): Effort => {
    switch (step.kind) {
      case 'addColumn':
        return isAddedAtOnce(step.column, step.after, table) ? INSTANT : COPY
      case 'changeColumn': {
        const old = columnIn(table, step.column.id)
        return old && isChangedAtOnce(old, step.column) ? INSTANT : COPY
      }
      case 'addConstraint': {
        const { kind } = step.constraint
        if (kind === 'trigger') return INSTANT
        return kind === 'unique' || kind === 'index' ? NOCOPY : COPY
      }
      case 'dropConstraint':
        return step.of === 'primaryKey' ? COPY : INSTANT
      // What is worked out has its place in an index told anew.
      case 'dropColumn':
        return hasIndexOnComputed(table) ? COPY : INSTANT
      default:
        return INSTANT
    }
  }
}

function hasIndexOnComputed({ columns, primaryKey, uniques, indexes }: CatalogTable): boolean {
  const keyed = new Set([primaryKey, ...uniques, ...indexes].flatMap((key) => key?.columns ?? []))
  return columns.some(({ id, computed }) => computed !== undefined && keyed.has(id))
}

/** In the middle of a table with computed columns, nothing comes at once; nor does what is worked out for each row. */
function isAddedAtOnce(column: CatalogColumn, after: string | undefined, { columns }: CatalogTable): boolean {
  const isLast = after === undefined || columns.at(-1)?.id === after
  const isAmongComputed = !isLast && columns.some(({ computed }) => computed !== undefined)
  const isWorkedOut = column.default?.startsWith('(') ?? false
  const isFilledFirst = column.required && column.default === undefined && column.computed === undefined
  return !isAmongComputed && !isWorkedOut && !isFilledFirst
}

function isChangedAtOnce(old: CatalogColumn, column: CatalogColumn): boolean {
  const stays = old.required === column.required && old.generated === column.generated
  const isComputed = (old.computed === undefined) === (column.computed === undefined)
  return stays && isComputed && (isStoredAlike(old, column) || isWider(old.type.sql, column.type.sql))
}

/** Bytes of a character in utf8mb4 (MariaDB, "Unicode"), and those that a length up to 255 bytes takes. */
const BYTES = 4
const SHORT = 255

/** A text whose length takes as many bytes as before; a list with values at its end, as many to a byte. */
function isWider(from: string, to: string): boolean {
  if (from.startsWith('enum(') && to.startsWith('enum('))
    return to.startsWith(from.slice(0, -1)) && to.charAt(from.length - 1) === ','
  if (!from.startsWith('varchar(') || !to.startsWith('varchar(')) return false
  const [before = 0, after = 0] = [...sizesOf(from), ...sizesOf(to)]
  const isShort = (characters: number): boolean => characters * BYTES <= SHORT
  return after >= before && isShort(before) === isShort(after)
}
