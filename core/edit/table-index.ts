import { indexSchema, type Index, type Table } from '../design/model.ts'
import { checkName, needColumn } from './handler.ts'
import { handledInTable, inTable } from './member.ts'
import { noun, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'

/** Indexes: what rows of a table are found by. */

const KINDS = inTable('index', indexSchema, {
  add: (_, called, table) => `add an index to ${called.table(table)}`,
  change: (_, called, table) => `change an index of ${called.table(table)}`,
  remove: (called, table) => `remove an index of ${called.table(table)}`
})

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

function check(table: Table, { name, columns }: Index): void {
  const where = { table: table.id }
  if (name !== undefined) checkName(name, where)
  if (columns.length === 0) throw new Refused('invalid', 'An index needs a column.', where)
  columns.forEach(({ column }) => needColumn(table, column))
  if (new Set(columns.map(({ column }) => column)).size < columns.length)
    throw new Refused('invalid', 'An index names a column once.', where)
}

export const INDEX = noun(KINDS, handledInTable('index', { check }))
