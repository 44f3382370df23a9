import { columnsIn } from '../../design/directory.ts'
import type { CatalogIndex } from '../catalog.ts'
import type { LimitRemark } from '../remark.ts'
import type { Limit } from './limit.ts'

/** Indexes on the columns of a key or of another index, where an engine takes one on each list of columns. */
export const indexTwice: Limit = ({ table, made, facts }) => {
  if (facts.sameIndexTwice) return []
  const { primaryKey, uniques, indexes } = made
  const taken = new Set(
    [...(primaryKey ? [primaryKey] : []), ...uniques].map(({ columns }) => columns.join(' '))
  )
  const again = new Map<string, CatalogIndex[]>()
  for (const index of indexes) {
    const places = placesOf(index)
    if (taken.has(places)) again.set(places, [...(again.get(places) ?? []), index])
    taken.add(places)
  }
  return [...again.values()].map((idle): LimitRemark => {
    const columns = idle[0]?.columns ?? []
    const down = idle[0]?.descending ?? []
    const names = columnsIn(table, columns).map(({ name }, at) => (down[at] ? `${name} downwards` : name))
    const own = table.indexes.filter(({ id }) => idle.some((index) => index.id === id))
    return {
      rule: 'index that is there already',
      weight: 'refused',
      column: columns[0],
      message: `${facts.title} takes one index on ${names.join(', ')} of ${table.name}, and there is one already.`,
      fix:
        own.length === 0
          ? undefined
          : {
              label: 'Remove it',
              operation: {
                kind: 'batch',
                label: `remove the index on ${names.join(', ')}`,
                operations: own.map(({ id }) => ({
                  kind: 'index.remove' as const,
                  table: table.id,
                  index: id
                }))
              }
            }
    }
  })
}

/** An index that runs downwards is on something else. */
const placesOf = ({ columns, descending }: CatalogIndex): string =>
  columns.map((id, at) => (descending[at] ? `${id} down` : id)).join(' ')
