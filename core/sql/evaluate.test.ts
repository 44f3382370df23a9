import fc from 'fast-check'
import { expect, it } from 'vitest'
import { times } from '../../tests/times.ts'
import { compareTexts } from './evaluate.ts'

/** Texts that begin alike, with letters of one half and of two. */
const text = fc.array(fc.constantFrom('a', 'b', 'é', '\u{ffff}', '\u{10000}', '\u{1f43e}', '\u{10ffff}'), {
  maxLength: 5
})

it('orders texts by their code points, not by the halves that some have', () => {
  const found = { before: 0, same: 0, behind: 0, otherwise: 0 }
  fc.assert(
    fc.property(text, text, (one, other) => {
      const points = (letters: string[]): number[] => letters.map((letter) => letter.codePointAt(0) ?? 0)
      const [left, right] = [points(one), points(other)]
      const at = left.findIndex((point, place) => point !== right[place])
      const difference = at < 0 ? left.length - right.length : (left[at] ?? 0) - (right[at] ?? -1)
      const said = compareTexts(one.join(''), other.join(''))
      expect(Math.sign(said)).toBe(Math.sign(difference))
      found[said < 0 ? 'before' : said > 0 ? 'behind' : 'same']++
      if (said < 0 !== one.join('') < other.join('')) found.otherwise++
    }),
    { numRuns: times(2000) }
  )
  for (const count of Object.values(found)) expect(count).toBeGreaterThan(30)
})
