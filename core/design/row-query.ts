import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { expressionSchema, idSchema } from './ids.ts'
import { typeSchema, type Type } from './type.ts'
import { valueSchema } from './value.ts'

/**
 * Row queries: a small relational algebra in which a restructuring says what rows its tables begin with,
 * over the rows that were there. Columns go by ids throughout, so that a rename changes nothing. Each
 * dialect prints it (core/dialect/rows.ts), ./evaluate.ts works it out on a design's own rows.
 */
export type RowQuery =
  /** All rows of a table, as it was before. */
  | { kind: 'table'; table: string }
  /** An intermediate result, by its name. */
  | { kind: 'result'; name: string }
  /** Rows that are said here. */
  | { kind: 'constant'; columns: TypedColumn[]; rows: (string | number | boolean | null)[][] }
  /** The rows that meet a condition; one that is left open is not met (ISO/IEC 9075-2, 7.12). */
  | { kind: 'filter'; of: RowQuery; where: string }
  /** Other columns from the columns of each row. */
  | { kind: 'project'; of: RowQuery; columns: Projected[] }
  /** Pairs of rows that agree; `unmatched` keeps rows of the left side that have none, with nothing beside. */
  | { kind: 'join'; left: RowQuery; right: RowQuery; on: Agreement[]; unmatched: 'kept' | 'dropped' }
  /** The rows of all, by the columns of the first. */
  | { kind: 'union'; of: RowQuery[] }
  /** Each row once: rows are the same where all columns are, and empty equals empty. */
  | { kind: 'distinct'; of: RowQuery }
  /** A number for each row, from 1 on, in the order. */
  | { kind: 'number'; of: RowQuery; as: string; by: Order[] }
  /** Of the rows that agree in some columns (empty equals empty) the first in the order. */
  | { kind: 'first'; of: RowQuery; per: string[]; by: Order[] }

export interface TypedColumn {
  id: string
  type: Type
}

/** A column of a projection: one of those that are there, a value for all rows, or worked out in each. */
export type Projected =
  | { id: string; from: string }
  | (TypedColumn & { value: z.infer<typeof valueSchema> })
  | (TypedColumn & { is: string })

/** Columns in which the rows of a join agree; with `empty`, two empty values agree as well. */
export interface Agreement {
  left: string
  right: string
  empty?: true | undefined
}

/** What is empty comes last, whichever the direction. Texts go by their code points. */
export interface Order {
  column: string
  descending?: true | undefined
}

const ids = z.array(idSchema).max(BOUNDS.columns)
const typedColumn = { id: idSchema, type: typeSchema }
const orderSchema = z
  .array(z.strictObject({ column: idSchema, descending: z.literal(true).optional() }))
  .max(BOUNDS.columns)
const agreementSchema = z.strictObject({
  left: idSchema,
  right: idSchema,
  empty: z.literal(true).optional()
})
const projectedSchema = z.union([
  z.strictObject({ id: idSchema, from: idSchema }),
  z.strictObject({ ...typedColumn, value: valueSchema }),
  z.strictObject({ ...typedColumn, is: expressionSchema })
])

export const rowQuerySchema: z.ZodType<RowQuery> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('table'), table: idSchema }),
    z.strictObject({ kind: z.literal('result'), name: idSchema }),
    z.strictObject({
      kind: z.literal('constant'),
      columns: z.array(z.strictObject(typedColumn)).min(1).max(BOUNDS.columns),
      rows: z.array(z.array(valueSchema).max(BOUNDS.columns)).max(BOUNDS.rows)
    }),
    z.strictObject({ kind: z.literal('filter'), of: rowQuerySchema, where: expressionSchema }),
    z.strictObject({
      kind: z.literal('project'),
      of: rowQuerySchema,
      columns: z.array(projectedSchema).min(1).max(BOUNDS.columns)
    }),
    z.strictObject({
      kind: z.literal('join'),
      left: rowQuerySchema,
      right: rowQuerySchema,
      on: z.array(agreementSchema).min(1).max(BOUNDS.columns),
      unmatched: z.enum(['kept', 'dropped'])
    }),
    z.strictObject({ kind: z.literal('union'), of: z.array(rowQuerySchema).min(1).max(BOUNDS.columns) }),
    z.strictObject({ kind: z.literal('distinct'), of: rowQuerySchema }),
    z.strictObject({ kind: z.literal('number'), of: rowQuerySchema, as: idSchema, by: orderSchema.min(1) }),
    z.strictObject({ kind: z.literal('first'), of: rowQuerySchema, per: ids.min(1), by: orderSchema.min(1) })
  ])
)

/** The queries that stand directly in one. */
export function partsOfQuery(query: RowQuery): RowQuery[] {
  switch (query.kind) {
    case 'table':
    case 'result':
    case 'constant':
      return []
    case 'join':
      return [query.left, query.right]
    case 'union':
      return query.of
    default:
      return [query.of]
  }
}

/** The query with each part of it changed, from the leaves up. */
export function mapQuery(query: RowQuery, change: (part: RowQuery) => RowQuery): RowQuery {
  const map = (part: RowQuery): RowQuery => mapQuery(part, change)
  switch (query.kind) {
    case 'table':
    case 'result':
    case 'constant':
      return change(query)
    case 'join':
      return change({ ...query, left: map(query.left), right: map(query.right) })
    case 'union':
      return change({ ...query, of: query.of.map(map) })
    default:
      return change({ ...query, of: map(query.of) })
  }
}

/** The query with each leaf (a table, a result) changed. */
export function mapLeaves(query: RowQuery, change: (leaf: RowQuery) => RowQuery): RowQuery {
  return mapQuery(query, (part) => (partsOfQuery(part).length === 0 ? change(part) : part))
}

/** A query with what its intermediate results are in their place. */
export function withResults(
  query: RowQuery,
  results: readonly { name: string; query: RowQuery }[]
): RowQuery {
  return mapLeaves(query, (leaf) => {
    const result = leaf.kind === 'result' ? results.find(({ name }) => name === leaf.name) : undefined
    return result ? withResults(result.query, results) : leaf
  })
}

/** The tables that a query reads, each once. */
export function tablesRead(query: RowQuery): string[] {
  if (query.kind === 'table') return [query.table]
  return [...new Set(partsOfQuery(query).flatMap(tablesRead))]
}

/** The intermediate results that a query reads, each once. */
export function resultsRead(query: RowQuery): string[] {
  if (query.kind === 'result') return [query.name]
  return [...new Set(partsOfQuery(query).flatMap(resultsRead))]
}

/** The columns of a query that are empty in every row because it says so. */
export function saidEmpty(query: RowQuery): ReadonlySet<string> {
  switch (query.kind) {
    case 'project': {
      const of = saidEmpty(query.of)
      const isEmpty = (column: Projected): boolean =>
        'from' in column ? of.has(column.from) : 'value' in column && column.value === null
      return new Set(query.columns.filter(isEmpty).map(({ id }) => id))
    }
    case 'union': {
      const [first, ...others] = query.of.map(saidEmpty)
      return new Set([...(first ?? [])].filter((id) => others.every((each) => each.has(id))))
    }
    case 'join':
      return new Set([...saidEmpty(query.left), ...saidEmpty(query.right)])
    case 'table':
    case 'result':
    case 'constant':
      return new Set()
    default:
      return saidEmpty(query.of)
  }
}

/** Every id that stands in flows or queries, in an expression too. */
export function idsNamed(flows: unknown): ReadonlySet<string> {
  return new Set(JSON.stringify(flows).match(/[a-z]{1,4}_[a-z0-9_]{1,40}/g) ?? [])
}
