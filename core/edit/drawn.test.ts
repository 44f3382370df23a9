import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { times } from '../../tests/times.ts'
import { readDesignFile, writeDesignFile } from '../design/file.ts'
import { PLAIN_LOOK, type Design, type ShownPart } from '../design/model.ts'
import { compareDesigns } from '../version/compare.ts'
import { apply } from './apply.ts'
import type { Operation } from './operation.ts'

const { subjects: _, views: __, ...bare } = fernhollow().design
const demo: Design = bare
const ids = demo.tables.map(({ id }) => id)

const table = fc.constantFrom(...ids, 't_gone')
const shows: fc.Arbitrary<ShownPart> = fc.oneof(
  fc.constant({ kind: 'all' as const }),
  fc.record({ kind: fc.constant('subject' as const), subject: fc.constantFrom('b_0', 'b_1', 'b_9') }),
  fc.record({ kind: fc.constant('near' as const), table, steps: fc.constantFrom(1, 2) }),
  fc.record({ kind: fc.constant('tables' as const), tables: fc.array(table) })
)
const name = fc.constantFrom('Care', 'care', 'Wards', 'צוות', '🦔', 'x'.repeat(128))
const subject = fc.record({
  id: fc.constantFrom('b_0', 'b_1', 'b_2'),
  name,
  tables: fc.array(table)
})
const view = fc.record({
  id: fc.constantFrom('v_0', 'v_1', 'v_2'),
  name,
  note: fc.constant('said'),
  shows,
  look: fc.constant(PLAIN_LOOK)
})
const operation: fc.Arbitrary<Operation> = fc.oneof(
  subject.map((each) => ({ kind: 'subject.add' as const, subject: each })),
  subject.map((each) => ({ kind: 'subject.change' as const, subject: each })),
  subject.map((each) => ({ kind: 'subject.remove' as const, subject: each.id })),
  view.map((each) => ({ kind: 'view.add' as const, view: each })),
  view.map((each) => ({ kind: 'view.change' as const, view: each })),
  view.map((each) => ({ kind: 'view.remove' as const, view: each.id }))
)

describe('subjects and views', () => {
  it('are made, changed and removed with their undo, written and read again, and are no part of a schema', () => {
    const done = { taken: 0, refused: 0 }
    fc.assert(
      fc.property(fc.array(operation, { minLength: 4, maxLength: 14 }), (operations) => {
        let design = demo
        for (const each of operations) {
          const result = apply(design, each)
          done[result.ok ? 'taken' : 'refused']++
          if (!result.ok) continue
          const back = apply(result.design, result.inverse)
          expect(back.ok && back.design).toEqual(design)
          design = result.design
        }
        const read = readDesignFile(writeDesignFile(design))
        expect(read.ok && read.value.design).toEqual(design)
        expect(compareDesigns(demo, design)).toEqual([])
        for (const list of [design.subjects ?? [], design.views ?? []])
          expect(new Set(list.map((each) => each.name.toLowerCase())).size).toBe(list.length)
      }),
      { numRuns: times(80) }
    )
    expect(done.taken).toBeGreaterThan(times(150))
    expect(done.refused).toBeGreaterThan(times(80))
  })
})
