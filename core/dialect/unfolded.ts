import { expressionOf } from '../design/expressions.ts'
import { byId } from '../design/by-id.ts'
import { once } from '../once.ts'
import type { Column, Table } from '../design/model.ts'
import { columnsNamed, mapExpression, partsOf, type Expression } from '../sql/expression.ts'
import { folded, isConstant } from '../sql/fold.ts'

/** The most parts of an expression that is written instead of a column's name. */
const MOST = 400

/**
 * Whether what a column is computed from is of a size to be written where each computed column in it stands
 * for what that is computed from, and so on.
 */
export const isShortUnfolded = (table: Table, column: Column): boolean =>
  (unfoldedSizes(table.columns).get(column.id) ?? 0) <= MOST

/** How many parts each computed column has unfolded; each is gone through once, however often it is named. */
const unfoldedSizes = once((columns: readonly Column[]): ReadonlyMap<string, number> => {
  const sizes = new Map<string, number>()
  const sizeOf = (part: Expression): number => {
    const own = part.kind === 'column' ? sizeOfColumn(part.name) : 1
    return partsOf(part).reduce((sum, each) => sum + sizeOf(each), own)
  }
  const sizeOfColumn = (id: string): number => {
    const known = sizes.get(id)
    if (known !== undefined) return known
    const computed = byId(columns).get(id)?.computed
    // What leads back to itself has no end.
    sizes.set(id, Infinity)
    const size = computed === undefined ? 1 : sizeOf(expressionOf(computed))
    sizes.set(id, size)
    return size
  }
  for (const { id } of columns) sizeOfColumn(id)
  return sizes
})

/** An expression of a table with what stands fast worked out, computed columns that do included. */
export function foldedIn(table: Table, kept: string): Expression {
  const constants = constantsIn(table.columns)
  return folded(
    mapExpression(expressionOf(kept), (part) =>
      part.kind === 'column' ? (constants.get(part.name) ?? part) : part
    )
  )
}

/** The computed columns that stand fast, by their ids; each is gone through once. */
const constantsIn = once((columns: readonly Column[]): ReadonlyMap<string, Expression> => {
  const known = byId(columns)
  const found = new Map<string, Expression>()
  const done = new Set<string>()
  const visit = (id: string): void => {
    const computed = known.get(id)?.computed
    if (computed === undefined || done.has(id)) return
    done.add(id)
    const expression = expressionOf(computed)
    columnsNamed(expression).forEach(visit)
    const fast = folded(
      mapExpression(expression, (part) => (part.kind === 'column' ? (found.get(part.name) ?? part) : part))
    )
    if (isConstant(fast)) found.set(id, fast)
  }
  for (const { id } of columns) visit(id)
  return found
})
