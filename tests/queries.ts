import { emptyDesign, emptyTable, type Column, type Design, type Row } from '../core/design/model.ts'
import type { Fill, Flow } from '../core/design/carry.ts'
import type { Order, Projected, RowQuery, TypedColumn } from '../core/design/row-query.ts'
import type { Type } from '../core/design/type.ts'
import type { Value } from '../core/design/value.ts'
import { STILL } from '../core/carry/flow.ts'
import { columnsOf } from '../core/carry/columns.ts'
import { groundOf } from '../core/carry/ground.ts'

/** Random rows and random queries over them, each made of a list of numbers so that it can be shrunk. */

const LIST = { id: 'e_kind', name: 'kind', values: ['stray', 'Stray', 'hand-reared', 'an orphan'] }
const KINDS: { type: Type; values: Value[] }[] = [
  { type: { kind: 'integer', size: 'normal' }, values: [1, 2, 3, -7, 0, 12] },
  { type: { kind: 'integer', size: 'big' }, values: ['9007199254740992', '9007199254740993', 4, -4] },
  {
    type: { kind: 'decimal', precision: 15, scale: 2 },
    values: ['0.20', '90071992547.91', '90071992547.92', '-3.00']
  },
  { type: { kind: 'text', length: 20 }, values: ['a', 'A', 'ä', 'b ', 'b', '', 'é', '🦔'] },
  { type: { kind: 'enum', enum: LIST.id }, values: LIST.values },
  { type: { kind: 'boolean' }, values: [true, false] },
  { type: { kind: 'date' }, values: ['2026-05-03', '2025-12-31'] },
  { type: { kind: 'timestamp', zone: false }, values: ['2026-05-03 07:40:00', '2026-05-03 07:39:59'] },
  {
    type: { kind: 'uuid' },
    values: ['00000000-0000-4000-8000-000000000001', 'f0000000-0000-4000-8000-000000000000']
  }
]

/** Numbers one after the other, from the beginning again when they are used up. */
export class Numbers {
  private at = 0
  constructor(private readonly given: readonly number[]) {}
  next(below: number): number {
    const number = this.given[this.at++ % this.given.length] ?? 0
    return (number + Math.floor(this.at / this.given.length)) % below
  }
  pick<T>(list: readonly T[]): T {
    return list[this.next(list.length)] as T
  }
}

/** Three tables whose rows have a number, and values that may be empty, the same, or nearly the same. */
export function someTables(numbers: Numbers): Design {
  const tables = ['a', 'b', 'd'].map((name) => {
    const key: Column = { id: `c_${name}`, name: `${name}_id`, type: KINDS[0]?.type as Type, required: true }
    const columns = Array.from({ length: 2 + numbers.next(3) }, (_, at): Column & { values: Value[] } => {
      const { type, values } = numbers.pick(KINDS)
      return { id: `c_${name}_${at}`, name: `${name}_${at}`, type, required: false, values }
    })
    const rows = Array.from({ length: numbers.next(9) }, (_, at): Row => {
      const values = columns.map((column): [string, Value] => [
        column.id,
        numbers.next(4) === 0 ? null : numbers.pick(column.values)
      ])
      return Object.fromEntries([[key.id, at + 1], ...values.filter(([, value]) => value !== null)])
    })
    return {
      ...emptyTable(name, `t_${name}`),
      columns: [key, ...columns.map(({ values: _, ...column }) => column)],
      primaryKey: { id: `k_${name}`, columns: [key.id] },
      rows
    }
  })
  return { ...emptyDesign('Rows', 'd_rows'), enums: [LIST], tables }
}

/** Makes queries that can be worked out over a design's tables; every column has an id of its own. */
export class QueryMaker {
  private made = 0

  constructor(
    private readonly numbers: Numbers,
    private readonly design: Design
  ) {}

  query(depth: number): RowQuery {
    if (depth === 0) return this.leaf()
    switch (this.numbers.next(8)) {
      case 0:
        return this.leaf()
      case 1:
        return this.filter(this.query(depth - 1))
      case 2:
        return this.project(this.query(depth - 1))
      case 3:
        return this.join(this.query(depth - 1), this.query(depth - 1), 'kept')
      case 4:
        return this.join(this.query(depth - 1), this.query(depth - 1), 'dropped')
      case 5:
        return this.union(this.query(depth - 1), this.query(depth - 1))
      case 6:
        return { kind: 'distinct', of: this.query(depth - 1) }
      default:
        return this.ranked(this.query(depth - 1))
    }
  }

  columns(query: RowQuery): readonly TypedColumn[] {
    return columnsOf(query, groundOf(this.design))
  }

  private id(): string {
    return `c_q${++this.made}`
  }

  /** A table, or rows that are said, under new ids. */
  private leaf(): RowQuery {
    if (this.numbers.next(5) === 0) {
      const { type, values } = this.numbers.pick(KINDS)
      const rows = Array.from({ length: this.numbers.next(3) }, () => [this.numbers.pick(values)])
      return { kind: 'constant', columns: [{ id: this.id(), type }], rows }
    }
    const table = this.numbers.pick(this.design.tables)
    const columns = table.columns.map((column): Projected => ({ id: this.id(), from: column.id }))
    return { kind: 'project', of: { kind: 'table', table: table.id }, columns }
  }

