import type { CatalogTable, CatalogTrigger, Statement, Tables } from '../catalog.ts'
import { fold } from '../../design/directory.ts'
import { quoteText } from '../quote.ts'
import { copyingOf, keyOfRow, sayTrigger, valueOf } from '../trigger.ts'
import { nameOfColumn } from '../written.ts'
import { quote } from './types.ts'

/**
 * Triggers for each row (SQLite, "CREATE TRIGGER"). They change nothing of a row that is being written, but write to
 * it when it is there: what is required is looked at before that. A trigger may run for what it has written itself
 * ("PRAGMA recursive_triggers"), so each looks whether there is anything to do.
 */
export function createTrigger(table: CatalogTable, trigger: CatalogTrigger, tables: Tables): Statement[] {
  const place = quote(table.name)
  const own = quote(nameOfColumn(table, trigger.column))
  const says = sayTrigger(table, trigger)
  const one = (part: string | undefined, when: string, condition: string, does: string): Statement => ({
    sql: `CREATE TRIGGER ${quote(partOf(trigger, part))} ${when} ON ${place} FOR EACH ROW WHEN ${condition} BEGIN\n  ${does};\nEND`,
    says
  })
  const copying = copyingOf(table, trigger, tables, { quote })
  const sets = (value: string): string => `UPDATE ${place} SET ${own} = ${value} WHERE ${isRow(table)}`
  if (!copying) {
    const now = trigger.does.kind === 'renews' ? trigger.does.now : own
    const isLeft = `new.${own} IS old.${own} AND new.${own} IS NOT ${now}`
    return [one(undefined, 'AFTER UPDATE', isLeft, sets(now))]
  }
  const { by, again, fixed, fills, refusal } = copying
  const given = valueOf(copying, 'new.')
  const refuses = `SELECT RAISE(ABORT, ${quoteText(refusal)})`
  const isOther = `new.${own} IS NOT ${given}`
  const refersToOther = by.map((column) => `new.${column} IS NOT old.${column}`).join(' OR ')
  return [
    ...(fills ? [one('made', 'AFTER INSERT', `new.${own} IS NULL`, sets(given))] : []),
    ...(again
      ? [
          one(
            'again',
            `AFTER UPDATE OF ${by.join(', ')}`,
            `new.${own} IS old.${own} AND (${refersToOther})`,
            sets(given)
          )
        ]
      : []),
    ...(fixed
      ? [
          one('given', 'BEFORE INSERT', `new.${own} IS NOT NULL AND ${isOther}`, refuses),
          one('changed', `BEFORE UPDATE OF ${own}`, `new.${own} IS NOT old.${own} AND ${isOther}`, refuses)
        ]
      : [])
  ]
}

const PARTS = ['made', 'again', 'given', 'changed'] as const

const partOf = ({ name }: CatalogTrigger, part: string | undefined): string =>
  part === undefined ? name : `${name}_${part}`

/** What the triggers for one column are called. */
export const triggerNames = (trigger: CatalogTrigger): string[] => {
  const { does } = trigger
  if (does.kind !== 'copies') return [trigger.name]
  const { fills, again, fixed } = does
  return PARTS.filter((part) => (part === 'made' ? fills : part === 'again' ? again : fixed)).map((part) =>
    partOf(trigger, part)
  )
}

export const dropTrigger = (table: CatalogTable, trigger: CatalogTrigger): Statement[] =>
  triggerNames(trigger).map((name) => ({
    sql: `DROP TRIGGER ${quote(name)}`,
    says: `no longer ${sayTrigger(table, trigger)}`
  }))

/** A condition: it is the row that the trigger runs for, by its key or by the number that SQLite gives it. */
function isRow(table: CatalogTable): string {
  const key = keyOfRow(table, { quote })
  const isTaken = (name: string): boolean => table.columns.some((column) => fold(column.name) === name)
  const number = ['rowid', 'oid', '_rowid_'].find((each) => !isTaken(each)) ?? 'rowid'
  const columns = key.length > 0 ? key : [number]
  return columns.map((column) => `${column} = new.${column}`).join(' AND ')
}

/** What triggers for one column do, as ./read.ts reads it back: their statements. */
export const sayTriggerRead = (table: CatalogTable, trigger: CatalogTrigger, tables: Tables): string[] =>
  createTrigger(table, trigger, tables).map(({ sql }) => sql)
