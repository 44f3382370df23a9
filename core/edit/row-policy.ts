import { mayWrite, rowPolicySchema, type RowPolicy, type Table } from '../design/model.ts'
import { checkName } from './handler.ts'
import { handledInTable, inTable } from './member.ts'
import { noun, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'

/** Row policies: which rows of a table a role sees and writes. */

const KINDS = inTable('rowPolicy', rowPolicySchema, {
  add: (_, called, table) => `add a row policy to ${called.table(table)}`,
  change: (_, called, table) => `change a row policy of ${called.table(table)}`,
  remove: (called, table) => `remove a row policy of ${called.table(table)}`
})

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

function check(table: Table, policy: RowPolicy): void {
  const where = { table: table.id }
  checkName(policy.name, where)
  const isSame = (each: RowPolicy): boolean => each.name.toLowerCase() === policy.name.toLowerCase()
  if (table.rowPolicies.some((each) => each.id !== policy.id && isSame(each)))
    throw new Refused('name-taken', `${table.name} already has a row policy called ${policy.name}.`, where)
  if (policy.writes !== undefined && !mayWrite(policy))
    throw new Refused(
      'does-not-fit',
      `A row policy for ${policy.command.toLowerCase()} has one condition: only one for update or all says which rows it may leave behind.`,
      where
    )
}

export const ROW_POLICY = noun(KINDS, handledInTable('rowPolicy', { called: 'row policy', check }))
