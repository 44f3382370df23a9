import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { whileAlike } from './kept.ts'

interface Member {
  name: string
  weight: number
}
const member: fc.Arbitrary<Member> = fc.record({ name: fc.string(), weight: fc.integer({ min: 0, max: 2 }) })

describe('what is worked out of a list', () => {
  it('is what it would be, and is worked out anew only where what it goes by is another', () => {
    let times = 0
    let kept = 0
    const sum = (members: readonly Member[]): number =>
      members.reduce((all, { weight }, at) => all + weight * (at + 1), 0)
    const followed = whileAlike<Member, number>(
      (one, other) => one.weight === other.weight,
      (members) => {
        times += 1
        return sum(members)
      }
    )
    fc.assert(
      fc.property(fc.array(member, { maxLength: 3 }), (members) => {
        const before = times
        expect(followed(members)).toBe(sum(members))
        expect(followed(members.map((each) => ({ ...each, name: 'another' })))).toBe(sum(members))
        expect(times).toBeLessThanOrEqual(before + 1)
        if (times === before) kept += 1
      }),
      { numRuns: 500 }
    )
    expect(times).toBeGreaterThan(200)
    expect(kept).toBeGreaterThan(5)
  })
})
