import { flawOfExpression } from '../design/expressions.ts'
import type { Column } from '../design/model.ts'
import type { NamedValues, Type } from '../design/type.ts'
import type { RowQuery, TypedColumn } from '../design/row-query.ts'

/** A query that cannot be: it names a table or a column that is not there, or what cannot be compared. */
export class BrokenQuery extends Error {}

/** What a query stands among. */
export interface Ground {
  /** The columns of a table, or nothing where there is no such. */
  table(id: string): readonly TypedColumn[] | undefined
  /** The columns of an intermediate result. */
  result(name: string): readonly TypedColumn[] | undefined
  enums: readonly NamedValues[]
}

/** Types whose values no engine compares, or each in its own way. */
const NOT_COMPARED: ReadonlySet<Type['kind']> = new Set(['json', 'interval', 'native', 'float'])

/** Whether values of a type can be compared, and put into an order, the same way everywhere. */
export const isComparable = (type: Type): boolean => !NOT_COMPARED.has(type.kind)

/**
 * The columns that a query gives, in order.
 * @throws BrokenQuery where it names what is not there, or compares what cannot be compared.
 */
export function columnsOf(query: RowQuery, ground: Ground): readonly TypedColumn[] {
  switch (query.kind) {
    case 'table':
      return ground.table(query.table) ?? broken(`There is no table ${query.table}.`)
    case 'result':
      return ground.result(query.name) ?? broken(`There is no result ${query.name}.`)
    case 'constant':
      if (query.rows.some((row) => row.length !== query.columns.length))
        broken('A row that is said has not one value for each column.')
      return distinct(query.columns)
    case 'filter': {
      const columns = columnsOf(query.of, ground)
      judge(query.where, undefined, columns, ground)
      return columns
    }
    case 'project':
      return projectedColumns(query, ground)
    case 'join':
      return joinedColumns(query, ground)
    case 'union':
      return unitedColumns(query, ground)
    case 'distinct': {
      const columns = columnsOf(query.of, ground)
      comparable(columns)
      return columns
    }
    case 'number': {
      const columns = columnsOf(query.of, ground)
      comparable(
        named(
          columns,
          query.by.map(({ column }) => column)
        )
      )
      return distinct([...columns, { id: query.as, type: { kind: 'integer', size: 'big' } }])
    }
    case 'first': {
      const columns = columnsOf(query.of, ground)
      comparable(named(columns, [...query.per, ...query.by.map(({ column }) => column)]))
      return columns
    }
  }
}

const broken = (message: string): never => {
  throw new BrokenQuery(message)
}

function named(columns: readonly TypedColumn[], ids: readonly string[]): TypedColumn[] {
  return ids.map((id) => columns.find((column) => column.id === id) ?? broken(`There is no column ${id}.`))
}

function distinct(columns: readonly TypedColumn[]): readonly TypedColumn[] {
  const seen = new Set<string>()
  for (const { id } of columns) {
    if (seen.has(id)) broken(`The column ${id} is there twice.`)
    seen.add(id)
  }
  return columns
}

function comparable(columns: readonly TypedColumn[]): void {
  const none = columns.find(({ type }) => !isComparable(type))
  if (none) broken(`Values of ${none.id} cannot be compared in every engine.`)
}

function judge(
  kept: string,
  wanted: Type | undefined,
  columns: readonly TypedColumn[],
  { enums }: Ground
): void {
  const flaw = flawOfExpression(kept, { wanted, columns: columns.map(asColumn), enums })
  if (flaw !== undefined) broken(flaw)
}

/** A column as what expressions are judged among. */
export const asColumn = ({ id, type }: TypedColumn): Column => ({ id, name: id, type, required: false })

function projectedColumns(
  query: Extract<RowQuery, { kind: 'project' }>,
  ground: Ground
): readonly TypedColumn[] {
  const columns = columnsOf(query.of, ground)
  const made = query.columns.map((column): TypedColumn => {
    if ('from' in column) {
      const [source] = named(columns, [column.from])
      return { id: column.id, type: source?.type ?? broken(`There is no column ${column.from}.`) }
    }
    if ('is' in column) judge(column.is, column.type, columns, ground)
    return { id: column.id, type: column.type }
  })
  return distinct(made)
}

function joinedColumns(query: Extract<RowQuery, { kind: 'join' }>, ground: Ground): readonly TypedColumn[] {
  const [left, right] = [columnsOf(query.left, ground), columnsOf(query.right, ground)]
  comparable(
    named(
      left,
      query.on.map((each) => each.left)
    )
  )
  comparable(
    named(
      right,
      query.on.map((each) => each.right)
    )
  )
  return distinct([...left, ...right])
}

function unitedColumns(query: Extract<RowQuery, { kind: 'union' }>, ground: Ground): readonly TypedColumn[] {
  const [first = [], ...others] = query.of.map((each) => columnsOf(each, ground))
  for (const columns of others)
    for (const { id } of first)
      if (!columns.some((column) => column.id === id)) broken(`There is no column ${id} in all of a union.`)
  return first
}
