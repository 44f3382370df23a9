import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { tableOf } from '../../core/design/directory.ts'
import type { Design, ForeignKey, Table } from '../../core/design/model.ts'
import type { RowQuery } from '../../core/design/row-query.ts'
import { violations } from '../../core/design/violations.ts'
import { DIALECTS, PROVABLE, type Provable } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import { proposeJunction } from '../../core/relate/propose.ts'
import { toJunction } from '../../core/restructure/to-junction.ts'
import { made } from '../../tests/made.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { hindrances } from '../../core/version/hindered.ts'
import { planMigration, type MigrationPlan } from '../../core/version/plan.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { withoutOthers } from '../../tests/alone.ts'
import { choices, grow, Maker } from '../../tests/designs.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import { Writes } from '../../tests/writes.ts'
import type { Engine } from './engine.ts'
import { testEngine } from '../../tests/engines.ts'

const start = withoutOthers(fernhollow().versions[2]?.design as Design)

describe.each(PROVABLE.map((dialect) => [dialect.title, dialect] as const))(
  'rows that stand in the way on %s',
  (_, dialect: Provable) => {
    let engine: Engine
    beforeAll(async () => {
      engine = await testEngine(dialect)
    })
    afterAll(() => engine.close())

    /** At what a migration stops, with the rows of the first state or with none; empty where it does not. */
    async function failureOf(plan: MigrationPlan, withRows: boolean): Promise<string> {
      await dialect.engine.reset(engine.query)
      const { catalog } = dialect.catalog(start)
      const rows = withRows ? insertRows(start, catalog, dialect) : []
      const made = [...dialect.create(catalog), ...rows].map(({ sql }) => sql)
      for (const sql of [...dialect.engine.onConnect, ...made]) await engine.query(sql)
      try {
        for (const { sql } of plan.up) await engine.query(sql)
        return ''
      } catch (error) {
        await engine.query('ROLLBACK').catch(() => undefined)
        return error instanceof Error ? error.message : String(error)
      }
    }

    it('are named where the engine stops, and nowhere else', async () => {
      const seen = { stopped: 0, ran: 0 }
      await fc.assert(
        fc.asyncProperty(choices(6, 2), async (taken) => {
          const to = grow(taken, start, new Maker())
          const plan = planMigration(start, to, dialect)
          if (plan.up.length === 0 || violations(start).length > 0) return
          // What stops without a single row is for other tests to find.
          if ((await failureOf(plan, false)) !== '') return
          const failure = await failureOf(plan, true)
          const said = hindrances(start, to, plan.ways.up.moves, plan.ways.up.input.to).map(
            ({ message }) => message
          )
          expect(said.length > 0, `${failure}\n${said.join('\n')}`).toBe(failure !== '')
          seen[failure ? 'stopped' : 'ran']++
        }),
        { numRuns: times(dialect.name === 'sqlite' ? 140 : 60), endOnFailure: true }
      )
      expect(Object.values(seen).filter((count) => count < 4)).toEqual([])
    })

    it('are what a restructuring asks for, and then nothing is changed', async () => {
      const many = tableOf(start, 't_admission') as Table
      const reference = many.foreignKeys.find(({ table }) => table === 't_reason') as ForeignKey
      const junction = proposeJunction(start, many, tableOf(start, 't_reason') as Table)
      const resolved = apply(start, made(toJunction(start, many, reference, junction)))
      if (!resolved.ok) throw new Error(resolved.refusal.message)
      const says = "An admission's weight is too much for that."
      const asking = (limit: number): Design => ({
        ...resolved.design,
        carries: resolved.design.carries.map((carry) => {
          if (!('there' in carry)) return carry
          const query: RowQuery = {
            kind: 'filter',
            of: { kind: 'table', table: many.id },
            where: `{c_admission_weight_g} > ${limit}`
          }
          return { ...carry, there: { ...carry.there, requires: [{ query, says }] } }
        })
      })
      for (const [limit, stops] of [
        [1000, true],
        [1_000_000, false]
      ] as const) {
        const to = asking(limit)
        const plan = planMigration(start, to, dialect)
        const { moves, input } = plan.ways.up
        expect(hindrances(start, to, moves, input.to).map(({ message }) => message)).toEqual(
          stops ? [says] : []
        )
        // As it goes on where it was stopped, and as it is run by itself.
        const up = dialect.restart?.(plan.ways, 'up') ?? plan.up
        expect((await failureOf({ ...plan, up }, true)) !== '').toBe(stops)
        const failure = await failureOf(plan, true)
        expect(failure !== '').toBe(stops)
        if (!stops) continue
        if (dialect !== DIALECTS.sqlite) expect(failure).toContain(says)
        const rows = await new Writes(start, dialect, engine, new Numbers([1])).everything()
        expect([...rows.values()].flat().length).toBeGreaterThan(50)
        expect(await failureOf({ ...plan, up: [] }, true)).toBe('')
        expect(await new Writes(start, dialect, engine, new Numbers([1])).everything()).toEqual(rows)
      }
    })
  }
)
