import { fold } from '../design/directory.ts'
import { newId, type Column, type Design, type StandingColumn, type Table } from '../design/model.ts'
import type { Operation } from '../edit/operation.ts'
import { freeName } from '../naming/names.ts'
import { isJunction } from './junction.ts'

/** What every table begins with: as columns of a new one, and for those that are there. */

/** @param taken names that the table has already, to which these are added */
export const standingColumns = (list: readonly StandingColumn[], taken: string[] = []): Column[] =>
  list.map((each) => {
    const name = freeName(each.name, taken)
    taken.push(name)
    return { ...each, name, id: newId('c') }
  })

/** A table that is without some of what tables begin with. */
export interface Lacking {
  table: Table
  columns: StandingColumn[]
}

/** The tables that lack something of it, by the names of their columns. Another system's are left alone. */
export function lackingStanding({ tables, standing }: Pick<Design, 'tables' | 'standing'>): Lacking[] {
  if (!standing) return []
  return tables.flatMap((table) => {
    if (table.external) return []
    const has = new Set(table.columns.map(({ name }) => fold(name)))
    const wanted = isJunction(table) ? standing.junctions : standing.tables
    const columns = wanted.filter(({ name }) => !has.has(fold(name)))
    return columns.length > 0 ? [{ table, columns }] : []
  })
}

/** What gives tables that are there what they lack. */
export const giveStanding = (lacking: readonly Lacking[]): Operation => ({
  kind: 'batch',
  label: 'give tables what every table begins with',
  operations: lacking.flatMap(({ table, columns }) =>
    standingColumns(columns).map((column): Operation => ({ kind: 'column.add', table: table.id, column }))
  )
})
