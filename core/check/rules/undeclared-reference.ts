import { columnsIn, enumsOf, policyOf } from '../../design/directory.ts'
import type { Column } from '../../design/model.ts'
import { sameType, typeText } from '../../design/type.ts'
import { declareReference } from '../../relate/keys.ts'
import { candidatesIn, lookalikesAmong } from '../../relate/lookalike.ts'
import type { Rule } from '../finding.ts'

/** A column that looks like a reference and is not declared: rows that point at nothing build up unseen. */
export const undeclaredReference: Rule = {
  name: 'undeclared reference',
  find: (table, { ask }) =>
    lookalikesAmong(table, ask(candidatesIn), ask(policyOf)).map(({ column, parent, own }) => {
      const names = own.map((each) => each.name).join(', ')
      const differs = columnsIn(parent, parent.primaryKey?.columns ?? []).find(
        (key, at) => !sameType(key.type, (own[at] as Column).type)
      )
      return {
        severity: 'wrong' as const,
        column: column.id,
        message: `${names} ${own.length === 1 ? 'looks' : 'look'} like a reference to ${parent.name}, but nothing holds ${own.length === 1 ? 'it' : 'them'} to it${differs ? `, and the type is not that of its key (${typeText(differs.type, ask(enumsOf))})` : ''}.`,
        fix: { label: `Refer to ${parent.name}`, operation: declareReference(table, parent, own) }
      }
    })
}
