import { policyOf } from '../../design/directory.ts'
import { proposeKey } from '../../relate/keys.ts'
import type { Rule } from '../finding.ts'

/** Rows that nothing tells apart cannot be referred to, found again, or changed one at a time. */
export const noPrimaryKey: Rule = {
  name: 'no primary key',
  find: (table, { ask }) => {
    if (table.primaryKey) return []
    const { says, operation } = proposeKey(table, ask(policyOf))
    return [
      {
        severity: 'wrong',
        message: `${table.name} has no primary key: its rows cannot be told apart or referred to.`,
        fix: { label: says, operation }
      }
    ]
  }
}
