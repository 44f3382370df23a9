import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { labelViews } from '../../core/definitions/label-views.ts'
import { createView } from '../../core/definitions/view-script.ts'
import { columnOf, tableOf } from '../../core/design/directory.ts'
import type { Design, Row, Table } from '../../core/design/model.ts'
import { canonicalValue } from '../../core/design/same.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { proposeLabel } from '../../core/relate/label.ts'
import { referredPlace } from '../../core/rows/sides.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { build } from '../../tests/built.ts'
import { withJunctions } from '../../tests/junctions.ts'
import { owned } from '../../tests/owned.ts'
import { times } from '../../tests/times.ts'
import { Draws, drawnDesign } from '../../tests/trials.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

/** What a row is called, as values, along references as deep as a view goes. */
function labelOf(design: Design, table: Table, row: Row | undefined, depth: number): (string | null)[] {
  return (table.label ?? proposeLabel(table)).flatMap((id) => {
    const column = columnOf(table, id)
    const key = table.foreignKeys.find(({ pairs }) => pairs[0]?.column === id)
    const parent = key && tableOf(design, key.table)
    if (!parent) return column ? [canonicalValue(row?.[id] ?? null, column.type)] : []
    if (depth === 2) return []
    const place = row && referredPlace(design, table, key, row)
    return labelOf(design, parent, place === undefined ? undefined : parent.rows[place], depth + 1)
  })
}

/** What a junction's view is to give, a text for each of its rows, in no order. */
const expected = (design: Design, junction: Table): string[] =>
  junction.rows
    .map((row) => {
      const labels = junction.foreignKeys.flatMap((key) => {
        const side = tableOf(design, key.table) as Table
        const place = referredPlace(design, junction, key, row)
        return labelOf(design, side, place === undefined ? undefined : side.rows[place], 1)
      })
      return JSON.stringify(labels)
    })
    .sort()

/** A value in one spelling, whatever the driver makes of it. */
function spelt(value: unknown): string | null {
  if (value === null) return null
  const text = value instanceof Date ? value.toISOString() : String(value)
  return /^\d{4}-\d\d-\d\d[ T]/.test(text) ? text.slice(0, 19).replace('T', ' ') : text
}

describe.each(['sqlite', 'postgresql', 'mariadb'] as const)('views of junctions by labels, on %s', (name) => {
  const dialect = DIALECTS[name]
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())

  /** What the views give besides the junctions' own columns. */
  async function holds(design: Design): Promise<number> {
    await build(design, dialect, engine)
    const views = labelViews(design, dialect)
    for (const view of views) {
      await engine.query(createView(view).sql)
      const rows = await engine.query(`SELECT * FROM ${view.name}`)
      await engine.query(`DROP VIEW ${view.name}`)
      const wanted = expected(design, view.table)
      const given = rows.map((row) => {
        const labels = Object.values(row).slice(view.table.columns.length)
        return JSON.stringify(labels.map(spelt))
      })
      expect(given.sort(), view.name).toEqual(wanted)
    }
    return views.length
  }

  it('give each pair once, with what both sides are called: in the demo, and in random designs', async () => {
    expect(await holds({ ...owned(fernhollow().design), dialects: [name] })).toBe(5)
    let seen = 0
    await fc.assert(
      fc.asyncProperty(fc.array(fc.nat(9999), { minLength: 400, maxLength: 400 }), async (drawn) => {
        const draws = new Draws(drawn)
        const design = {
          ...withJunctions(draws, drawnDesign(draws, dialect.facts)),
          dialects: [dialect.name]
        }
        const tables = design.tables.map((table) => ({
          ...table,
          foreignKeys: table.foreignKeys.map((key) => ({
            ...key,
            onDelete: 'NO ACTION' as const,
            onUpdate: 'NO ACTION' as const
          }))
        }))
        seen += await holds({ ...design, tables })
      }),
      { numRuns: times(20) }
    )
    expect(seen).toBeGreaterThan(times(20) - 1)
  })
})
