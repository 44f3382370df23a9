import { columnOf, tableOf } from '../../design/directory.ts'
import type { Column, ForeignKey, Table } from '../../design/model.ts'
import { sameType, typeText } from '../../design/type.ts'
import type { LimitRemark } from '../remark.ts'
import type { LimitContext, Limit } from './limit.ts'

/** References between types that an engine does not compare, or not as values. */
export const referenceTypes: Limit = (asked) =>
  asked.table.foreignKeys.flatMap((key) => key.pairs.flatMap((pair) => told(asked, key, pair)))

function told(asked: LimitContext, key: ForeignKey, pair: ForeignKey['pairs'][number]): LimitRemark[] {
  const { table, design, facts, words } = asked
  const parent = tableOf(design, key.table)
  const [from, to] = [columnOf(table, pair.column), parent && columnOf(parent, pair.refersTo)]
  if (!parent || !from || !to) return []
  const written = (of: Table, column: Column): { type: Column['type']; sql: string } => ({
    type: column.type,
    sql: words(of, column).sql
  })
  const outcome = facts.references.types(written(table, from), written(parent, to), design.enums)
  if (outcome === 'taken') return []
  const [own, its] = [from, to].map(({ type }) => typeText(type, design.enums)) as [string, string]
  const differs = own === its ? '' : ` (${own} to ${its})`
  const reference = `${from.name} of ${table.name} refers to ${to.name} of ${parent.name}, which is of another type`
  const becomes =
    outcome === 'refused'
      ? `${facts.title} refuses the reference.`
      : `${facts.title} compares what is kept, not what it means, so that rows refer to others than they say.`
  return [
    {
      rule: 'reference between types',
      weight: outcome === 'refused' ? 'refused' : 'wrong',
      column: from.id,
      message: `${reference}${differs}: ${becomes}`,
      fix:
        sameType(from.type, to.type) || from.computed !== undefined ? undefined : mended(table, from, to, its)
    }
  ]
}

function mended(table: Table, from: Column, to: Column, its: string): NonNullable<LimitRemark['fix']> {
  return {
    label: `Make ${from.name} ${its}`,
    operation: { kind: 'column.retype', table: table.id, column: from.id, type: to.type }
  }
}
