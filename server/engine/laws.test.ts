import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { tableOf } from '../../core/design/directory.ts'
import type { Design } from '../../core/design/model.ts'
import { PROVABLE, type Provable } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { offersFor } from '../../core/restructure/index.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { Choice } from '../../core/version/choice.ts'
import { planMigration, type MigrationPlan } from '../../core/version/plan.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { helpers, outcomes, places } from '../../tests/alike.ts'
import { withoutOthers } from '../../tests/alone.ts'
import { changeOfMind, plainChange } from '../../tests/minds.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import { Writes } from '../../tests/writes.ts'
import type { Engine } from './engine.ts'
import { testEngine } from '../../tests/engines.ts'

/** The demo's third version, without what is another system's. */
const start = withoutOthers(fernhollow().versions[2]?.design as Design)

/** The demo with tables beside it that are alike, and with one of several kinds. */
const shaped = withoutOthers(
  carriedOut(fernhollow().versions[3]?.design as Design, [...outcomes, ...helpers, ...places])
)

function carriedOut(design: Design, operations: Operation[]): Design {
  const result = apply(design, { kind: 'batch', operations })
  return result.ok ? result.design : expect.fail(result.refusal.message)
}

/** Several tables become one, or one becomes several. */
function reshaped(design: Design, numbers: Numbers): { kind: string; operation: Operation } | undefined {
  const offers = design.tables.flatMap((table) => offersFor(design, { table }))
  const offer = numbers.pick(offers.filter(({ kind }) => kind === 'one table' || kind === 'apart'))
  const operation = offer?.operation()
  return offer && operation?.ok ? { kind: offer.kind, operation: operation.value } : undefined
}

/** Chains of changes of mind on which rows were once lost or came back, by what they do; each was found in a soak. */
const chains = JSON.parse(
  readFileSync(join(import.meta.dirname, '../../tests/fixtures/chains.json'), 'utf8')
) as Record<'plain' | 'shaped', Record<string, number[]>>
const found = (kind: keyof typeof chains): [number[]][] =>
  Object.values(chains[kind]).map((numbers): [number[]] => [numbers])

/** Counts what was done, and says which of some were hardly done at all. */
function tally(): { seen(kind: string): void; rare(kinds: readonly string[]): string[] } {
  const counts = new Map<string, number>()
  return {
    seen: (kind) => void counts.set(kind, (counts.get(kind) ?? 0) + 1),
    rare: (kinds) => kinds.filter((kind) => (counts.get(kind) ?? 0) < 2)
  }
}

/** What becomes of a design by changes that numbers choose, one state after each. */
function evolved(
  numbers: Numbers,
  count: number,
  seen: (kind: string) => void,
  from = start,
  first?: typeof reshaped
): Design[] {
  const states = [from]
  for (let n = 0; n < count; n++) {
    const design = states.at(-1) as Design
    const other = numbers.next(5) < 3 ? changeOfMind(design, numbers) : plainChange(design, numbers, n)
    const change = n === 0 && first ? first(design, numbers) : other
    const result = change && apply(design, change.operation)
    if (!result?.ok) continue
    states.push(result.design)
    seen(change?.kind ?? '')
  }
  return states
}

/** A state with some of what changes between two, and what hangs on that; nothing where that is all or none. */
function someOf(from: Design, to: Design, numbers: Numbers): Design | undefined {
  const choice = new Choice(from, to)
  const [one, other] = [numbers.pick(choice.delta)?.key, numbers.pick(choice.delta)?.key]
  if (one === undefined || other === undefined) return undefined
  const chosen = choice.with(choice.with(new Set(), one), other)
  return chosen.size < choice.delta.length ? choice.design(chosen) : undefined
}

/**
 * Whether rows are numbered on the way as they are in the draft: in the order of a key that they have where the way
 * begins. In the order of another, numbers are others, and lead to the same rows.
 */
function countsAlike(from: Design, to: Design): boolean {
  const counting = to.carries
    .filter(({ id }) => from.carries.every((each) => each.id !== id))
    .flatMap((carry) => ('there' in carry ? carry.there.results : []))
  return counting.every(({ query }) => {
    if (query.kind !== 'number' || query.of.kind !== 'table') return true
    const table = tableOf(from, query.of.table)
    const by = query.by.map(({ column }) => column)
    return table !== undefined && by.join() === table.primaryKey?.columns.join()
  })
}

