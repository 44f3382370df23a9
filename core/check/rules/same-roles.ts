import { columnOf, tableOf } from '../../design/directory.ts'
import type { ForeignKey, Table } from '../../design/model.ts'
import type { Operation } from '../../edit/operation.ts'
import { once } from '../../once.ts'
import { roleIn, roleVerbs } from '../../relate/role.ts'
import type { Rule } from '../finding.ts'

/** Several relationships of the same two tables that read alike: nothing says which is which. */
export const sameRoles: Rule = {
  name: 'several relationships without roles',
  find: (table, { ask }) =>
    alike(table).map((keys) => {
      const [first] = keys as [ForeignKey]
      const other = ask(tableOf, first.table)
      const operations = keys.flatMap((key) => (other ? named(table, other, key) : []))
      const label = `Name them after their columns`
      return {
        severity: 'doubtful' as const,
        column: first.pairs[0]?.column as string,
        message: `${table.name} refers to ${other?.name ?? 'a table'} ${keys.length === 2 ? 'twice' : `${keys.length} times`}, and the sentences do not say which is which.`,
        ...(operations.length > 0 && {
          fix: {
            label,
            operation: {
              kind: 'batch' as const,
              label: `say which relationship of ${table.name} is which`,
              operations
            }
          }
        })
      }
    })
}

/** The references to one table that say the same of it. */
const alike = once((table: Table): ForeignKey[][] => {
  const groups = new Map<string, ForeignKey[]>()
  for (const key of table.foreignKeys) {
    const said = `${key.table} ${key.verbs?.child ?? ''}`
    groups.set(said, [...(groups.get(said) ?? []), key])
  }
  return [...groups.values()].filter((keys) => keys.length > 1)
})

/** That a reference reads as its column says what is referred to: `other_species_code` is the other one. */
function named(table: Table, other: Table, { id, pairs: [pair] }: ForeignKey): Operation[] {
  const [column, referred] = [pair && columnOf(table, pair.column), pair && columnOf(other, pair.refersTo)]
  const role = column && referred && roleIn(column.name, other, referred.name)
  if (role === undefined) return []
  return [{ kind: 'foreignKey.setVerbs', table: table.id, foreignKey: id, verbs: roleVerbs(role) }]
}
