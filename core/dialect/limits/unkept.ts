import type { Column } from '../../design/model.ts'
import type { LimitRemark } from '../remark.ts'
import type { LimitContext, Limit } from './limit.ts'

/** Columns that the database was to renew or to copy, where it does not, or not with every row. */
export const unkept: Limit = (asked) => asked.table.columns.flatMap((column) => told(asked, column) ?? [])

function told(asked: LimitContext, column: Column): LimitRemark | undefined {
  const { table, facts } = asked
  const keeping = asked.keeping(column)
  const place = `${table.name}.${column.name}`
  if (keeping?.by === 'nothing')
    return {
      rule: column.renewed ? 'moment that nothing renews' : 'value that nothing copies',
      weight: 'wrong',
      column: column.id,
      message: `${place} is ${column.renewed ? 'renewed' : 'copied'} by nothing in ${facts.title}: ${keeping.why}. Whatever writes a row has to see to it.`,
      fix: leaveToApplication(asked, column)
    }
  const isLate = keeping?.by === 'trigger' && keeping.does.kind === 'copies' && !keeping.does.fills
  if (!isLate) return undefined
  return {
    rule: 'value that is asked for first',
    weight: 'doubtful',
    column: column.id,
    message: `${facts.title} asks for ${place}, which is required, before a trigger can copy it: whoever makes a row has to give it there.`,
    fix: {
      label: 'Let it be empty',
      operation: { kind: 'column.require', table: table.id, column: column.id, required: false }
    }
  }
}

function leaveToApplication({ table }: LimitContext, { id, renewed, copied }: Column): LimitRemark['fix'] {
  const where = { table: table.id, column: id }
  const label = 'Leave it to the application'
  if (renewed) return { label, operation: { kind: 'column.renew', ...where, renewed: 'application' } }
  if (!copied) return undefined
  const { byTrigger: _, ...plain } = copied
  return { label, operation: { kind: 'column.copy', ...where, copied: plain } }
}
