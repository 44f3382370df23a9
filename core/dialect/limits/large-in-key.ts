import { columnsIn } from '../../design/directory.ts'
import type { Column } from '../../design/model.ts'
import type { LimitRemark } from '../remark.ts'
import type { LimitContext, Limit } from './limit.ts'

/** Columns of types that an engine takes into no key or index, or into none that is unique. */
export const largeInKey: Limit = (asked) => {
  const { made, facts } = asked
  const refused = facts.key?.refusesTypes
  if (!refused) return []
  const { primaryKey, uniques, indexes } = made
  const unique = [...(primaryKey ? [primaryKey] : []), ...uniques, ...indexes.filter((each) => each.unique)]
  const all = [...unique, ...indexes]
  return [
    ...found(asked, all, refused.any, 'key or index'),
    ...(refused.unique ? found(asked, unique, refused.unique, 'key that is unique') : [])
  ]
}

function found(
  { table, facts, words }: LimitContext,
  keys: readonly { columns: readonly string[] }[],
  types: RegExp,
  place: string
): LimitRemark[] {
  const ids = [...new Set(keys.flatMap(({ columns }) => columns))]
  const refused = columnsIn(table, ids).filter((column) => types.test(words(table, column).sql))
  return refused.map((column: Column) => ({
    rule: 'type that stands in no key',
    weight: 'refused',
    column: column.id,
    message: `${column.name} of ${table.name} is written as ${words(table, column).sql}, which ${facts.title} takes into no ${place}.`
  }))
}
