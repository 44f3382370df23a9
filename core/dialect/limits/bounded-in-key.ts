import type { Column } from '../../design/model.ts'
import type { LimitRemark } from '../remark.ts'
import type { Limit } from './limit.ts'

/** Texts without a length that stand in a key or an index, where an engine needs one. */
export const boundedInKey: Limit = ({ table, facts, words }) =>
  table.columns.flatMap((column): LimitRemark[] => {
    const { atMost } = words(table, column)
    if (atMost === undefined) return []
    const unit = column.type.kind === 'binary' ? 'bytes' : 'characters'
    return [
      {
        rule: 'bounded in a key',
        weight: 'doubtful',
        column: column.id,
        message: `${column.name} of ${table.name} has no length, and stands in a key or an index: ${facts.title} takes ${atMost.toLocaleString('en')} ${unit} of it at the most.`,
        fix: bounded(table.id, column, atMost)
      }
    ]
  })

function bounded(table: string, { id, name, type }: Column, length: number): LimitRemark['fix'] {
  if (type.kind !== 'text' && type.kind !== 'binary') return undefined
  return {
    label: `Make ${name} ${type.kind}(${length})`,
    operation: { kind: 'column.retype', table, column: id, type: { ...type, length } }
  }
}
