import { fitName } from '../../naming/fit.ts'
import type { CatalogTable, CatalogTrigger, Statement, Tables } from '../catalog.ts'
import { copyingOf, sayTrigger, valueOf, type Copying } from '../trigger.ts'
import { nameOfColumn } from '../written.ts'
import { quote, quoteText } from './types.ts'

/**
 * Triggers for each row, before it is written (MariaDB, "CREATE TRIGGER"). What a reference changes by itself runs
 * none ("Trigger Limitations").
 */
const LIMIT = { most: 64, of: 'characters' } as const
/** A message has at most 128 characters (MariaDB, "SIGNAL"). */
const signal = (says: string): string =>
  `SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = ${quoteText([...says].slice(0, 128).join(''))}`

type Event = 'INSERT' | 'UPDATE'
const PARTS: Record<Event, string> = { INSERT: 'given', UPDATE: 'kept' }

const nameOf = ({ name }: CatalogTrigger, event: Event): string => fitName(`${name}_${PARTS[event]}`, LIMIT)

export function createTrigger(
  table: CatalogTable,
  trigger: CatalogTrigger,
  tables: Tables,
  ifMissing = ''
): Statement[] {
  return bodiesOf(table, trigger, tables).map(([event, body]) => ({
    sql: `CREATE TRIGGER ${ifMissing}${quote(nameOf(trigger, event))} BEFORE ${event} ON ${quote(table.name)} FOR EACH ROW\n${body}`,
    says: sayTrigger(table, trigger)
  }))
}

export const dropTrigger = (table: CatalogTable, trigger: CatalogTrigger): Statement[] =>
  eventsOf(trigger).map((event) => ({
    sql: `DROP TRIGGER IF EXISTS ${quote(nameOf(trigger, event))}`,
    says: `no longer ${sayTrigger(table, trigger)}`
  }))

/** What runs the triggers for a column. */
const eventsOf = ({ does }: CatalogTrigger): Event[] =>
  does.kind === 'copies' ? ['INSERT', ...(does.again || does.fixed ? ['UPDATE' as const] : [])] : ['UPDATE']

function bodiesOf(table: CatalogTable, trigger: CatalogTrigger, tables: Tables): [Event, string][] {
  const own = quote(nameOfColumn(table, trigger.column))
  const copying = copyingOf(table, trigger, tables, { quote })
  const { does } = trigger
  if (!copying)
    return [
      [
        'UPDATE',
        `IF NEW.${own} <=> OLD.${own} THEN SET NEW.${own} = ${does.kind === 'renews' ? does.now : own}; END IF`
      ]
    ]
  return eventsOf(trigger).map((event) => [
    event,
    event === 'INSERT' ? whereMade(copying) : whereChanged(copying)
  ])
}

const given = (copying: Copying): string => valueOf(copying, 'NEW.')

function refusing(copying: Copying, condition: string): string[] {
  const { own, fixed, refusal } = copying
  if (!fixed) return []
  return [`${condition} NOT (NEW.${own} <=> ${given(copying)}) THEN`, `  ${signal(refusal)};`]
}

function whereMade(copying: Copying): string {
  const { own } = copying
  return [
    `IF NEW.${own} IS NULL THEN`,
    `  SET NEW.${own} = ${given(copying)};`,
    ...refusing(copying, 'ELSEIF'),
    'END IF'
  ].join('\n')
}

function whereChanged(copying: Copying): string {
  const { own, by, again } = copying
  if (!again) return [...refusing(copying, `IF NOT (NEW.${own} <=> OLD.${own}) AND`), 'END IF'].join('\n')
  const isSame = by.map((column) => `NEW.${column} <=> OLD.${column}`).join(' AND ')
  return [
    `IF NEW.${own} <=> OLD.${own} THEN`,
    `  IF NOT (${isSame}) THEN SET NEW.${own} = ${given(copying)}; END IF;`,
    ...refusing(copying, 'ELSEIF'),
    'END IF'
  ].join('\n')
}

/** What triggers for one column do, as ./read.ts reads it back: what they are called, what runs them, their bodies. */
export const sayTriggerRead = (table: CatalogTable, trigger: CatalogTrigger, tables: Tables): string[] =>
  bodiesOf(table, trigger, tables).map(
    ([event, body]) => `${nameOf(trigger, event)} BEFORE ${event}\n${body}`
  )
