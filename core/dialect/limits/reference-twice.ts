import { columnsIn, tableOf } from '../../design/directory.ts'
import type { ForeignKey } from '../../design/model.ts'
import type { LimitRemark } from '../remark.ts'
import type { Limit } from './limit.ts'

/** References of the same columns to the same of another table, where an engine takes one of them. */
export const referenceTwice: Limit = ({ table, made, design, facts }) => {
  if (facts.sameReferenceTwice) return []
  const taken = new Map<string, ForeignKey[]>()
  for (const { id, table: referred, columns, refersTo } of made.foreignKeys) {
    const own = table.foreignKeys.find((each) => each.id === id)
    const places = JSON.stringify([referred, columns.map((column, at) => [column, refersTo[at]]).sort()])
    if (own) taken.set(places, [...(taken.get(places) ?? []), own])
  }
  return [...taken.values()].flatMap(([first, ...others]): LimitRemark[] => {
    if (!first || others.length === 0) return []
    const own = columnsIn(
      table,
      first.pairs.map(({ column }) => column)
    )
    const parent = tableOf(design, first.table)?.name ?? first.table
    const names = own.map(({ name }) => name).join(', ')
    return [
      {
        rule: 'reference that is there already',
        weight: 'refused',
        column: own[0]?.id,
        message: `${facts.title} takes one reference of ${names} of ${table.name} to ${parent}, and there are ${others.length + 1}.`,
        fix: {
          label: 'Keep the first of them',
          operation: {
            kind: 'batch',
            label: `keep one reference of ${names} to ${parent}`,
            operations: others.map(({ id }) => ({
              kind: 'foreignKey.remove' as const,
              table: table.id,
              foreignKey: id
            }))
          }
        }
      }
    ]
  })
}
