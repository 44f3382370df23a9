import { columnsIn } from '../../design/directory.ts'
import type { Action, ForeignKey } from '../../design/model.ts'
import type { LimitRemark } from '../remark.ts'
import type { LimitContext, Limit } from './limit.ts'
import { refusing } from './refusing.ts'

/** Actions that would put another value into a column that is computed, and so has the one it has. */
export const changedComputed: Limit = (asked) => asked.table.foreignKeys.flatMap((key) => told(asked, key))

const CHANGES: Record<'onDelete' | 'onUpdate', readonly Action[]> = {
  onDelete: ['SET NULL', 'SET DEFAULT'],
  onUpdate: ['CASCADE', 'SET NULL', 'SET DEFAULT']
}

function told({ table, made, facts }: LimitContext, key: ForeignKey): LimitRemark[] {
  const own = columnsIn(
    table,
    key.pairs.map((pair) => pair.column)
  )
  const computed = own.filter((column) => column.computed !== undefined)
  const [first] = computed
  const written = made.foreignKeys.find(({ id }) => id === key.id)
  if (!first || !written) return []
  const acting = (['onDelete', 'onUpdate'] as const).filter((on) => CHANGES[on].includes(written[on]))
  if (acting.length === 0) return []
  const changing = (['delete', 'update'] as const).filter((on) => {
    const action = on === 'delete' ? 'onDelete' : 'onUpdate'
    return CHANGES[action].includes(key[action])
  })
  const names = computed.map(({ name }) => name).join(', ')
  const said = acting.map((on) => `${written[on]} on ${on === 'onDelete' ? 'delete' : 'update'}`)
  const refused = facts.references.changingComputed === 'table'
  return [
    {
      rule: 'computed, and to be changed',
      weight: refused ? 'refused' : 'wrong',
      column: first.id,
      message: `${names} of ${table.name} ${computed.length > 1 ? 'are' : 'is'} computed, and ${said.join(' and ')} would put something else there: ${facts.title} ${refused ? 'refuses the reference' : 'refuses each row that it would do so to'}.`,
      fix: { label: 'Refuse it instead', operation: refusing(table.id, key, changing) }
    }
  ]
}
