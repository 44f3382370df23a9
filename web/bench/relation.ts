import { columnsIn } from '../../core/design/directory.ts'
import type { Action, Design, Table } from '../../core/design/model.ts'
import { apply, type ApplyResult } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { rowLabel } from '../../core/rows/label.ts'

/** How many of the other side a row of one side has. */
export type HowMany = 'exactly one' | 'at most one' | 'any number of'
export const HOW_MANY: HowMany[] = ['any number of', 'at most one', 'exactly one']

/** What an operation would come to, before it is done. */
export function tryOut(design: Design, operation: Operation | undefined): ApplyResult | undefined {
  return operation && apply(design, operation)
}

/** Some pairs of rows as a junction would hold them, in words; none where a side has no rows. */
export function pairPreview(design: Design, first: Table, second: Table): string[] {
  const count = Math.min(3, first.rows.length * second.rows.length)
  return Array.from({ length: count }, (_, at) => {
    const left = first.rows[Math.floor(at / 2) % first.rows.length]
    const right = second.rows[at % second.rows.length]
    return left && right ? `${rowLabel(design, first, left)} · ${rowLabel(design, second, right)}` : ''
  }).filter(Boolean)
}

/** Which table gets the foreign key when at most one side is many. */
export function childSide(first: HowMany, second: HowMany): 'first' | 'second' {
  if (first === 'any number of') return 'second'
  if (second === 'any number of') return 'first'
  // One of each: the row that cannot be without the other holds the key.
  return first === 'exactly one' ? 'first' : second === 'exactly one' ? 'second' : 'first'
}

/** The names of a table's key columns. */
export function keyNames(table: Table): string[] {
  return columnsIn(table, table.primaryKey?.columns ?? []).map((column) => column.name)
}

/** What deletes may do on a junction's side: its columns are required, so nothing can be emptied. */
export const JUNCTION_ACTIONS: Action[] = ['CASCADE', 'RESTRICT', 'NO ACTION']
