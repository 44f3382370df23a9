import { Promises } from '../carry/promises.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import type { Design, Table } from '../design/model.ts'
import { partsOfQuery, saidEmpty, tablesRead, withResults, type RowQuery } from '../design/row-query.ts'
import type { Moves } from './moves.ts'
import type { Warning } from './warnings.ts'

type First = Extract<RowQuery, { kind: 'first' }>

/** What takes one of several rows where there are several: which one, and what becomes of the others. */
export function takenFromSeveral(from: Design, to: Design, moves: Moves): Warning[] {
  return [...fillsFromSeveral(from, to, moves), ...rowsFromSeveral(from, to, moves)]
}

function fillsFromSeveral(from: Design, to: Design, { flow, grown }: Moves): Warning[] {
  return flow.fills.flatMap((fill): Warning[] => {
    if (fill.partly) return []
    const table = tableOf(to, fill.table)
    const first = firstIn(withResults(fill.from, flow.everyResult))
    if (!table || !first || isOneAlready(first, grown)) return []
    const source = sourceOf(first, from)
    if (source.length === 0) return []
    const names = fill.columns.flatMap(({ id }) => columnOf(table, id)?.name ?? []).join(', ')
    const several = source.map(({ name }) => name).join(' and ')
    const message = `${table.name}.${names} holds one where ${several} may have several rows: what it held before, if that is still among them, else ${sayFirst(first, source)}. The others are kept aside.`
    return [{ table: table.id, message, effect: 'kept' }]
  })
}

/** Rows that come once, from rows of which several may say otherwise of the same. */
function rowsFromSeveral(from: Design, to: Design, { flow, grown }: Moves): Warning[] {
  return flow.adds.flatMap((adding): Warning[] => {
    const table = tableOf(to, adding.table)
    const rows = withResults(adding.rows, flow.everyResult)
    const first = firstIn(rows)
    if (!table || !first || isOneAlready(first, grown)) return []
    const source = sourceOf(first, from)
    const [same, empty] = [sameInAll(rows, first), saidEmpty(rows)]
    const others = table.columns.filter(({ id }) => !same.has(id) && !empty.has(id))
    if (source.length === 0 || others.length === 0) return []
    const names = others.map(({ name }) => name).join(', ')
    const several = source.map(({ name }) => name).join(' and ')
    const message = `A row of ${table.name} is made of rows of ${several}. Where these differ in ${names}, it has that of ${sayFirst(first, source)}.`
    return [{ table: table.id, message, effect: 'told' }]
  })
}

/** The columns of a query in which the rows agree of which the first is taken. */
function sameInAll(query: RowQuery, first: First): ReadonlySet<string> {
  if (query === first) return new Set(first.per)
  const before = new Set(partsOfQuery(query).flatMap((part) => [...sameInAll(part, first)]))
  if (query.kind !== 'project') return before
  const passed = query.columns.filter((each) => 'from' in each && before.has(each.from))
  return new Set(passed.map(({ id }) => id))
}

const isOneAlready = ({ of, per }: First, grown: Design): boolean =>
  new Promises(grown).unique(of).some((set) => set.every((id) => per.includes(id)))

const sourceOf = (first: First, from: Design): Table[] =>
  tablesRead(first).flatMap((id) => tableOf(from, id) ?? [])

/** Which of several rows is the first, in words. */
function sayFirst(first: First, source: readonly Table[]): string {
  const order = first.by
    .flatMap(({ column, descending }) => {
      const found = source.flatMap((each) => columnOf(each, column)?.name ?? [])[0]
      return found === undefined ? [] : [`${found}${descending ? ', the largest first' : ''}`]
    })
    .join(', then ')
  return order === '' ? 'the first of them' : `the first by ${order}`
}

/** Where a query takes the first of several rows; nothing where it does not. */
function firstIn(query: RowQuery): First | undefined {
  if (query.kind === 'first') return query
  for (const part of partsOfQuery(query)) {
    const found = firstIn(part)
    if (found) return found
  }
  return undefined
}
