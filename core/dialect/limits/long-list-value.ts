import { byId } from '../../design/by-id.ts'
import { nameLength } from '../../naming/fit.ts'
import type { LimitRemark } from '../remark.ts'
import type { Limit } from './limit.ts'

/** Lists with values that are longer than the engine takes. */
export const longListValue: Limit = ({ table, design, facts }) => {
  const most = facts.texts?.listValueBytes
  if (most === undefined) return []
  return table.columns.flatMap(({ id, type }): LimitRemark[] => {
    const list = type.kind === 'enum' ? byId(design.enums).get(type.enum) : undefined
    const long = list?.values.find((value) => nameLength(value, 'bytes') > most)
    if (!list || long === undefined) return []
    return [
      {
        rule: 'long value of a list',
        weight: 'refused',
        column: id,
        message: `${facts.title} takes ${most} bytes of a value of a list, and “${long.slice(0, 20)}…” of ${list.name} has ${nameLength(long, 'bytes')}.`
      }
    ]
  })
}
