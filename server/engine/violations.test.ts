import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { keysOf, tableOf } from '../../core/design/directory.ts'
import type { Design, Row, Table } from '../../core/design/model.ts'
import { violations, type Violation } from '../../core/design/violations.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { choices, grow } from '../../tests/designs.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

const dialect = DIALECTS.sqlite
const start = fernhollow().versions[2]?.design as Design

/** The design with a row of a table spoilt in some way, or left as it was. */
function spoilt(design: Design, numbers: Numbers): Design {
  const table = numbers.pick(design.tables.filter((each) => each.rows.length > 1 && !each.external))
  const at = numbers.next(table?.rows.length ?? 1)
  const row = table?.rows[at]
  if (!table || !row) return design
  const other = table.rows[(at + 1) % table.rows.length] as Row
  const key = numbers.pick(keysOf(table))
  // What is empty gets what the engine gives it by then.
  const column = numbers.pick(
    table.columns.filter((each) => each.computed === undefined && each.default === undefined)
  )
  const reference = numbers.pick(table.foreignKeys)
  const made: Row = [
    { ...row, ...Object.fromEntries((key?.columns ?? []).map((id) => [id, other[id] ?? null])) },
    { ...row, ...(column && { [column.id]: null }) },
    {
      ...row,
      ...Object.fromEntries(
        (reference?.pairs ?? []).map((pair) => [pair.column, NOWHERE[kindOf(table, pair.column)] ?? null])
      )
    },
    row
  ][numbers.next(4)] as Row
  const rows = table.rows.map((each, n) => (n === at ? made : each))
  return { ...design, tables: design.tables.map((each) => (each === table ? { ...each, rows } : each)) }
}

const kindOf = (table: Table, id: string): string =>
  table.columns.find((column) => column.id === id)?.type.kind ?? ''
const NOWHERE: Record<string, string | number> = { integer: 30_000, text: 'nowhere', char: 'NOWH' }

const held = (found: readonly Violation[]): Violation[] => found.filter(({ kind }) => kind !== 'check')

describe('what is wrong in a design’s own rows', () => {
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())

  /** Why an engine does not take the rows, all of them; nothing where it does. */
  async function refusalOf(design: Design): Promise<string> {
    await dialect.engine.reset(engine.query)
    const { catalog } = dialect.catalog(design)
    const run = async (sql: string): Promise<void> => void (await engine.query(sql))
    await run('PRAGMA foreign_keys = ON')
    for (const { sql } of dialect.create(catalog)) await run(sql)
    await run('BEGIN')
    await run('PRAGMA defer_foreign_keys = ON')
    try {
      for (const { sql } of insertRows(design, catalog, dialect)) await run(sql)
      await run('COMMIT')
      return ''
    } catch (error) {
      await run('ROLLBACK')
      return String(error)
    }
  }

  it('is what an engine refuses, and nothing else', async () => {
    const seen = new Map<string, number>()
    const count = (kind: string): void => void seen.set(kind, (seen.get(kind) ?? 0) + 1)
    await fc.assert(
      fc.asyncProperty(fc.array(fc.nat(1000), { minLength: 12, maxLength: 20 }), async (given) => {
        const design = spoilt(start, new Numbers(given))
        const found = violations(design)
        found.forEach(({ kind }) => count(kind))
        if (found.length === 0) count('none')
        const refusal = await refusalOf(design)
        expect([refusal, found.map(({ message }) => message)]).toSatisfy(
          () => (refusal === '') === (found.length === 0)
        )
      }),
      { numRuns: times(120) }
    )
    expect(['required', 'key', 'reference', 'none'].filter((kind) => (seen.get(kind) ?? 0) < 5)).toEqual([])
  })

  it('is never let in by an operation, whatever is done', () => {
    let refused = 0
    fc.assert(
      fc.property(
        choices(12, 4),
        fc.array(fc.nat(1000), { minLength: 12, maxLength: 20 }),
        (taken, given) => {
          const grown = grow(taken, start)
          const bad = spoilt(grown, new Numbers(given))
          // What no row had anything in is asked by the migration.
          const isAsked = ({ kind, table, of, rows }: Violation): boolean =>
            kind === 'required' &&
            (!tableOf(start, table)?.columns.some((column) => column.id === of) ||
              tableOf(bad, table)?.rows.length === rows.length)
          expect(held(violations(grown)).filter((each) => !isAsked(each))).toEqual([])
          const table = bad.tables.find((each, at) => each !== grown.tables[at])
          if (!table) return
          const wrong = held(violations(bad)).filter((each) => !isAsked(each))
          const result = apply(grown, { kind: 'table.setRows', table: table.id, rows: table.rows })
          if (wrong.length === 0) return
          expect(result.ok ? 'let in' : result.refusal.message).not.toBe('let in')
          for (const offer of result.ok ? [] : result.refusal.offers) {
            const mended = apply(grown, offer.operation)
            expect(mended.ok && held(violations(mended.design)).filter((each) => !isAsked(each))).toEqual([])
          }
          refused++
        }
      ),
      { numRuns: times(80) }
    )
    expect(refused).toBeGreaterThan(10)
  })
})
