import { Promises } from '../carry/promises.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import type { Design } from '../design/model.ts'
import { partsOfQuery, tablesRead, withResults, type RowQuery } from '../design/row-query.ts'
import type { Moves } from './moves.ts'
import type { Warning } from './warnings.ts'

type First = Extract<RowQuery, { kind: 'first' }>

/** Columns that take one of several rows where there are several: which one, and what becomes of the others. */
export function takenFromSeveral(from: Design, to: Design, { flow, grown }: Moves): Warning[] {
  const promises = new Promises(grown)
  const isOneAlready = ({ of, per }: First): boolean =>
    promises.unique(of).some((set) => set.every((id) => per.includes(id)))
  return flow.fills.flatMap((fill): Warning[] => {
    if (fill.partly) return []
    const table = tableOf(to, fill.table)
    const first = firstIn(withResults(fill.from, flow.everyResult))
    const source = first && tablesRead(first).flatMap((id) => tableOf(from, id) ?? [])
    if (!table || !source || source.length === 0 || isOneAlready(first)) return []
    const names = fill.columns.flatMap(({ id }) => columnOf(table, id)?.name ?? []).join(', ')
    const order = first.by
      .flatMap(({ column, descending }) => {
        const found = source.flatMap((each) => columnOf(each, column)?.name ?? [])[0]
        return found === undefined ? [] : [`${found}${descending ? ', the largest first' : ''}`]
      })
      .join(', then ')
    const by = order === '' ? 'the first of them' : `the first by ${order}`
    const several = source.map(({ name }) => name).join(' and ')
    const message = `${table.name}.${names} holds one where ${several} may have several rows: what it held before, if that is still among them, else ${by}. The others are kept aside.`
    return [{ table: table.id, message, effect: 'kept' }]
  })
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
