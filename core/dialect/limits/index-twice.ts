import { columnsIn } from '../../design/directory.ts'
import type { CatalogIndex } from '../catalog.ts'
import type { Told } from '../remark.ts'
import type { Limit } from './limit.ts'

/** Indexes on the columns of a key or of another index, where an engine takes one on each list of columns. */
export const indexTwice: Limit = ({ table, made, facts }) => {
  if (facts.sameIndexTwice) return []
  const { primaryKey, uniques, indexes } = made
  const taken = new Set(
    [...(primaryKey ? [primaryKey] : []), ...uniques].map(({ columns }) => columns.join(' '))
  )
  return indexes.flatMap((index): Told[] => {
    const places = placesOf(index)
    if (!taken.has(places)) {
      taken.add(places)
      return []
    }
    const names = columnsIn(table, index.columns).map(({ name }) => name)
    const own = table.indexes.find(({ id }) => id === index.id)
    return [
      {
        rule: 'index that is there already',
        weight: 'refused',
        column: index.columns[0],
        message: `${facts.title} takes one index on ${names.join(', ')} of ${table.name}, and there is one already.`,
        fix: own && {
          label: 'Remove it',
          operation: { kind: 'index.remove', table: table.id, index: own.id }
        }
      }
    ]
  })
}

/** An index that runs downwards is on something else. */
const placesOf = ({ columns, descending }: CatalogIndex): string =>
  columns.map((id, at) => (descending[at] ? `${id} down` : id)).join(' ')
