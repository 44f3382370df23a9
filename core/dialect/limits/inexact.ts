import type { LimitRemark } from '../remark.ts'
import type { Limit } from './limit.ts'

/** Numbers of which the engine keeps fewer digits than they may have. */
export const inexact: Limit = ({ table, facts, words }) =>
  table.columns.flatMap((column): LimitRemark[] => {
    const { inexact: digits } = words(table, column)
    if (digits === undefined) return []
    return [
      {
        rule: 'digits that are lost',
        weight: 'wrong',
        column: column.id,
        message: `${table.name}.${column.name} may have more digits than ${facts.title} keeps, which is ${digits}: of a longer number the last ones are lost.`
      }
    ]
  })
