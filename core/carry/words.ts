import type { Adding, Fill, Flow } from '../design/carry.ts'
import { columnsIn, tableOf } from '../design/directory.ts'
import { expressionOf, showExpression } from '../design/expressions.ts'
import type { ColumnId, Design, Table, TableId } from '../design/model.ts'
import type { Value } from '../design/value.ts'
import { tablesRead, type RowQuery } from '../design/row-query.ts'
import { columnsNamed } from '../sql/expression.ts'

/** A sentence about a table. */
export interface TableSentence {
  table: TableId
  sentence: string
}

/** What a flow moves from one state of a design to the other, a sentence for each table and column. */
export function sayFlow(flow: Flow, from: Design, to: Design): TableSentence[] {
  const added = new Map(flow.adds.map((adding) => [`${adding.table} ${sayRows(adding.rows, from)}`, adding]))
  return [
    ...[...added.values()].flatMap((adding) => sayAdding(adding, from, to)),
    ...flow.fills.flatMap((fill) => sayFill(fill, from, to))
  ]
}

function sayAdding({ table, rows }: Adding, from: Design, to: Design): TableSentence[] {
  const target = tableOf(to, table)
  const source = sayRows(rows, from)
  if (!target || source === '') return []
  return [{ table, sentence: `${source} carried into ${target.name}.` }]
}

/** The rows that a query gives, as the beginning of a sentence. */
function sayRows(query: RowQuery, from: Design): string {
  const tables = tablesRead(query).flatMap((id) => tableOf(from, id) ?? [])
  const [only, ...others] = tables
  if (!only) return ''
  const held = columnsIn(only, conditionsOf(query)).map((column) => `${only.name}.${column.name}`)
  if (held.length > 0) return `What ${held.join(', ')} held is`
  return `Rows of ${[only, ...others].map((table) => table.name).join(' and ')} are`
}

/** The columns that the rows of a query are chosen by. */
function conditionsOf(query: RowQuery): ColumnId[] {
  switch (query.kind) {
    case 'filter':
      return [...columnsNamed(expressionOf(query.where)), ...conditionsOf(query.of)]
    case 'join':
      return conditionsOf(query.left)
    case 'union':
      return query.of.flatMap(conditionsOf)
    case 'project':
    case 'distinct':
    case 'number':
    case 'first':
      return conditionsOf(query.of)
    default:
      return []
  }
}

function sayFill(fill: Fill, from: Design, to: Design): TableSentence[] {
  const [before, after] = [tableOf(from, fill.table), tableOf(to, fill.table)]
  const made = names(
    after,
    fill.columns.map(({ id }) => id)
  )
  const own = names(
    before,
    fill.on.map((each) => each.own)
  )
  if (!after || made === '') return []
  const place = `${after.name}.${made}`
  const itself = sayOwn(fill, before ?? after)
  if (itself !== undefined)
    return [{ table: fill.table, sentence: `${place} gets ${itself} in rows that have nothing there.` }]
  if (fill.from.kind === 'result')
    return [
      {
        table: fill.table,
        sentence: `${place} is a number for each row${own && `, in the order of ${own}`}.`
      }
    ]
  const [source] = tablesRead(fill.from).flatMap((id) => tableOf(to, id) ?? tableOf(from, id) ?? [])
  if (!source || own === '') return []
  return [
    { table: fill.table, sentence: `${place} is looked up in the ${source.name} that ${own} refers to.` }
  ]
}

/** What a fill takes from the row itself, where it does. */
function sayOwn({ from, table, columns, whereEmpty }: Fill, of: Table): string | undefined {
  if (!whereEmpty || from.kind !== 'project' || from.of.kind !== 'table' || from.of.table !== table)
    return undefined
  const taken = from.columns.filter(({ id }) => columns.some((column) => column.from === id))
  const said = taken.map((column) => {
    if ('value' in column) return sayValue(column.value)
    return 'is' in column ? showExpression(column.is, of.columns) : names(of, [column.from])
  })
  return said.join(', ')
}

const sayValue = (value: Value): string => (typeof value === 'string' ? `“${value}”` : String(value))

const names = (table: Table | undefined, ids: readonly ColumnId[]): string =>
  table
    ? columnsIn(table, ids)
        .map((column) => column.name)
        .join(', ')
    : ''
