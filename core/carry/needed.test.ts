import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Numbers, QueryMaker, someTables } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import { tableOf } from '../design/directory.ts'
import type { Design, Row } from '../design/model.ts'
import { canonicalValue } from '../design/same.ts'
import { partsOfQuery, type Projected, type RowQuery, type TypedColumn } from '../design/row-query.ts'
import { rowsOf } from './evaluate.ts'
import { groundOf } from './ground.ts'
import { neededFor } from './needed.ts'

const countOf = (query: RowQuery, kind: RowQuery['kind']): number =>
  partsOfQuery(query).reduce((sum, part) => sum + countOf(part, kind), query.kind === kind ? 1 : 0)

/** At times with rows of a table beside it, found by its key and numbered: each once, or not at all. */
function withMore(left: RowQuery, maker: QueryMaker, numbers: Numbers, design: Design): RowQuery {
  const table = numbers.pick(design.tables)
  const [key] = table.columns
  const own = maker.columns(left).find(({ type }) => type.kind === 'integer' && type.size === 'normal')
  if (!own || !key || numbers.next(2) === 0) return left
  const columns = table.columns.map(({ id }): Projected => ({ id: `${id}_beside`, from: id }))
  const rows: RowQuery = { kind: 'project', of: { kind: 'table', table: table.id }, columns }
  const by = [{ column: `${key.id}_beside` }]
  const right: RowQuery = numbers.next(2) === 0 ? rows : { kind: 'number', of: rows, as: 'c_number', by }
  const on = [{ left: own.id, right: `${key.id}_beside` }]
  return { kind: 'join', left, right, on, unmatched: numbers.next(3) === 0 ? 'dropped' : 'kept' }
}

describe('what is needed of a query', () => {
  it('gives the same rows, as often, in the columns that are wanted', () => {
    const seen = { columns: 0, numbers: 0, joins: 0 }
    fc.assert(
      fc.property(fc.array(fc.nat(1000), { minLength: 20, maxLength: 80 }), (given) => {
        const numbers = new Numbers(given)
        const design = someTables(numbers)
        const maker = new QueryMaker(numbers, design)
        const query = withMore(maker.query(1 + numbers.next(4)), maker, numbers, design)
        const columns = maker.columns(query)
        const wanted = columns.filter(() => numbers.next(3) === 0)
        const needed = neededFor(query, new Set(wanted.map(({ id }) => id)), design)
        const ground = groundOf(design)
        const table = (id: string): readonly Row[] => tableOf(design, id)?.rows ?? []
        const said = (of: RowQuery): string[] =>
          rowsOf(of, { ground, table, result: () => [] })
            .map((row) => spelled(row, wanted))
            .sort()
        expect(said(needed)).toEqual(said(query))
        if (maker.columns(needed).length < columns.length) seen.columns++
        if (countOf(needed, 'number') < countOf(query, 'number')) seen.numbers++
        if (countOf(needed, 'join') < countOf(query, 'join')) seen.joins++
      }),
      { numRuns: times(1500) }
    )
    expect(seen.columns).toBeGreaterThan(300)
    expect(seen.numbers).toBeGreaterThan(50)
    expect(seen.joins).toBeGreaterThan(50)
  })
})

const spelled = (row: Row, wanted: readonly TypedColumn[]): string =>
  JSON.stringify(wanted.map(({ id, type }) => canonicalValue(row[id], type)))
