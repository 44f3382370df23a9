import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { times } from '../../tests/times.ts'
import { NoJson, parseInTurns } from './json-in-turns.ts'
import { finish } from './paused.ts'

/** What is read some members at a time is what `JSON.parse` reads; what one refuses, the other refuses. */

const read = (text: string, chunk: number): unknown => {
  try {
    return { is: finish(parseInTurns(text, 64, chunk)) }
  } catch (error) {
    if (error instanceof NoJson) return 'refused'
    throw error
  }
}
const expected = (text: string): unknown => {
  try {
    return { is: JSON.parse(text) as unknown }
  } catch {
    return 'refused'
  }
}

describe('JSON in short stretches of work', () => {
  it('is read as JSON.parse reads it, however short the stretches are', () => {
    let stops = 0
    fc.assert(
      fc.property(
        fc.json({ maxDepth: 6 }),
        fc.integer({ min: 1, max: 40 }),
        fc.nat(3),
        (json, chunk, indent) => {
          const text = JSON.stringify(JSON.parse(json), undefined, indent)
          expect(read(text, chunk)).toEqual(expected(text))
          stops += [...parseInTurns(text, 64, chunk)].length
        }
      ),
      { numRuns: times(2000) }
    )
    expect(stops).toBeGreaterThan(2000)
  })

  it('is refused where JSON.parse refuses it, and taken where a changed text is JSON still', () => {
    const seen = { refused: 0, taken: 0 }
    const change = fc.record({
      at: fc.nat(200),
      leave: fc.nat(3),
      put: fc.constantFrom('', ',', ' , ', '[', ']', '{', '}', '"', '\\', ':', '1', '[ ,', '        ')
    })
    fc.assert(
      fc.property(
        fc.json({ maxDepth: 4 }),
        fc.array(change, { minLength: 1, maxLength: 3 }),
        (json, changes) => {
          const text = changes.reduce((was, { at, leave, put }) => {
            const place = at % (was.length + 1)
            return was.slice(0, place) + put + was.slice(place + leave)
          }, json)
          const now = expected(text)
          expect(read(text, 1)).toEqual(now)
          expect(read(text, 7)).toEqual(now)
          seen[now === 'refused' ? 'refused' : 'taken']++
        }
      ),
      { numRuns: times(3000) }
    )
    expect(seen.refused).toBeGreaterThan(300)
    expect(seen.taken).toBeGreaterThan(300)
  })

  it.each(['[1,2,]', '[   ,1]', '[1,,2]', '[1,2}', '{"a":[1,2},3]', '[1,2', '1,2', '[1,[2,3],]', ''])(
    'refuses %j',
    (text) => expect(read(text, 1)).toBe('refused')
  )

  it('keeps keys that objects have of themselves, and the last of two that are the same', () => {
    const text = '{"__proto__":[1,2,3],"a":[1,[2,3],4],"a":[5,[6,[7,8]],9]}'
    expect(read(text, 1)).toEqual(expected(text))
  })
})
