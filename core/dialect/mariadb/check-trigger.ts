import { fitName } from '../../naming/fit.ts'
import type { CatalogCheck, CatalogTable, Statement } from '../catalog.ts'
import { nameOfColumn, plainSql } from '../written.ts'
import { quote, quoteText } from './types.ts'

/**
 * Triggers that hold a check which MariaDB does not take ("CREATE TRIGGER"). They look at a row when it is there,
 * counted and computed, and take the statement back; what a reference changes by itself they do not see
 * ("Trigger Limitations").
 */
const EVENTS = { INSERT: 'made', UPDATE: 'changed' } as const
export type TriggerEvent = keyof typeof EVENTS
const LIMIT = { most: 64, of: 'characters' } as const

const nameOf = ({ name }: CatalogCheck, event: TriggerEvent): string =>
  fitName(`${name}_${EVENTS[event]}`, LIMIT)

/** What is said to whoever breaks it; the check is known again by it. */
const SAYS = ' is not met'
const BODY =
  /FOR EACH ROW\nIF NOT \(([\s\S]*)\) THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = '([\s\S]*) is not met'; END IF$/

const events = Object.keys(EVENTS) as TriggerEvent[]

export function createTriggers(table: CatalogTable, check: CatalogCheck, ifMissing = ''): Statement[] {
  const condition = plainSql(check.condition, (id) => `NEW.${quote(nameOfColumn(table, id))}`)
  const signal = `SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = ${quoteText(check.name + SAYS)}`
  return events.map((event) => ({
    sql: `CREATE TRIGGER ${ifMissing}${quote(nameOf(check, event))} AFTER ${event} ON ${quote(table.name)} FOR EACH ROW\nIF NOT (${condition}) THEN ${signal}; END IF`,
    says: `check ${table.name} by a trigger, where a row is ${EVENTS[event]}: ${check.name}`
  }))
}

export const dropTriggers = (table: CatalogTable, check: CatalogCheck): Statement[] =>
  events.map((event) => ({
    sql: `DROP TRIGGER IF EXISTS ${quote(nameOf(check, event))}`,
    says: `check ${table.name} no longer by a trigger: ${check.name}`
  }))

/** The triggers of a table's checks. */
export const triggersOf = (table: CatalogTable): Statement[] =>
  table.checks.filter(({ byTrigger }) => byTrigger).flatMap((check) => createTriggers(table, check))

/** A text, a name in quotes, or what says that a column is that of the new row. */
const TEXT_OR_NEW = /'(?:[^'\\]|''|\\[\s\S])*'|`(?:[^`]|``)*`|\bNEW\./g

/** The check that a trigger holds, as SHOW CREATE TRIGGER prints it; nothing where it does something else. */
export function checkIn(statement: string): { name: string; condition: string } | undefined {
  const [, condition, name] = BODY.exec(statement) ?? []
  if (condition === undefined || name === undefined) return undefined
  return {
    name: name.replaceAll("''", "'").replaceAll('\\\\', '\\'),
    condition: condition.replaceAll(TEXT_OR_NEW, (part) => (part === 'NEW.' ? '' : part))
  }
}
