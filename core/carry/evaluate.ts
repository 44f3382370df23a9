import { expressionOf } from '../design/expressions.ts'
import { compareValues } from '../design/order.ts'
import type { Row } from '../design/model.ts'
import type { Agreement, Order, Projected, RowQuery, TypedColumn } from '../design/row-query.ts'
import { canonicalValue } from '../design/same.ts'
import { isNumeric } from '../design/type.ts'
import { typedValue, type Value } from '../design/value.ts'
import { evaluateExpression } from '../sql/evaluate.ts'
import { columnsOf, type Ground } from './columns.ts'

/** What cannot be worked out without an engine: a division, the present moment. */
export class NeedsEngine extends Error {}

/** Rows to work a query out on. */
export interface RowSource {
  ground: Ground
  table(id: string): readonly Row[]
  result(name: string): readonly Row[]
}

/**
 * The rows that a query gives, worked out exactly as an engine would: three-valued conditions, exact
 * numbers, texts by their code points. Their order means nothing.
 * @throws BrokenQuery, NeedsEngine
 */
export function rowsOf(query: RowQuery, source: RowSource): readonly Row[] {
  const columns = columnsOf(query, source.ground)
  switch (query.kind) {
    case 'table':
      return source.table(query.table)
    case 'result':
      return source.result(query.name)
    case 'constant':
      return query.rows.map((values) => rowOf(columns.map(({ id }, at) => [id, values[at] ?? null])))
    case 'filter': {
      const inner = columnsOf(query.of, source.ground)
      return rowsOf(query.of, source).filter((row) => worked(query.where, inner, row) === true)
    }
    case 'project': {
      const inner = columnsOf(query.of, source.ground)
      return rowsOf(query.of, source).map((row) =>
        rowOf(query.columns.map((column) => [column.id, projected(column, inner, row)]))
      )
    }
    case 'join':
      return joined(query, source)
    case 'union':
      return query.of.flatMap((each) =>
        rowsOf(each, source).map((row) => rowOf(columns.map(({ id }) => [id, row[id] ?? null])))
      )
    case 'distinct': {
      const keyOf = keyBy(columns)
      return [...new Map(rowsOf(query.of, source).map((row) => [keyOf(row), row])).values()]
    }
    case 'number':
      return ordered(query.of, query.by, source).map((row, at) => ({ ...row, [query.as]: at + 1 }))
    case 'first': {
      const inner = columnsOf(query.of, source.ground)
      const keyOf = keyBy(query.per.map((id) => columnIn(inner, id)))
      const first = new Map<string, Row>()
      for (const row of ordered(query.of, query.by, source)) {
        const key = keyOf(row)
        if (!first.has(key)) first.set(key, row)
      }
      return [...first.values()]
    }
  }
}

/** A row of what is said: an empty value is left out. */
function rowOf(values: readonly (readonly [string, Value])[]): Row {
  return Object.fromEntries(values.filter(([, value]) => value !== null))
}

function columnIn(columns: readonly TypedColumn[], id: string): TypedColumn {
  return columns.find((column) => column.id === id) as TypedColumn
}

function worked(kept: string, columns: readonly TypedColumn[], row: Row): Value {
  const value = evaluateExpression(expressionOf(kept), (id) => ({
    value: row[id] ?? null,
    isNumber: isNumeric(columnIn(columns, id).type)
  }))
  if (value === undefined) throw new NeedsEngine(`Only an engine works out ${kept}.`)
  return value
}

function projected(column: Projected, columns: readonly TypedColumn[], row: Row): Value {
  if ('from' in column) return row[column.from] ?? null
  if ('value' in column) return column.value
  return typedValue(worked(column.is, columns, row), column.type)
}

/** What rows agree in, as a text: the same for values that are the same to an engine. */
function keyBy(columns: readonly TypedColumn[]): (row: Row) => string {
  return (row) => JSON.stringify(columns.map(({ id, type }) => canonicalValue(row[id], type)))
}

function joined(query: Extract<RowQuery, { kind: 'join' }>, source: RowSource): readonly Row[] {
  const [left, right] = [rowsOf(query.left, source), rowsOf(query.right, source)]
  const keys = agreementKeys(query.on, query, source)
  const partners = new Map<string, Row[]>()
  for (const row of right) {
    const key = keys.right(row)
    if (key === undefined) continue
    const others = partners.get(key)
    if (others) others.push(row)
    else partners.set(key, [row])
  }
  return left.flatMap((row) => {
    const key = keys.left(row)
    const found = key === undefined ? undefined : partners.get(key)
    if (found) return found.map((other) => ({ ...row, ...other }))
    return query.unmatched === 'kept' ? [row] : []
  })
}

/** What the rows of either side agree in; undefined where one is empty that must not be. */
function agreementKeys(
  on: readonly Agreement[],
  { left, right }: Extract<RowQuery, { kind: 'join' }>,
  { ground }: RowSource
): Record<'left' | 'right', (row: Row) => string | undefined> {
  const side = (which: 'left' | 'right', columns: readonly TypedColumn[]) => {
    const compared = on.map((each) => ({ ...columnIn(columns, each[which]), empty: each.empty }))
    const keyOf = keyBy(compared)
    return (row: Row): string | undefined => {
      const isOpen = compared.some(({ id, empty }) => !empty && (row[id] ?? null) === null)
      return isOpen ? undefined : keyOf(row)
    }
  }
  return { left: side('left', columnsOf(left, ground)), right: side('right', columnsOf(right, ground)) }
}

function ordered(of: RowQuery, by: readonly Order[], source: RowSource): readonly Row[] {
  const columns = columnsOf(of, source.ground)
  const compared = by.map((order) => ({ ...order, type: columnIn(columns, order.column).type }))
  return [...rowsOf(of, source)].sort((a, b) => {
    for (const { column, type, descending } of compared) {
      const [left, right] = [a[column] ?? null, b[column] ?? null]
      if (left === null && right === null) continue
      if (left === null) return 1
      if (right === null) return -1
      const order = compareValues(left, right, type)
      if (order !== 0) return descending ? -order : order
    }
    return 0
  })
}
