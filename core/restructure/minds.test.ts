import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { choices, grow } from '../../tests/designs.ts'
import { offered } from '../../tests/minds.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import { tableOf } from '../design/directory.ts'
import { writeDesignFile } from '../design/file.ts'
import { flawsOf } from '../design/integrity.ts'
import type { Design } from '../design/model.ts'
import { violations, type Violation } from '../design/violations.ts'
import { apply } from '../edit/apply.ts'
import { withSampleRows } from '../rows/sample.ts'
import { schemaDelta } from '../version/delta.ts'
import { foreseenRows, foreseenWords } from '../version/foresight.ts'
import { stepsBetween } from '../version/moves.ts'
import { composeFlows } from '../carry/compose.ts'
import { offersFor } from './index.ts'

/** What is wrong with rows; what no row has anything in yet is asked elsewhere. */
function amiss(design: Design): string[] {
  const isOpen = ({ kind, table, rows }: Violation): boolean =>
    kind === 'required' && rows.length === tableOf(design, table)?.rows.length
  return violations(design)
    .filter((each) => each.kind !== 'check' && !isOpen(each))
    .map(({ message }) => message)
}

describe('changes of mind about any design', () => {
  it('are done whole, several in a row, with rows that stay valid, and each is taken back to the byte', () => {
    const done = new Map<string, number>()
    fc.assert(
      fc.property(
        choices(40, 16),
        fc.array(fc.nat(1000), { minLength: 40, maxLength: 60 }),
        (taken, given) => {
          const numbers = new Numbers(given)
          let design = withSampleRows(grow(taken))
          if (design.tables.length === 0) return
          for (let n = 0; n < 6; n++) {
            const change = offered(design, numbers)
            if (!change) continue
            const before = amiss(design)
            const result = apply(design, change.operation)
            if (!result.ok) throw new Error(`${change.kind}: ${result.refusal.message}`)
            const name = change.kind
            expect(flawsOf(result.design), name).toEqual([])
            expect(
              amiss(result.design).filter((each) => !before.includes(each)),
              name
            ).toEqual([])
            const back = apply(result.design, result.inverse)
            if (!back.ok) throw new Error(`${change.kind}, back: ${back.refusal.message}`)
            expect(writeDesignFile(back.design), name).toBe(writeDesignFile(design))
            // What is foreseen is told of every change that there is.
            const isAny = schemaDelta(design, result.design).length > 0
            expect(foreseenWords(design, result.design).length > 0, name).toBe(isAny)
            for (const { before: was, after } of foreseenRows(design, result.design))
              expect(was ?? after, name).toBeDefined()
            done.set(name, (done.get(name) ?? 0) + 1)
            design = result.design
          }
        }
      ),
      { numRuns: times(70), endOnFailure: true }
    )
    expect([...done.keys()].length).toBeGreaterThan(12)
  })

  it('are refused in whole sentences, and what is carried is never left out, there or back', () => {
    const seen = { done: 0, refused: 0 }
    fc.assert(
      fc.property(choices(40, 20), (taken) => {
        const design = withSampleRows(grow(taken))
        for (const table of design.tables.slice(0, 4))
          for (const foreignKey of [undefined, ...table.foreignKeys])
            for (const offer of offersFor(design, { table, foreignKey })) {
              const operation = offer.operation()
              if (!operation.ok) {
                expect(operation.message).toMatch(/^[\p{L}\p{N}“"'`([/*%$?:#🦔].*[.”]$/su)
                seen.refused++
                continue
              }
              const result = apply(design, operation.value)
              if (!result.ok) throw new Error(`${offer.kind}: ${result.refusal.message}`)
              for (const [from, to] of [
                [design, result.design],
                [result.design, design]
              ] as const)
                expect(composeFlows(from, to, stepsBetween(from, to)).left, offer.kind).toEqual([])
              seen.done++
            }
      }),
      { numRuns: times(40), endOnFailure: true }
    )
    expect(Math.min(seen.done, seen.refused)).toBeGreaterThan(100)
  })
})
