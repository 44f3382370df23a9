import { byId } from '../design/by-id.ts'
import type { Design, Table } from '../design/model.ts'
import { once } from '../once.ts'

const textOf = once((part: object): string => JSON.stringify(part))

/** Whether two parts of designs are the same to the last; each is put as text once. */
export const isSamePart = (one: object, other: object): boolean =>
  one === other || textOf(one) === textOf(other)

/**
 * The second of two states with the very tables, lists and schemas of the first where they are the same to
 * the last, so that what was not changed is known at a glance. States that were read from different places
 * share nothing by themselves.
 */
export const sharing = (from: Design, to: Design): Design => shared(from)(to)

const shared = once((from: Design) => {
  const had = byId(from.tables)
  return once((to: Design): Design => {
    const tables = to.tables.map((table): Table => {
      const before = had.get(table.id)
      return before && isSamePart(before, table) ? before : table
    })
    const parts = {
      policy: isSamePart(from.policy, to.policy) ? from.policy : to.policy,
      schemas: isSamePart(from.schemas, to.schemas) ? from.schemas : to.schemas,
      enums: isSamePart(from.enums, to.enums) ? from.enums : to.enums
    }
    const isShared =
      tables.every((table, at) => table === to.tables[at]) &&
      Object.entries(parts).every(([name, part]) => part === to[name as keyof typeof parts])
    return isShared ? to : { ...to, ...parts, tables }
  })
})
