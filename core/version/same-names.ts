import { canonicalJson } from '../design/json.ts'
import { fold, fullName, keyOf, tableOf } from '../design/directory.ts'
import type { Design, ForeignKey, Table } from '../design/model.ts'

/**
 * A design with the ids of another wherever both have something of one name: so two files that do not come from one
 * another can be compared; rows are left out. What has an id that the other has too is the same already, whatever it is called.
 */
export function sameNames(design: Design, other: Design): Design {
  const there = new Set(other.tables.flatMap((table) => [table.id, ...partsOf(table).map(({ id }) => id)]))
  const ids = new Map<string, string>()
  const take = (own: { id: string } | undefined, its: { id: string } | undefined): void => {
    if (own && its && own.id !== its.id && !there.has(own.id)) ids.set(own.id, its.id)
  }
  const byName = new Map(other.tables.map((table) => [fold(fullName(other, table)), table]))
  const pairs = design.tables.flatMap((table): [Table, Table][] => {
    const its = tableOf(other, table.id) ?? byName.get(fold(fullName(design, table)))
    return its ? [[table, its]] : []
  })
  for (const [own, its] of pairs) {
    take(own, its)
    for (const kind of ['columns', 'checks', 'indexes', 'rowPolicies'] as const)
      for (const part of own[kind])
        take(
          part,
          its[kind].find((each) => isCalled(each, part))
        )
  }
  for (const list of ['schemas', 'enums'] as const)
    for (const own of design[list])
      take(
        own,
        other[list].find((each) => isCalled(each, own))
      )
  const isAs = (own: readonly string[], its: readonly string[]): boolean =>
    own.map((id) => ids.get(id) ?? id).join() === its.join()
  for (const [own, its] of pairs) {
    take(own.primaryKey, its.primaryKey)
    for (const key of own.uniques)
      take(
        key,
        its.uniques.find(({ columns }) => isAs(key.columns, columns))
      )
  }
  for (const [own, its] of pairs)
    for (const key of own.foreignKeys)
      take(
        key,
        its.foreignKeys.find((each) => isSameWay(key, each))
      )

  /** Whether both lead from the same columns to the same table. */
  function isSameWay(own: ForeignKey, its: ForeignKey): boolean {
    const parent = tableOf(design, own.table)
    return (
      (ids.get(own.table) ?? own.table) === its.table &&
      keyOf(parent as Table, own.key) !== undefined &&
      isAs(
        own.pairs.map(({ column }) => column),
        its.pairs.map(({ column }) => column)
      )
    )
  }
  return sameRules(ids.size === 0 ? design : renamed(design, ids), other)
}

/** Checks, indexes and row policies without a name are the same where they say the same. */
function sameRules(design: Design, other: Design): Design {
  const ids = new Map<string, string>()
  const said = (rule: { id: string }): string => canonicalJson(JSON.stringify({ ...rule, id: '' }))
  for (const table of design.tables) {
    const its = tableOf(other, table.id)
    for (const kind of ['checks', 'indexes', 'rowPolicies'] as const) {
      const there: readonly { id: string }[] = its?.[kind] ?? []
      for (const own of table[kind]) {
        const same = there.find((each) => said(each) === said(own))
        if (same && same.id !== own.id) ids.set(own.id, same.id)
      }
    }
  }
  return ids.size === 0 ? design : renamed(design, ids)
}

const isCalled = (one: { name?: string | undefined }, other: { name?: string | undefined }): boolean =>
  one.name !== undefined && other.name !== undefined && fold(one.name) === fold(other.name)

const partsOf = (table: Table): { id: string }[] => [
  ...table.columns,
  ...table.uniques,
  ...table.foreignKeys,
  ...table.checks,
  ...table.indexes,
  ...table.rowPolicies,
  ...(table.primaryKey ? [table.primaryKey] : [])
]

/** What holds no ids, or nothing that is compared. */
const WORDS = new Set(['name', 'note', 'verbs', 'accessors', 'value'])

/** A design in which ids are others, wherever they stand: as texts, as names of members, and in expressions in braces. */
function renamed(design: Design, ids: ReadonlyMap<string, string>): Design {
  const rename = (value: unknown): unknown => {
    if (typeof value === 'string')
      return ids.get(value) ?? value.replaceAll(/\{([^{}]+)\}/g, (_, id: string) => `{${ids.get(id) ?? id}}`)
    if (Array.isArray(value)) return value.map(rename)
    if (typeof value !== 'object' || value === null) return value
    return Object.fromEntries(
      Object.entries(value).map(([name, own]) => [ids.get(name) ?? name, WORDS.has(name) ? own : rename(own)])
    )
  }
  const withoutRows = { ...design, tables: design.tables.map((table) => ({ ...table, rows: [] })) }
  return rename(withoutRows) as Design
}
