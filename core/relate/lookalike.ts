import { columnOf, columnsIn, fold, tableOf } from '../design/directory.ts'
import type { Column, Design, Policy, Table } from '../design/model.ts'
import { referenceNames } from '../naming/names.ts'

/** Columns that look like a reference which nobody declared. */
export interface Lookalike {
  /** The first of them, where it is told of. */
  column: Column
  parent: Table
  /** One for each column of the parent's key, in its order. */
  own: Column[]
}

/** What of a table looks like a reference and is none. */
export function lookalikesIn(design: Design, table: Table): Lookalike[] {
  return lookalikesAmong(table, candidatesIn(design), design.policy).map((found) => ({
    ...found,
    // Candidates are remembered as long as they are called the same; their rows may be others by now.
    parent: tableOf(design, found.parent.id) ?? found.parent
  }))
}

/** The same, with parents of which only names and keys are those of now. */
export function lookalikesAmong(table: Table, candidates: Candidates, policy: Policy): Lookalike[] {
  const referring = new Set(table.foreignKeys.flatMap((key) => key.pairs.map((pair) => pair.column)))
  const told = new Set<string>()
  return table.columns.flatMap((column): Lookalike[] => {
    if (referring.has(column.id) || column.computed !== undefined || column.default?.kind === 'generated')
      return []
    for (const parent of candidates.get(fold(column.name)) ?? []) {
      if (parent.id === table.id || told.has(parent.id)) continue
      const own = match(table, parent, policy)
      if (!own?.some((each) => each.id === column.id) || own.some((each) => referring.has(each.id))) continue
      // A table's own key may be called as another's is, and mean the other way round.
      const isOwnKey =
        table.primaryKey?.columns.length === own.length &&
        own.every((each) => table.primaryKey?.columns.includes(each.id)) &&
        candidates.get(fold(column.name))?.some((each) => each.id === table.id)
      if (isOwnKey) continue
      told.add(parent.id)
      return [{ column, parent, own }]
    }
    return []
  })
}

/** The tables that a column may refer to, by the first name that such a column would have. */
export type Candidates = ReadonlyMap<string, readonly Table[]>

/** Those of the design that was looked at last. */
let last: { tables: readonly Table[]; policy: Policy; candidates: Candidates } | undefined

/**
 * The very same value as before where no table has another name or key: most edits are about something
 * else.
 */
export function candidatesIn(design: Design): Candidates {
  const { tables, policy } = design
  if (last?.tables === tables && last.policy === policy) return last.candidates
  const same =
    last?.policy === policy &&
    last.tables.length === tables.length &&
    last.tables.every((table, at) => refersAlike(table, tables[at] as Table))
  const candidates = same && last ? last.candidates : gather(tables, policy)
  last = { tables, policy, candidates }
  return candidates
}

/**
 * Whether one refers to both in the same way: by name, and by a key whose columns are called and typed
 * alike.
 */
function refersAlike(one: Table, other: Table): boolean {
  if (one === other) return true
  const columnsAlike = (id: string): boolean => {
    const [own, its] = [columnOf(one, id), columnOf(other, id)]
    return own?.name === its?.name && own?.type === its?.type
  }
  return (
    one.id === other.id &&
    one.name === other.name &&
    one.primaryKey === other.primaryKey &&
    (one.primaryKey?.columns ?? []).every(columnsAlike)
  )
}

function gather(tables: readonly Table[], policy: Policy): Candidates {
  const found = new Map<string, Table[]>()
  for (const table of tables) {
    for (const name of namesFor(table, policy)) {
      const list = found.get(name)
      if (!list) found.set(name, [table])
      else if (!list.includes(table)) list.push(table)
    }
  }
  return found
}

const byTable = new WeakMap<Table, { policy: Policy; names: string[] }>()

/**
 * What a reference to the table would be called: by the policy, and as its key is called. Names that say
 * nothing by themselves are left out.
 */
function namesFor(table: Table, policy: Policy): string[] {
  const known = byTable.get(table)
  if (known?.policy === policy) return known.names
  const names = table.primaryKey
    ? [...new Set([...referenceNames(table, { id: '', columns: [] }, policy), ...expected(table)].map(fold))]
    : []
  byTable.set(table, { policy, names })
  return names
}

const expected = (table: Table): string[] =>
  (table.primaryKey?.columns.length ?? 0) === 1 ? [`${table.name}_id`] : []

/**
 * The columns of the table that stand for each column of the parent's key, where all do and their kinds go
 * together.
 */
function match(table: Table, parent: Table, policy: Policy): Column[] | undefined {
  const keys = columnsIn(parent, parent.primaryKey?.columns ?? [])
  const names = referenceNames(parent, { id: '', columns: [] }, policy)
  const own = keys.map((key, at) => {
    const wanted = [names[at] ?? '', ...(keys.length === 1 ? expected(parent) : [])].map(fold)
    const column = table.columns.find((each) => wanted.includes(fold(each.name)))
    return column && (column.type.kind === key.type.kind || (isText(column) && isText(key)))
      ? column
      : undefined
  })
  return own.every(
    (column): column is Column => column !== undefined && columnOf(table, column.id) !== undefined
  ) && own.length > 0
    ? own
    : undefined
}

const isText = (column: Column): boolean => column.type.kind === 'text' || column.type.kind === 'char'
