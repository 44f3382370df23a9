import type { CatalogTable, CatalogTrigger, Statement, Tables } from '../catalog.ts'
import { fitName } from '../../naming/fit.ts'
import { qualify, schemaOf } from '../qualified.ts'
import { copyingOf, keyOfRow, sayTrigger, valueOf, type Copying } from '../trigger.ts'
import { nameOfColumn } from '../written.ts'
import { quote, quoteText } from './types.ts'
import { tableIn } from '../sql-words.ts'

/**
 * Triggers for all rows of a statement, after they are written (Transact-SQL, "CREATE TRIGGER"): what is required is
 * looked at before that. What they write runs them again, which UPDATE() tells: it is true of what a statement sets.
 * Rows are known by their key.
 */
const LIMIT = { most: 128, of: 'characters' } as const

/** Both are the same, or both are empty, whatever the type (Transact-SQL, "INTERSECT"). */
const isSame = (one: string, other: string): string => `EXISTS (SELECT ${one} INTERSECT SELECT ${other})`

const PARTS = { INSERT: 'made', UPDATE: 'changed' } as const
type Event = keyof typeof PARTS

export function createTrigger(table: CatalogTable, trigger: CatalogTrigger, tables: Tables): Statement[] {
  return bodiesOf(table, trigger, tables).map(([event, lines]) => {
    const on = tableIn({ quote }, table.name)
    const body = lines.map((line) => `\n  ${line};`).join('')
    const sql = `CREATE TRIGGER ${place(table, trigger, event)} ON ${on} AFTER ${event} AS\nBEGIN\n  SET NOCOUNT ON;${body}\nEND`
    // It must be alone in its batch.
    return { sql: `EXEC(${quoteText(sql)})`, says: sayTrigger(table, trigger) }
  })
}

export const dropTrigger = (table: CatalogTable, trigger: CatalogTrigger): Statement[] =>
  eventsOf(trigger).map((event) => ({
    sql: `DROP TRIGGER ${place(table, trigger, event)}`,
    says: `no longer ${sayTrigger(table, trigger)}`
  }))

const place = (table: CatalogTable, { name }: CatalogTrigger, event: Event): string =>
  tableIn({ quote }, qualify(schemaOf(table.name), fitName(`${name}_${PARTS[event]}`, LIMIT)))

function eventsOf({ does }: CatalogTrigger): Event[] {
  if (does.kind !== 'copies') return ['UPDATE']
  const { fills, again, fixed } = does
  return [...(fills || fixed ? ['INSERT' as const] : []), ...(again || fixed ? ['UPDATE' as const] : [])]
}

function bodiesOf(table: CatalogTable, trigger: CatalogTrigger, tables: Tables): [Event, string[]][] {
  const own = quote(nameOfColumn(table, trigger.column))
  const copying = copyingOf(table, trigger, tables, { quote })
  const key = keyOfRow(table, { quote })
  const on = (one: string, other: string): string =>
    key.map((column) => `${one}.${column} = ${other}.${column}`).join(' AND ')
  const set = (value: string, from: string): string =>
    `UPDATE own SET ${own} = ${value} FROM ${tableIn({ quote }, table.name)} own JOIN inserted written ON ${on('own', 'written')}${from}`
  const { does } = trigger
  if (!copying)
    return [['UPDATE', [`IF NOT UPDATE(${own}) ${set(does.kind === 'renews' ? does.now : own, '')}`]]]
  const was = ` JOIN deleted was ON ${on('was', 'written')}`
  const lines: Record<Event, string[]> = {
    INSERT: whereMade(copying, set),
    UPDATE: whereChanged(copying, set, was)
  }
  return eventsOf(trigger).map((event) => [event, lines[event]])
}

type Set = (value: string, from: string) => string

const given = (copying: Copying): string => valueOf(copying, 'written.')

const refusing = (copying: Copying, from: string, where: string): string =>
  `IF EXISTS (SELECT 1 FROM inserted written${from} WHERE ${where} AND NOT ${isSame(`written.${copying.own}`, given(copying))}) BEGIN; THROW 50000, ${quoteText(copying.refusal)}, 1; END`

function whereMade(copying: Copying, set: Set): string[] {
  const { own, fills, fixed } = copying
  return [
    ...(fixed ? [refusing(copying, '', `written.${own} IS NOT NULL`)] : []),
    ...(fills ? [set(given(copying), ` WHERE written.${own} IS NULL`)] : [])
  ]
}

function whereChanged(copying: Copying, set: Set, was: string): string[] {
  const { own, by, again, fixed } = copying
  const isKept = isSame(`written.${own}`, `was.${own}`)
  const refersToSame = by.map((column) => isSame(`written.${column}`, `was.${column}`)).join(' AND ')
  return [
    ...(fixed ? [`IF UPDATE(${own}) ${refusing(copying, was, `NOT ${isKept}`)}`] : []),
    ...(again
      ? [
          `IF ${by.map((column) => `UPDATE(${column})`).join(' OR ')} ${set(given(copying), `${was} WHERE ${isKept} AND NOT (${refersToSame})`)}`
        ]
      : [])
  ]
}
