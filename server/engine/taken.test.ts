import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { OddDesigns, type Odd } from '../../tests/odd-designs.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import { findingsIn } from '../../core/check/index.ts'
import type { Finding } from '../../core/check/finding.ts'
import type { Design } from '../../core/design/model.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

/** What an engine is asked of: that many designs, of which each kind of oddity is in so many at least. */
const RUNS = { sqlite: 400, postgresql: 120, mariadb: 120 } as const
const LEAST: Partial<Record<Odd, number>> = {
  computed: 100,
  'computed from computed': 10,
  'computed in a key': 30,
  'computed refers': 8,
  partial: 40,
  'types that differ': 40,
  acts: 80,
  'empties what is required': 15,
  'refers to itself': 40,
  circle: 6,
  'wide row': 5,
  'long value': 8,
  check: 100
}

describe.each(['sqlite', 'postgresql', 'mariadb'] as const)('%s', (name) => {
  const dialect = DIALECTS[name]
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())

  /** What could not be made first, and why; nothing where all could. */
  async function refusal(design: Design): Promise<{ says: string; why: string } | undefined> {
    await dialect.engine.reset(engine.query)
    for (const sql of dialect.engine.onConnect) await engine.query(sql)
    for (const { sql, says } of dialect.create(dialect.catalog(design).catalog)) {
      try {
        await engine.query(sql)
      } catch (error) {
        return { says, why: `${sql}\n${error instanceof Error ? error.message : String(error)}` }
      }
    }
    return undefined
  }

  it('takes what is written, or a finding had said that it would not, of which table and why', async () => {
    const made = new Map<Odd, number>()
    const counts = { taken: 0, refused: 0, falseAlarms: [] as string[] }
    await fc.assert(
      fc.asyncProperty(fc.array(fc.nat(1e6), { minLength: 400, maxLength: 400 }), async (numbers) => {
        const maker = new OddDesigns(new Numbers(numbers))
        const design = maker.design([name])
        for (const [odd, count] of maker.made) made.set(odd, (made.get(odd) ?? 0) + count)
        const found = [...findingsIn(design).values()].flat().filter(isRefusal)
        const refused = await refusal(design)
        const tables = found.map(({ table }) => design.tables.find(({ id }) => id === table)?.name)
        const told = found.map(({ message }) => message).join('\n')
        if (refused) {
          counts.refused++
          const [table] = /\bt\d\b/.exec(refused.says) ?? []
          expect(tables, `${refused.why}\n${told}`).toContain(table)
          for (const { rule, message } of found) expect(message, rule).toContain(dialect.title)
        } else if (found.length > 0) counts.falseAlarms.push(told)
        else counts.taken++
      }),
      { numRuns: times(RUNS[name]) }
    )
    for (const [odd, least] of Object.entries(LEAST)) {
      const often = made.get(odd as Odd) ?? 0
      expect(often, odd).toBeGreaterThanOrEqual(times(least))
    }
    expect(counts.taken).toBeGreaterThan(times(20))
    expect(counts.refused).toBeGreaterThan(times(20))
    // MariaDB looks at one of its rules only where constraints come in some order.
    expect(counts.falseAlarms.length, counts.falseAlarms.join('\n')).toBeLessThanOrEqual(counts.refused / 50)
  })
})

const isRefusal = ({ severity }: Finding): boolean => severity === 'refused'
