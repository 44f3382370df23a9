import { checkSchema } from '../design/model.ts'
import { checkName } from './handler.ts'
import { handledInTable, inTable } from './member.ts'
import { noun, type OperationsOf } from './operation.ts'

/** Checks: what each row of a table is held to. */

const KINDS = inTable('check', checkSchema, {
  add: (_, called, table) => `add a check to ${called.table(table)}`,
  change: (_, called, table) => `change a check of ${called.table(table)}`,
  remove: (called, table) => `remove a check of ${called.table(table)}`
})

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

export const CHECK = noun(
  KINDS,
  handledInTable('check', {
    check: (table, { name }) => {
      if (name !== undefined) checkName(name, { table: table.id })
    }
  })
)
