import { keysOf, tableOf } from '../design/directory.ts'
import { columnsUsed } from '../design/expressions.ts'
import type { Design } from '../design/model.ts'
import type { RowQuery } from '../design/row-query.ts'
import { columnsOf } from './columns.ts'
import { groundOf } from './ground.ts'

/**
 * The same rows, as far as some of their columns say, without what only the others need: numbers that nobody looks at,
 * and rows that are joined beside and change neither what is said nor how often. Intermediate results are to stand in
 * their places.
 * @param design whose tables the query reads
 */
export function neededFor(query: RowQuery, columns: ReadonlySet<string>, design: Design): RowQuery {
  const all = (part: RowQuery): Set<string> => new Set(columnsOf(part, groundOf(design)).map(({ id }) => id))

  const need = (part: RowQuery, wanted: ReadonlySet<string>): RowQuery => {
    switch (part.kind) {
      case 'table':
      case 'result':
      case 'constant':
        return part
      case 'filter':
        return { ...part, of: need(part.of, new Set([...wanted, ...columnsUsed(part.where)])) }
      case 'project': {
        const some = part.columns.filter(({ id }) => wanted.has(id))
        const kept = some.length > 0 ? some : part.columns.slice(0, 1)
        const read = kept.flatMap((each) =>
          'from' in each ? [each.from] : 'is' in each ? columnsUsed(each.is) : []
        )
        return { ...part, columns: kept, of: need(part.of, new Set(read)) }
      }
      case 'number':
        return wanted.has(part.as)
          ? { ...part, of: need(part.of, new Set([...wanted, ...part.by.map(({ column }) => column)])) }
          : need(part.of, wanted)
      case 'first': {
        const ranked = [...part.per, ...part.by.map(({ column }) => column)]
        return { ...part, of: need(part.of, new Set([...wanted, ...ranked])) }
      }
      case 'join': {
        const theirs = all(part.right)
        const isBeside = part.unmatched === 'kept' && [...wanted].every((id) => !theirs.has(id))
        const agreed = new Set(part.on.map(({ right }) => right))
        if (isBeside && isOnce(part.right, agreed, design)) return need(part.left, wanted)
        const [left, right] = [new Set(part.on.map((on) => on.left)), agreed]
        for (const id of wanted) (theirs.has(id) ? right : left).add(id)
        return { ...part, left: need(part.left, left), right: need(part.right, right) }
      }
      // Which rows are the same, or which column stands beside which, is said by all of them.
      case 'distinct':
        return { ...part, of: need(part.of, all(part.of)) }
      case 'union':
        return { ...part, of: part.of.map((each) => need(each, all(each))) }
    }
  }
  return need(query, columns)
}

/** Whether no two rows of a query agree in some columns, none of which is empty in both. */
function isOnce(query: RowQuery, columns: ReadonlySet<string>, design: Design): boolean {
  switch (query.kind) {
    case 'table': {
      const table = tableOf(design, query.table)
      // Two rows may be empty in a unique key.
      const isFilled = (id: string): boolean =>
        table?.columns.find((each) => each.id === id)?.required === true
      return (
        table !== undefined &&
        keysOf(table).some((key) => key.columns.every((id) => columns.has(id) && isFilled(id)))
      )
    }
    case 'filter':
      return isOnce(query.of, columns, design)
    case 'number':
      return columns.has(query.as) || isOnce(query.of, columns, design)
    case 'project': {
      const from = query.columns.flatMap((each) =>
        'from' in each && columns.has(each.id) ? [each.from] : []
      )
      return isOnce(query.of, new Set(from), design)
    }
    case 'distinct':
      return (
        columnsOf(query.of, groundOf(design)).every(({ id }) => columns.has(id)) ||
        isOnce(query.of, columns, design)
      )
    case 'first':
      return query.per.every((id) => columns.has(id)) || isOnce(query.of, columns, design)
    case 'join':
      return (
        isOnce(query.left, columns, design) &&
        isOnce(query.right, new Set(query.on.map(({ right }) => right)), design)
      )
    case 'result':
    case 'constant':
    case 'union':
      return false
  }
}
