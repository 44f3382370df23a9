import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { z } from 'zod'
import { choices, grow } from '../../tests/designs.ts'
import { times } from '../../tests/times.ts'
import { districts } from '../../demo/districts.ts'
import { changesBetween } from './changes.ts'
import { orderedInTurns } from './file.ts'
import { flawsInTurns } from './integrity.ts'
import { readJsonInTurns } from './json.ts'
import { designSchema, type Design } from './model.ts'
import { finish, type Paused } from './paused.ts'
import { shapedDesign, shapedVersion } from './shaped.ts'
import { sizeInTurns } from './size.ts'
import { soundPartInTurns } from './sound.ts'
import { partsOf, piecesOf, textOf } from './text-of.ts'
import { foldedVersionSchema } from './folded.ts'

/** Work on large designs in many short stretches comes to the same as in one. */

function stopsOf(work: Paused<unknown>): number {
  let stops = 0
  while (!work.next().done) stops++
  return stops
}

/** What is wrong with a value, in no order. */
const said = (issues: readonly z.core.$ZodIssue[] = []): string[] =>
  issues.map(({ path, message }) => `${path.join('.')}: ${message}`).sort()

const large = districts(5000)

describe('work on a design of 5,000 tables', () => {
  it.each<[string, () => Paused<unknown>]>([
    ['writing it as text', () => textOf(large)],
    ['reading that', () => readJsonInTurns(JSON.stringify(large))],
    ['reading it where it is no design', () => shapedDesign({ ...large, tables: large.tables.map(() => 7) })],
    ['holding it to its schema', () => shapedDesign(large)],
    ['judging it', () => flawsInTurns(large)],
    ['putting it in order', () => orderedInTurns(large)],
    ['measuring it', () => sizeInTurns({ ...large, tables: large.tables.map((table) => ({ ...table })) })],
    ['finding what of it is sound', () => soundPartInTurns(large)]
  ])('stops often: %s', (_, work) => {
    // No stretch has more than 200 tables or half a megabyte.
    expect(stopsOf(work())).toBeGreaterThanOrEqual(25)
  })
})

describe('work in many stretches', () => {
  it('writes a design as JSON.stringify does, in pieces and in parts that end within no character', () => {
    fc.assert(
      fc.property(choices(25), (given) => {
        const design = grow(given)
        expect([...piecesOf(design)].join('')).toBe(JSON.stringify(design))
        expect(finish(textOf(design))).toBe(JSON.stringify(design))
      }),
      { numRuns: times(200) }
    )
    const text = '🦔'.repeat(400_000)
    for (const odd of ['', 'x']) {
      const parts = [...partsOf(odd + text)]
      expect(parts.length).toBeGreaterThan(1)
      expect(parts.every((part) => part.isWellFormed())).toBe(true)
      expect(parts.join('')).toBe(odd + text)
    }
  })

  it('takes and refuses what the schema takes and refuses, and says the same of it', () => {
    const seen = { taken: 0, refused: 0 }
    const breakage = fc.option(
      fc.tuple(fc.nat(20), fc.constantFrom('id', 'name', 'columns', 'rows', 'odd'), fc.jsonValue())
    )
    fc.assert(
      fc.property(choices(20), breakage, (given, how) => {
        const design = grow(given)
        const value = how ? broken(design, how) : design
        const [whole, sliced] = [designSchema.safeParse(value), finish(shapedDesign(value))]
        expect(sliced.data).toEqual(whole.data)
        expect(JSON.stringify(sliced.data)).toBe(JSON.stringify(whole.data))
        expect(said(sliced.error?.issues)).toEqual(said(whole.error?.issues))
        seen[whole.success ? 'taken' : 'refused']++
      }),
      { numRuns: times(300) }
    )
    expect(Math.min(seen.taken, seen.refused)).toBeGreaterThan(30)
  })

  it('takes a version as what is otherwise in it, as its schema does', () => {
    fc.assert(
      fc.property(choices(15), choices(15), (first, second) => {
        const [before, after] = [grow(first), grow(second)]
        const about = { number: 2, note: '', savedAt: '2026-05-03T07:40:00Z' }
        for (const value of [
          { ...about, design: after },
          { ...about, since: changesBetween(before, after) },
          about
        ])
          expect(finish(shapedVersion(value)).data).toEqual(foldedVersionSchema.safeParse(value).data)
      }),
      { numRuns: times(100) }
    )
  })
})

function broken(design: Design, [at, part, value]: [number, string, unknown]): unknown {
  if (design.tables.length === 0) return { ...design, [part]: value }
  const tables: unknown[] = [...design.tables]
  tables[at % tables.length] = { ...design.tables[at % tables.length], [part]: value }
  return { ...design, tables }
}
