import { rowSecurityOf } from '../../design/model.ts'
import { titles, type Rule } from '../finding.ts'

/**
 * Row security that is on where no policy lets anybody read, and policies that stand where it is off (PostgreSQL
 * manual, 5.9: without a policy nothing is seen, and policies do nothing until it is switched on).
 */
export const rowSecurity: Rule = {
  name: 'row security',
  find: (table, { dialects }) => {
    const having = dialects.filter(({ facts }) => facts.rowPolicies)
    if (having.length === 0) return []
    const security = rowSecurityOf(table)
    const { rowPolicies } = table
    const about = { severity: 'wrong' as const, dialects: having.map(({ name }) => name) }
    const setTo = (label: string, wanted: 'on' | 'off'): { label: string; operation: SetSecurity } => ({
      label,
      operation: { kind: 'table.setRowSecurity', table: table.id, security: wanted }
    })
    if (security === 'off')
      return rowPolicies.length === 0
        ? []
        : [
            {
              ...about,
              message: `Rows of ${table.name} are held to no row policies, so ${rowPolicies.map(({ name }) => name).join(', ')} ${rowPolicies.length > 1 ? 'do' : 'does'} nothing.`,
              fix: setTo('Hold rows to row policies', 'on')
            }
          ]
    const isRead = rowPolicies.some(({ command }) => command === 'SELECT' || command === 'ALL')
    if (isRead) return []
    const who = security === 'forced' ? 'Nobody' : 'Nobody but its owner'
    return [
      {
        ...about,
        message: `${who} sees a row of ${table.name} in ${titles(having)}: rows are held to row policies, and none is for select.`,
        fix: setTo('Hold rows to no row policies', 'off')
      }
    ]
  }
}

interface SetSecurity {
  kind: 'table.setRowSecurity'
  table: string
  security: 'on' | 'off'
}
