import type { Adding, Fill, Flow } from '../design/carry.ts'
import { columnsIn, tableOf } from '../design/directory.ts'
import { expressionOf } from '../design/expressions.ts'
import type { ColumnId, Design, Table, TableId } from '../design/model.ts'
import { tablesRead, type RowQuery } from '../design/row-query.ts'
import { columnsNamed } from '../sql/expression.ts'

/** A sentence about a table. */
export interface Said {
  table: TableId
  sentence: string
}

/** What a flow moves from one state of a design to the other, a sentence for each table and column. */
export function sayFlow(flow: Flow, from: Design, to: Design): Said[] {
  const added = new Map(flow.adds.map((adding) => [`${adding.table} ${sayRows(adding.rows, from)}`, adding]))
  return [
    ...[...added.values()].flatMap((adding) => sayAdding(adding, from, to)),
    ...flow.fills.flatMap((fill) => sayFill(fill, from, to))
  ]
}

function sayAdding({ table, rows }: Adding, from: Design, to: Design): Said[] {
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

function sayFill(fill: Fill, from: Design, to: Design): Said[] {
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

const names = (table: Table | undefined, ids: readonly ColumnId[]): string =>
  table
    ? columnsIn(table, ids)
        .map((column) => column.name)
        .join(', ')
    : ''
