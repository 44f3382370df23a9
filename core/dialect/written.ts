import { byId } from '../design/by-id.ts'

/** SQL in which columns stand by their ids, so that a rename changes nothing in it. */
export type Written = readonly (string | Mention)[]

/** A column that is named, by its id. */
export interface Mention {
  column: string
}

/** Stands around an id while a text is put together; no name and no text of a design has it in it. */
const MARK = '\u0000'

/** What is printed with a name for each column, kept with the columns themselves. */
export function written(print: (name: (id: string) => string) => string): Written {
  return print((id) => MARK + id + MARK)
    .split(MARK)
    .map((part, at) => (at % 2 === 1 ? { column: part } : part))
    .filter((part) => part !== '')
}

/** The text, with columns called as is said. */
export function plainSql(sql: Written, name: (id: string) => string): string {
  return sql.map((part) => (typeof part === 'string' ? part : name(part.column))).join('')
}

/** The ids of the columns that are named. */
export function columnsIn(sql: Written): string[] {
  return sql.flatMap((part) => (typeof part === 'string' ? [] : [part.column]))
}

/** Whether both say the same. */
export function sameWritten(one: Written | undefined, other: Written | undefined): boolean {
  return one === other || JSON.stringify(one) === JSON.stringify(other)
}

/** What a column of a table is called; its id where there is none. */
export function nameOfColumn(
  table: { columns: readonly { id: string; name: string }[] },
  id: string
): string {
  return byId(table.columns).get(id)?.name ?? id
}
