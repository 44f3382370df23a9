import fc from 'fast-check'
import { expect, it } from 'vitest'
import { times } from '../../tests/times.ts'
import { finish, STRETCH } from './paused.ts'
import { sorted } from './sorted.ts'

it('is in order as by one sort, and what is alike stays as it stood', () => {
  let several = 0
  const lists = fc
    .array(fc.nat(40), { maxLength: 40 })
    .chain((some) =>
      fc.nat(3 * STRETCH).map((length) => Array.from({ length }, (_, at) => some[at % some.length] ?? 0))
    )
  fc.assert(
    fc.property(lists, (numbers) => {
      const list = numbers.map((number, at) => ({ number, at }))
      const compare = (one: { number: number }, other: { number: number }): number =>
        one.number - other.number
      expect(finish(sorted(list, compare))).toEqual(list.toSorted(compare))
      if (list.length > STRETCH) several++
    }),
    { numRuns: times(60) }
  )
  expect(several).toBeGreaterThan(20)
})

it('stops on the way at least once in each stretch', () => {
  const list = Array.from({ length: 10 * STRETCH }, (_, at) => (at * 7919) % 10_007)
  let [compared, most] = [0, 0]
  const work = sorted(list, (one, other) => {
    compared++
    return one - other
  })
  for (; !work.next().done; compared = 0) most = Math.max(most, compared)
  expect(most).toBeLessThan(STRETCH * Math.log2(STRETCH))
})
