import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { rowsOf } from '../../core/carry/evaluate.ts'
import { groundOf } from '../../core/carry/ground.ts'
import { tableOf } from '../../core/design/directory.ts'
import { emptyDesign, type Design, type Row } from '../../core/design/model.ts'
import type { RowQuery, TypedColumn } from '../../core/design/row-query.ts'
import { canonicalValue } from '../../core/design/same.ts'
import { DIALECTS, PROVABLE, type Provable } from '../../core/dialect/index.ts'
import { standingIn } from '../../core/dialect/standing.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { countKinds, Numbers, QueryMaker, someTables } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

const numbers = fc.array(fc.nat(1000), { minLength: 20, maxLength: 60 })
/** Designs whose rows are put into an engine, each for many queries. */
const DESIGNS = 6

function expected(query: RowQuery, design: Design): string[] {
  const ground = groundOf(design)
  const rows = rowsOf(query, { ground, table: (id) => tableOf(design, id)?.rows ?? [], result: () => [] })
  const columns = new QueryMaker(new Numbers([0]), design).columns(query)
  return rows
    .map((row: Row) => JSON.stringify(columns.map(({ id, type }) => canonicalValue(row[id], type))))
    .sort()
}

async function found(query: RowQuery, design: Design, dialect: Provable, engine: Engine): Promise<string[]> {
  const { catalog } = dialect.catalog(design)
  const { sql, columns, names } = dialect.rows(query, standingIn(design, catalog, dialect), { naming: true })
  const texts = columns.map(
    ({ id, type }, at) => `${dialect.engine.selectText(names.get(id) ?? '', type)} AS v${at}`
  )
  const rows = await engine.query(`SELECT ${texts.join(', ')} FROM (${sql}) whole`)
  const values = (row: Record<string, unknown>): unknown[] =>
    columns.map(({ type }: TypedColumn, at) => canonicalValue(row[`v${at}`], type))
  return rows.map((row) => JSON.stringify(values(row))).sort()
}

describe.each(PROVABLE.map((dialect) => [dialect.title, dialect] as const))(
  'a row query, on %s,',
  (_, dialect) => {
    let engine: Engine
    beforeAll(async () => {
      engine = await openEngine(dialect)
    }, 120_000)
    afterAll(() => engine.close())

    it('takes texts that are said for what they are as those of columns: each by itself, in the same order', async () => {
      const type = { kind: 'text', length: 20 } as const
      const texts = ['same', 'Same', '[x', 'a', 'A', 'b', 'b ', 'é', 'e']
      const said = (id: string): RowQuery => ({
        kind: 'constant',
        columns: [{ id, type }],
        rows: texts.map((text) => [text])
      })
      const part = (text: string): RowQuery => ({
        kind: 'project',
        of: said('c_any'),
        columns: [{ id: 'c_said', type, value: text }]
      })
      const design = emptyDesign('texts')
      await dialect.engine.reset(engine.query)
      const asked: RowQuery[] = [
        { kind: 'number', of: said('c_said'), as: 'c_no', by: [{ column: 'c_said' }] },
        {
          kind: 'number',
          of: { kind: 'distinct', of: { kind: 'union', of: texts.map(part) } },
          as: 'c_no',
          by: [{ column: 'c_said', descending: true }]
        },
        {
          kind: 'join',
          left: said('c_said'),
          right: said('c_other'),
          on: [{ left: 'c_said', right: 'c_other' }],
          unmatched: 'dropped'
        }
      ]
      for (const query of asked) {
        const here = expected(query, design)
        expect(here).toHaveLength(texts.length)
        expect(await found(query, design, dialect, engine)).toEqual(here)
      }
    })

    it('gives the rows that are worked out here', async () => {
      const kinds = new Map<string, number>()
      let rows = 0
      for (let n = 0; n < times(DESIGNS); n++) {
        const [given] = fc.sample(numbers, { numRuns: 1 }) as [number[]]
        const design = someTables(new Numbers(given))
        await dialect.engine.reset(engine.query)
        const { catalog } = dialect.catalog(design)
        const made = [...dialect.create(catalog), ...insertRows(design, catalog, dialect)]
        for (const { sql } of made) await engine.query(sql)
        await fc.assert(
          fc.asyncProperty(numbers, fc.nat(3), async (choices, depth) => {
            const query = new QueryMaker(new Numbers(choices), design).query(depth + 1)
            const here = expected(query, design)
            expect(await found(query, design, dialect, engine)).toEqual(here)
            countKinds(query, kinds)
            rows += here.length
          }),
          { numRuns: 40 }
        )
      }
      const all = ['table', 'constant', 'filter', 'project', 'join', 'union', 'distinct', 'number', 'first']
      for (const kind of all)
        expect([kind, kinds.get(kind) ?? 0]).toSatisfy(([, count]) => (count as number) > 5)
      expect(rows).toBeGreaterThan(300)
    })
  }
)

describe('a row query', () => {
  it('is printed in every dialect, with nothing that was not judged outside quotes', () => {
    fc.assert(
      fc.property(numbers, (choices) => {
        const source = new Numbers(choices)
        const design = someTables(source)
        const query = new QueryMaker(source, design).query(3)
        for (const dialect of Object.values(DIALECTS)) {
          const { catalog } = dialect.catalog(design)
          expect(dialect.rows(query, standingIn(design, catalog, dialect)).sql).toMatch(/^SELECT /)
        }
      }),
      { numRuns: times(40) }
    )
  })
})
