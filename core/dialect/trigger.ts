import { byId } from '../design/by-id.ts'
import type { CatalogTable, CatalogTrigger, Tables, Does } from './catalog.ts'
import { sayTable } from './qualified.ts'
import { nameOfColumn } from './written.ts'
import { tableIn, type Words } from './sql-words.ts'

/** What sees to a column in a dialect: the column itself, a trigger, or nothing, and why not. */
export type Keeping =
  { by: 'column'; now: string } | { by: 'trigger'; does: Does } | { by: 'nothing'; why: string }

/** A trigger that copies, with all that it names as it is written. */
export interface Copying {
  /** The column that gets the value, and those that refer. */
  own: string
  by: string[]
  again: boolean
  fixed: boolean
  fills: boolean
  /** What is taken of the row referred to, and where that is found; `row`: what comes before the columns that refer. */
  takes: string
  source(row: string): string
  /** What is said to whoever gives something else. */
  refusal: string
}

/** What a trigger names, as it is written; nothing where it does something else. */
export function copyingOf(
  table: CatalogTable,
  { column, does }: CatalogTrigger,
  tables: Tables,
  words: Pick<Words, 'quote'>
): Copying | undefined {
  if (does.kind !== 'copies') return undefined
  const { quote } = words
  const referred = tables.get(does.table) ?? table
  const name = (id: string): string => quote(nameOfColumn(table, id))
  const there = (id: string): string => `one.${quote(nameOfColumn(referred, id))}`
  const by = does.by.map(name)
  const isIt = (row: string): string =>
    does.refersTo.map((id, at) => `${there(id)} = ${row}${by[at]}`).join(' AND ')
  return {
    own: name(column),
    by,
    again: does.again,
    fixed: does.fixed,
    fills: does.fills,
    takes: there(does.takes),
    source: (row) => `${tableIn(words, referred.name)} one WHERE ${isIt(row)}`,
    refusal: `${sayTable(table.name)}.${nameOfColumn(table, column)} is copied from ${sayTable(referred.name)}.${nameOfColumn(referred, does.takes)} and can be nothing else`
  }
}

/** What the row referred to holds, as a value. */
export const valueOf = ({ takes, source }: Copying, row: string): string =>
  `(SELECT ${takes} FROM ${source(row)})`

/** What a trigger is for, in a few words. */
export function sayTrigger(table: CatalogTable, { column, does }: CatalogTrigger): string {
  const place = `${sayTable(table.name)}.${nameOfColumn(table, column)}`
  return does.kind === 'copies' ? `copy ${place}` : `renew ${place} with each change of its row`
}

/** The columns of a table's key as they are written; nothing where it has none. */
export function keyOfRow(table: CatalogTable, { quote }: Pick<Words, 'quote'>): string[] {
  const columns = byId(table.columns)
  return (table.primaryKey?.columns ?? []).flatMap((id) => {
    const column = columns.get(id)
    return column ? [quote(column.name)] : []
  })
}
