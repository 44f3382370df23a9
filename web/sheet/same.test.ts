import { describe, expect, it } from 'vitest'
import { sameList, sameLists } from './same.ts'

const same = (one: { n: number }, other: { n: number }): boolean => one.n === other.n
const list = (...numbers: number[]): { n: number }[] => numbers.map((n) => ({ n }))

describe('what is the same as before', () => {
  it('is the very value from before, as a list and list by list', () => {
    const before = list(1, 2)
    expect(sameList(before, list(1, 2), same)).toBe(before)
    const lists = new Map([
      ['a', before],
      ['b', list(3)]
    ])
    expect(
      sameLists(
        lists,
        new Map([
          ['a', list(1, 2)],
          ['b', list(3)]
        ]),
        same
      )
    ).toBe(lists)
    const changed = sameLists(
      lists,
      new Map([
        ['a', list(1, 2)],
        ['b', list(4)]
      ]),
      same
    )
    expect(changed.get('a')).toBe(before)
    expect(changed.get('b')).toEqual(list(4))
  })

  it.each<[string, { n: number }[] | undefined, { n: number }[]]>([
    ['longer', list(1), list(1, 2)],
    ['shorter', list(1, 2), list(1)],
    ['another', list(1), list(2)],
    ['the first', undefined, list(1)]
  ])('is not what is %s', (_, before, now) => {
    expect(sameList(before, now, same)).toBe(now)
    expect(sameLists(before && new Map([['a', before]]), new Map([['a', now]]), same).get('a')).toBe(now)
  })

  it('is not what has gone, nor what has come', () => {
    const both = new Map([
      ['a', list(1)],
      ['b', list(2)]
    ])
    expect([...sameLists(both, new Map([['a', list(1)]]), same).keys()]).toEqual(['a'])
    expect([...sameLists(new Map([['b', list(2)]]), new Map([['a', list(2)]]), same).keys()]).toEqual(['a'])
  })
})
