import { columnsIn, fold, tableOf } from '../../design/directory.ts'
import type { ForeignKey, Table } from '../../design/model.ts'
import type { Operation } from '../../edit/operation.ts'
import { wordsOf } from '../../naming/names.ts'
import { once } from '../../once.ts'
import type { Rule } from '../finding.ts'

/** Several relationships of the same two tables that read alike: nothing says which is which. */
export const sameRoles: Rule = {
  name: 'several relationships without roles',
  others: (design, table) =>
    alike(table)
      .map(([first]) => tableOf(design, first?.table ?? '')?.name)
      .join(' '),
  find: (table, { design }) =>
    alike(table).map((keys) => {
      const [first] = keys as [ForeignKey]
      const other = tableOf(design, first.table)
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

/** What a reference's columns say beside what they refer to: `other_species_code` is the other one. */
function named(table: Table, other: Table, key: ForeignKey): Operation[] {
  const referred = new Set(
    [
      other.name,
      ...columnsIn(
        other,
        key.pairs.map(({ refersTo }) => refersTo)
      ).map(({ name }) => name)
    ].flatMap((name) => wordsOf(fold(name)))
  )
  const [column] = columnsIn(
    table,
    key.pairs.map(({ column: id }) => id)
  )
  const role = wordsOf(fold(column?.name ?? '')).filter((word) => !referred.has(word))
  if (role.length === 0) return []
  const said = role.join(' ')
  return [
    {
      kind: 'foreignKey.setVerbs',
      table: table.id,
      foreignKey: key.id,
      verbs: { child: `has as ${said}`.slice(0, 60), parent: `is ${said} of`.slice(0, 60) }
    }
  ]
}
