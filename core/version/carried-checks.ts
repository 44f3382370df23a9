import { columnOf, tableOf } from '../design/directory.ts'
import {
  columnsUsed,
  expressionOf,
  keptExpression,
  renameColumns,
  showExpression
} from '../design/expressions.ts'
import type { Check, ColumnId, Design, Table, TableId } from '../design/model.ts'
import { partsOfQuery, withResults, type RowQuery } from '../design/row-query.ts'
import { isNumeric } from '../design/type.ts'
import type { Value } from '../design/value.ts'
import { evaluateExpression } from '../sql/evaluate.ts'
import type { Expression } from '../sql/expression.ts'
import type { Moves } from './moves.ts'
import type { Warning } from './warnings.ts'

/** Where a column of rows that are carried comes from: a column of one table, or a value that is said for all. */
type Origin = { table: TableId; column: ColumnId } | { value: Value }

/** The checks that rows which come into a table may not meet there: not said for them, and not held where they were. */
export function carriedChecks(from: Design, to: Design, { flow }: Moves): Warning[] {
  return flow.adds.flatMap(({ table: id, rows }) => {
    const table = tableOf(to, id)
    if (!table || table.checks.length === 0) return []
    const branches = branchesOf(withResults(rows, flow.everyResult))
    const open = table.checks.filter(({ condition }) =>
      branches.some((branch) => !isSure(expressionOf(condition), from, table, branch))
    )
    return open.map((check) => stopsAt(table, check))
  })
}

function stopsAt(table: Table, { condition }: Check): Warning {
  const says = showExpression(condition, table.columns)
  const message = `${table.name} has the check ${says}: the migration stops at a row that is carried there and does not meet it.`
  return { table: table.id, message, effect: 'stops' }
}

/** The queries whose rows are put together, each by itself. */
function branchesOf(query: RowQuery): RowQuery[] {
  if (query.kind === 'union') return query.of.flatMap(branchesOf)
  if (query.kind === 'table' || query.kind === 'constant' || query.kind === 'join') return [query]
  const [of] = partsOfQuery(query)
  return of ? branchesOf(of).map((part) => ({ ...query, of: part })) : [query]
}

/** Whether all rows of a branch meet a condition, as far as can be told from where they come from. */
function isSure(condition: Expression, from: Design, table: Table, branch: RowQuery): boolean {
  if (condition.kind === 'binary' && condition.op === 'or') {
    const either = [condition.left, condition.right]
    if (either.some((part) => isSure(part, from, table, branch))) return true
  }
  const kept = keptExpression(condition)
  const origins = new Map(columnsUsed(kept).map((id) => [id, originOf(branch, id)]))
  return isSaid(condition, origins, table) || isHeldThere(kept, origins, from, chosen(branch))
}

type Origins = ReadonlyMap<ColumnId, Origin | undefined>

/** Whether a condition holds for what is said for all rows. */
function isSaid(condition: Expression, origins: Origins, table: Table): boolean {
  if (![...origins.values()].every((origin) => origin && 'value' in origin)) return false
  const given = evaluateExpression(condition, (id) => {
    const origin = origins.get(id)
    const type = columnOf(table, id)?.type
    return origin && 'value' in origin
      ? { value: origin.value, isNumber: !!type && isNumeric(type) }
      : undefined
  })
  // A condition that is left open is met by a row (ISO/IEC 9075-2, 4.17).
  return given === true || given === null
}

/** Whether the table that the columns come from holds its rows to the same. */
function isHeldThere(kept: string, origins: Origins, from: Design, rows: Chosen): boolean {
  const there = [...origins.values()].flatMap((origin) => (origin && 'table' in origin ? [origin] : []))
  const source = there[0] && tableOf(from, there[0].table)
  const isOne = there.length === origins.size && there.every(({ table }) => table === source?.id)
  if (!source || !isOne) return false
  const was = renameColumns(kept, (id) => {
    const origin = origins.get(id)
    return origin && 'column' in origin ? origin.column : id
  })
  const isFor = (part: Expression): boolean => evaluateExpression(part, (id) => rows.get(id)) !== false
  return source.checks.some(({ condition }) => {
    const held = alternatives(expressionOf(condition)).filter(isFor)
    return held.length === 1 && held.map(keptExpression).includes(was)
  })
}

/** The conditions of which one holds. */
const alternatives = (condition: Expression): Expression[] =>
  condition.kind === 'binary' && condition.op === 'or'
    ? [...alternatives(condition.left), ...alternatives(condition.right)]
    : [condition]

/** What all rows of a branch have in a column of their table, since only those are taken. */
type Chosen = ReadonlyMap<ColumnId, { value: string; isNumber: boolean }>

function chosen(branch: RowQuery): Chosen {
  if (branch.kind === 'table' || branch.kind === 'union' || branch.kind === 'join') return new Map()
  const [of] = partsOfQuery(branch)
  const inner = of ? chosen(of) : new Map<ColumnId, { value: string; isNumber: boolean }>()
  const where = branch.kind === 'filter' ? expressionOf(branch.where) : undefined
  const isSame = where?.kind === 'binary' && where.op === '='
  if (!isSame || where.left.kind !== 'column' || where.right.kind !== 'text') return inner
  return new Map([...inner, [where.left.name, { value: where.right.value, isNumber: false }]])
}

/** Where a column of a branch comes from; nothing where it is worked out, or comes from one of several. */
function originOf(query: RowQuery, id: ColumnId): Origin | undefined {
  switch (query.kind) {
    case 'table':
      return { table: query.table, column: id }
    case 'project': {
      const column = query.columns.find((each) => each.id === id)
      if (!column) return { value: null }
      if ('value' in column) return { value: column.value }
      return 'from' in column ? originOf(query.of, column.from) : undefined
    }
    case 'number':
      return query.as === id ? undefined : originOf(query.of, id)
    case 'filter':
    case 'distinct':
    case 'first':
      return originOf(query.of, id)
    default:
      return undefined
  }
}