  private filter(of: RowQuery): RowQuery {
    const column = this.numbers.pick(this.columns(of))
    const { kind } = column.type
    const tests = [`{${column.id}} is null`, `{${column.id}} is not null`]
    if (kind === 'integer' || kind === 'decimal')
      tests.push(`{${column.id}} > 1`, `{${column.id}} + 1 <= 9007199254740993 or {${column.id}} = 2`)
    if (kind === 'text') tests.push(`{${column.id}} = 'a'`, `not ({${column.id}} = 'b')`)
    if (kind === 'boolean') tests.push(`{${column.id}}`)
    return { kind: 'filter', of, where: this.numbers.pick(tests) }
  }

  private project(of: RowQuery): RowQuery {
    const columns = this.columns(of)
    const some = columns.filter((_, at) => at === 0 || this.numbers.next(3) > 0)
    const made = some.map((column): Projected => ({ id: this.id(), from: column.id }))
    const number = columns.find(({ type }) => type.kind === 'integer' && type.size === 'normal')
    if (number)
      made.push({
        id: this.id(),
        type: { kind: 'integer', size: 'normal' },
        is: `coalesce({${number.id}}, 5) * 2 - 1`
      })
    const { type, values } = this.numbers.pick(KINDS)
    made.push({ id: this.id(), type, value: this.numbers.next(4) === 0 ? null : this.numbers.pick(values) })
    return { kind: 'project', of, columns: made }
  }

  private join(left: RowQuery, right: RowQuery, unmatched: 'kept' | 'dropped'): RowQuery {
    const [ours, theirs] = [this.columns(left), this.columns(right)]
    for (const one of ours)
      for (const other of theirs) {
        if (JSON.stringify(one.type) !== JSON.stringify(other.type)) continue
        const empty = this.numbers.next(2) === 0 ? true : undefined
        return { kind: 'join', left, right, on: [{ left: one.id, right: other.id, empty }], unmatched }
      }
    return left
  }

  /** Rows of both, as far as there is a column of the same type in the other for each of one. */
  private union(one: RowQuery, other: RowQuery): RowQuery {
    const theirs = this.columns(other)
    const pairs = this.columns(one).flatMap((column) => {
      const same = theirs.find((each) => JSON.stringify(each.type) === JSON.stringify(column.type))
      return same ? [{ id: this.id(), one: column.id, other: same.id }] : []
    })
    if (pairs.length === 0) return one
    const side = (of: RowQuery, from: (pair: (typeof pairs)[number]) => string): RowQuery => ({
      kind: 'project',
      of,
      columns: pairs.map((pair) => ({ id: pair.id, from: from(pair) }))
    })
    return { kind: 'union', of: [side(one, (pair) => pair.one), side(other, (pair) => pair.other)] }
  }

  /** Numbered or the first of each, in an order by all columns, so that there is only one. */
  private ranked(of: RowQuery): RowQuery {
    const columns = this.columns(of)
    const by = columns.map(({ id }): Order => ({
      column: id,
      descending: this.numbers.next(2) === 0 || undefined
    }))
    if (this.numbers.next(2) === 0) return { kind: 'number', of: { kind: 'distinct', of }, as: this.id(), by }
    return { kind: 'first', of, per: [this.numbers.pick(columns).id], by }
  }

  /**
   * A flow that fills a new column of a table, or adds rows to one, from a random query; and the design
   * with that column. `made`: how many there were before.
   */
  flow(depth: number, made: number): { flow: Flow; after: Design } {
    const table = this.numbers.pick(this.design.tables)
    const query = this.query(depth)
    const given = this.columns(query)
    const own = this.numbers.pick(table.columns.filter((each) => given.some(sameTypeAs(each))))
    const other = own && this.numbers.pick(given.filter(sameTypeAs(own)))
    if (!own || !other || this.numbers.next(4) === 0)
      return { flow: this.adding(table.id, query), after: this.design }
    const from = this.numbers.pick(given)
    const column: Column = { id: `c_new_${made}`, name: `new_${made}`, type: from.type, required: false }
    const fill: Fill = {
      table: table.id,
      columns: [{ id: column.id, from: from.id }],
      from: { kind: 'first', of: query, per: [other.id], by: given.map(({ id }): Order => ({ column: id })) },
      on: [{ own: own.id, other: other.id, empty: this.numbers.next(2) === 0 ? true : undefined }]
    }
    const tables = this.design.tables.map((each) =>
      each === table ? { ...table, columns: [...table.columns, column] } : each
    )
    return { flow: { ...STILL, fills: [fill] }, after: { ...this.design, tables } }
  }

  private adding(table: string, query: RowQuery): Flow {
    const columns = this.design.tables.find((each) => each.id === table)?.columns ?? []
    const given = this.columns(query)
    const made = columns.map((column): Projected => {
      const same = given.find((each) => JSON.stringify(each.type) === JSON.stringify(column.type))
      return same ? { id: column.id, from: same.id } : { id: column.id, type: column.type, value: null }
    })
    const name = 'r_random'
    return {
      ...STILL,
      results: [{ name, query }],
      adds: [{ table, rows: { kind: 'project', of: { kind: 'result', name }, columns: made } }]
    }
  }
}

const sameTypeAs =
  (column: TypedColumn) =>
  (other: TypedColumn): boolean =>
    JSON.stringify(other.type) === JSON.stringify(column.type)

/** How many of each kind stand in a query. */
export function countKinds(query: RowQuery, counts: Map<string, number>): void {
  counts.set(query.kind, (counts.get(query.kind) ?? 0) + 1)
  const parts =
    query.kind === 'join'
      ? [query.left, query.right]
      : query.kind === 'union'
        ? query.of
        : 'of' in query
          ? [query.of]
          : []
  for (const part of parts) countKinds(part, counts)
}
