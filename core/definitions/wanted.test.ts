import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { choices, grow, Maker } from '../../tests/designs.ts'
import { times } from '../../tests/times.ts'
import { designSchema } from '../design/model.ts'
import { flawOfWritten, placesThatMeet } from '../design/place.ts'
import { OutputFlaw } from './made-by.ts'
import { outputsOf } from './outputs.ts'
import { wantedFiles } from './wanted.ts'

const part = fc.constantFrom(
  'src',
  '.git',
  '..',
  '.',
  '',
  'NUL',
  'con.txt',
  'a',
  'A',
  'é',
  'e\u0301',
  '\u202etxt',
  'patient-key.written.json',
  'x\\y',
  'c:',
  ' b',
  'b '
)
const odd = fc.array(part, { minLength: 1, maxLength: 3 }).map((parts) => parts.join('/'))
const plain = fc.nat(9).map((n) => `src/data/file_${n}`)
const place = fc.oneof({ weight: 3, arbitrary: plain }, { weight: 1, arbitrary: odd })

describe('the files that an application is given', () => {
  it('have names that can stand in a tree and in a zip, each its own, or are refused in words', () => {
    const seen = { written: 0, refused: 0, files: 0 }
    fc.assert(
      fc.property(
        choices(12),
        fc.array(fc.tuple(fc.nat(40), place), { minLength: 1, maxLength: 4 }),
        (given, wanted) => {
          const maker = new Maker()
          const design = grow(given, undefined, maker)
          const outputs = outputsOf(design)
          const chosen = wanted.map(([at, to]) => [outputs[at % outputs.length]?.name ?? '', to])
          const asked = designSchema.safeParse({ ...design, outputs: Object.fromEntries(chosen) })
          // A place that no design has is refused with the design.
          if (!asked.success) return void seen.refused++
          try {
            const paths = wantedFiles(asked.data, '').map(({ path }) => path)
            for (const path of paths) expect([path, flawOfWritten(path)]).toEqual([path, undefined])
            expect(placesThatMeet(paths)).toBeUndefined()
            seen.written++
            seen.files += paths.length
          } catch (error) {
            if (!(error instanceof OutputFlaw)) throw error
            seen.refused++
          }
        }
      ),
      { numRuns: times(300) }
    )
    expect(Math.min(seen.written, seen.refused)).toBeGreaterThan(30)
    expect(seen.files).toBeGreaterThan(seen.written)
  })
})