describe.each(PROVABLE.map((dialect) => [dialect.title, dialect] as const))(
  'on %s',
  (_, dialect: Provable) => {
    let engine: Engine
    beforeAll(async () => {
      engine = await testEngine(dialect)
    })
    afterAll(() => engine.close())

    /** Carries a way out. False where rows stand in its way, which was told of beforehand. */
    const run = async (plan: MigrationPlan, way: 'up' | 'down'): Promise<boolean> => {
      try {
        for (const { sql } of plan[way]) await engine.query(sql)
        return true
      } catch (error) {
        if (!plan.warnings[way].some(({ effect }) => effect === 'stops')) throw error
        // Where nothing is open, there is nothing to take back.
        await engine.query('ROLLBACK').catch(() => undefined)
        return false
      }
    }

    const make = async (design: Design): Promise<void> => {
      await dialect.engine.reset(engine.query)
      for (const sql of dialect.engine.onConnect) await engine.query(sql)
      const { catalog } = dialect.catalog(design)
      for (const { sql } of [...dialect.create(catalog), ...insertRows(design, catalog, dialect)])
        await engine.query(sql)
    }

    /**
     * There, some written, back and there again, at times twice with more written in between: what was written is there,
     * or the way stopped as was told.
     */
    const thereAndBack = async (
      from: Design,
      to: Design,
      numbers: Numbers,
      seen: (kind: string) => void
    ): Promise<void> => {
      const plan = planMigration(from, to, dialect)
      await make(from)
      if (!(await run(plan, 'up'))) return seen('stopped')
      const writes = new Writes(to, dialect, engine, numbers, from)
      await writes.some(25)
      for (const [kind, count] of Object.entries(writes.done)) for (let n = 0; n < count; n++) seen(kind)
      const rounds = numbers.next(4) === 0 ? 2 : 1
      for (let round = 0; round < rounds; round++) {
        if (round > 0) await writes.some(8)
        const written = await writes.everything()
        if (!(await run(plan, 'down'))) return seen('stopped on the way down')
        if (!(await run(plan, 'up'))) return seen('stopped')
        expect(await writes.everything()).toEqual(written)
        seen(round > 0 ? 'told again' : 'told')
      }
    }

    it('what was written after the way up is there again after down and up, and not one row less or more', async () => {
      const { seen, rare } = tally()
      await fc.assert(
        fc.asyncProperty(fc.array(fc.nat(1000), { minLength: 60, maxLength: 90 }), async (given) => {
          const numbers = new Numbers(given)
          const to = evolved(numbers, 6, seen).at(-1) as Design
          await thereAndBack(start, to, numbers, seen)
        }),
        { numRuns: times(66), endOnFailure: true, examples: found('plain') }
      )
      const kinds = [
        'resolved',
        'facts apart',
        'split off',
        'generated key',
        'split',
        'counted',
        'new and filled',
        'filled and required',
        'looked up',
        'new table',
        'new column',
        'column goes',
        'inserted',
        'updated',
        'deleted',
        'told',
        'told again'
      ]
      expect(rare(kinds)).toEqual([])
    })

    it('so it is where tables become one, or one becomes several, before anything else', async () => {
      const { seen, rare } = tally()
      await fc.assert(
        fc.asyncProperty(fc.array(fc.nat(1000), { minLength: 60, maxLength: 90 }), async (given) => {
          const numbers = new Numbers(given)
          const to = evolved(numbers, 3, seen, shaped, reshaped).at(-1) as Design
          await thereAndBack(shaped, to, numbers, seen)
        }),
        { numRuns: times(16), endOnFailure: true, examples: found('shaped') }
      )
      const kinds = ['one table', 'apart', 'inserted', 'updated', 'deleted', 'told']
      expect(rare(kinds)).toEqual([])
    })

    it('a way over another state comes to the same rows as the way past it, there and back', async () => {
      const told = { state: 0, part: 0, all: 0 }
      await fc.assert(
        fc.asyncProperty(fc.array(fc.nat(1000), { minLength: 30, maxLength: 40 }), async (given) => {
          const numbers = new Numbers(given)
          const states = evolved(numbers, 6, () => undefined)
          const to = states.at(-1) as Design
          const kind = numbers.next(2) === 0 ? 'state' : 'part'
          const middle = kind === 'state' ? numbers.pick(states) : someOf(start, to, numbers)
          if (!middle) return
          const [first, second, whole] = [
            planMigration(start, middle, dialect),
            planMigration(middle, to, dialect),
            planMigration(start, to, dialect)
          ]
          if (middle === start || middle === to) return
          const rows = (design: Design) => new Writes(design, dialect, engine, numbers).everything()
          await make(start)
          const before = await rows(start)
          if (!(await run(first, 'up')) || !(await run(second, 'up'))) return
          const over = await rows(to)
          if (!(await run(second, 'down')) || !(await run(first, 'down'))) return
          expect(await rows(start)).toEqual(before)
          await make(start)
          if (!(await run(whole, 'up'))) return
          told.all++
          if (![start, middle].every((from) => countsAlike(from, to))) return
          expect(await rows(to)).toEqual(over)
          told[kind]++
        }),
        { numRuns: times(56), endOnFailure: true }
      )
      expect(Math.min(told.state, told.part)).toBeGreaterThan(3)
    })
  }
)
