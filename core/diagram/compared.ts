import { tableOf } from '../design/directory.ts'
import type { Column, Design, Table, TableId } from '../design/model.ts'
import { compareDesigns, type DifferenceInWords } from '../version/compare.ts'
import { schemaDelta, type Alteration } from '../version/delta.ts'

/** What became of a table, a column or a reference from one state of a design to another. */
export type Fate = 'added' | 'removed' | 'renamed' | 'changed'
export interface FateOf {
  fate: Fate
  /** What it was before, where that can be said in a word: its name. */
  was?: string
}
/** By the ids of tables, columns and foreign keys. */
export type Fates = ReadonlyMap<string, FateOf>

/** Two states of a design in one: what either has, and what became of it. */
export interface Compared {
  design: Design
  fates: Fates
  /** What changed, in sentences, table by table, to step through. */
  steps: DifferenceInWords[]
}

/** Two states of a design as one that can be drawn: what is gone stands where it stood. */
export function bothIn(before: Design, after: Design): Compared {
  const moved = new Set(after.tables.flatMap(({ columns }) => columns.map(({ id }) => id)))
  const tables = [
    ...after.tables.map((table) => withGone(tableOf(before, table.id), table, moved)),
    ...before.tables.filter(({ id }) => !tableOf(after, id))
  ]
  const design = {
    ...after,
    schemas: withOthers(after.schemas, before.schemas),
    enums: withOthers(after.enums, before.enums),
    tables,
    positions: {}
  }
  const order = new Map(tables.map(({ id }, at) => [id, at]))
  const placeOf = ({ table }: DifferenceInWords): number => order.get(table) ?? -1
  return {
    design,
    fates: fatesOf(schemaDelta(before, after), before, after),
    steps: compareDesigns(before, after)
      .filter(({ kind }) => kind !== 'carried')
      .sort((one, other) => placeOf(one) - placeOf(other))
  }
}

/**
 * A table with the columns and references that it had, each behind what it stood behind.
 * @param kept columns that there are still, be it in another table: they stand there alone.
 */
function withGone(before: Table | undefined, after: Table, kept: ReadonlySet<string>): Table {
  if (!before) return after
  return {
    ...after,
    columns: withOthers(
      after.columns,
      before.columns.filter(({ id }) => !kept.has(id))
    ),
    uniques: withOthers(after.uniques, before.uniques),
    foreignKeys: withOthers(after.foreignKeys, before.foreignKeys)
  }
}

/** A list with those of another that are not in it, each behind what it stood behind there. */
function withOthers<T extends { id: string }>(list: readonly T[], others: readonly T[]): T[] {
  const all = [...list]
  const ids = new Set(list.map(({ id }) => id))
  for (const [at, other] of others.entries()) {
    if (ids.has(other.id)) continue
    const behind = all.findIndex(({ id }) => id === others[at - 1]?.id)
    all.splice(behind < 0 && at > 0 ? all.length : behind + 1, 0, other)
    ids.add(other.id)
  }
  return all
}

function fatesOf(delta: readonly Alteration[], before: Design, after: Design): Fates {
  const fates = new Map<string, FateOf>()
  const put = (id: string, fate: FateOf): void => {
    // That it is new or gone says more than what else became of it, and a new name more than another change.
    const known = fates.get(id)
    if (!known || (known.fate === 'changed' && fate.fate !== 'changed')) fates.set(id, fate)
  }
  const lists = new Set<string>()
  for (const alteration of delta) {
    const { part, kind, table } = alteration
    if (part === 'list' && kind === 'changed') lists.add(alteration.after.id)
    if (part === 'table' || part === 'column' || part === 'foreignKey') {
      const id = kind === 'removed' ? alteration.before.id : alteration.after.id
      const isRenamed = kind === 'changed' && alteration.aspect === 'name' && part !== 'foreignKey'
      put(id, isRenamed ? { fate: 'renamed', was: alteration.before.name ?? '' } : { fate: kind })
    }
    if (part !== 'table' && tableOf(after, table) && tableOf(before, table)) put(table, { fate: 'changed' })
  }
  for (const table of [...after.tables, ...before.tables]) goAlong(table, fates, lists, put)
  return fates
}

/** What comes and goes with a table does so itself; a column changes with the list that it holds. */
function goAlong(
  table: Table,
  fates: ReadonlyMap<string, FateOf>,
  lists: ReadonlySet<string>,
  put: (id: TableId, fate: FateOf) => void
): void {
  const whole = fates.get(table.id)?.fate
  if (whole === 'added' || whole === 'removed')
    for (const { id } of table.foreignKeys) put(id, { fate: whole })
  const holds = ({ type }: Column): boolean => type.kind === 'enum' && lists.has(type.enum)
  for (const column of table.columns) if (holds(column)) put(column.id, { fate: 'changed' })
}
