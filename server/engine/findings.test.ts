import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyDesign, type Design, type Table } from '../../core/design/model.ts'
import { findingsIn } from '../../core/check/index.ts'
import { PROVABLE, type Provable } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { newTable, proposeRelationship } from '../../core/relate/propose.ts'
import { insertRows } from '../../core/rows/statements.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

/** A pen that stands in a ward, must, and is to stand nowhere when that goes; with a row each. */
function contradictory(dialect: Provable): Design {
  const [ward, pen] = [newTable('ward'), newTable('pen')]
  const run = (design: Design, operation: Operation): Design => {
    const result = apply(design, operation)
    if (!result.ok) throw new Error(result.refusal.message)
    return result.design
  }
  const empty = { ...emptyDesign('Pens', 'd_pens'), dialects: [dialect.name] }
  const both = run(run(empty, { kind: 'table.add', table: ward }), { kind: 'table.add', table: pen })
  const proposed = proposeRelationship(both, {
    parent: ward.id,
    child: pen.id,
    required: true,
    single: false
  })
  const related = run(both, proposed as Operation)
  const rows: Record<string, number>[] = [{ [ward.columns[0]?.id as string]: 1 }]
  const filled = run(related, { kind: 'table.setRows', table: ward.id, rows })
  const columns = filled.tables[1]?.columns ?? []
  const whole = run(filled, {
    kind: 'table.setRows',
    table: pen.id,
    rows: [Object.fromEntries(columns.map(({ id }) => [id, 1]))]
  })
  // Operations keep the two apart; a file may bring them together.
  const emptying = (table: Table): Table => ({
    ...table,
    foreignKeys: table.foreignKeys.map((key) => ({ ...key, onDelete: 'SET NULL' as const }))
  })
  return { ...whole, tables: whole.tables.map(emptying) }
}

describe.each(PROVABLE.map((dialect) => [dialect.title, dialect] as const))(
  'what is found for %s',
  (_, dialect: Provable) => {
    let engine: Engine
    beforeAll(async () => {
      engine = await openEngine(dialect)
      await dialect.engine.reset(engine.query)
      for (const sql of dialect.engine.onConnect) await engine.query(sql)
    })
    afterAll(() => engine.close())

    const failureOf = async (statements: readonly string[]): Promise<string> => {
      try {
        for (const sql of statements) await engine.query(sql)
        return ''
      } catch (error) {
        return error instanceof Error ? error.message : String(error)
      }
    }

    it('is that a required column is to be emptied: the table is refused, or the row that would do it', async () => {
      const design = contradictory(dialect)
      const { catalog } = dialect.catalog(design)
      const [finding] = [...findingsIn(design).values()].flat()
      const made = await failureOf(dialect.create(catalog).map(({ sql }) => sql))
      expect([finding?.rule, finding?.severity]).toEqual([
        'emptied, and required',
        made === '' ? 'wrong' : 'refused'
      ])
      if (made !== '') return
      await failureOf(insertRows(design, catalog, dialect).map(({ sql }) => sql))
      expect(await failureOf(['DELETE FROM ward'])).not.toBe('')
      const mended = finding?.fix && apply(design, finding.fix.operation)
      if (!mended?.ok) throw new Error('not mended')
      expect([...findingsIn(mended.design).values()].flat()).toEqual([])
    })

    it('is nothing any more once it is mended, and then the engine does what is said', async () => {
      await dialect.engine.reset(engine.query)
      const design = contradictory(dialect)
      const [finding] = [...findingsIn(design).values()].flat()
      const mended = finding?.fix && apply(design, finding.fix.operation)
      if (!mended?.ok) throw new Error('not mended')
      const { catalog } = dialect.catalog(mended.design)
      const made = [...dialect.create(catalog), ...insertRows(mended.design, catalog, dialect)]
      expect(
        await failureOf([...dialect.engine.onConnect, ...made.map(({ sql }) => sql), 'DELETE FROM ward'])
      ).toBe('')
      const [row] = await engine.query('SELECT count(*) AS pens FROM pen WHERE ward_id IS NULL')
      expect(Number(row?.pens)).toBe(1)
    })
  }
)
