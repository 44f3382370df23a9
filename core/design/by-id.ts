import { once } from '../once.ts'

interface Named {
  id: string
}

const index = once((list: readonly Named[]): ReadonlyMap<string, Named> => {
  return new Map(list.map((each) => [each.id, each]))
})

/**
 * The members of a list by id: of tables' columns, schemas, lists of values; worked out once for each
 * list.
 */
export function byId<T extends Named>(list: readonly T[]): ReadonlyMap<string, T> {
  return index(list) as ReadonlyMap<string, T>
}
