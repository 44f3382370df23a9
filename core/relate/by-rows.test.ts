import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { times } from '../../tests/times.ts'
import { tableOf } from '../design/directory.ts'
import { violations } from '../design/violations.ts'
import { apply } from '../edit/apply.ts'
import { manysOf, onesOf } from '../rows/sides.ts'
import { askedOf, keptPairs, relateByRows, shapeOfLinks, type Connected } from './by-rows.ts'

const { design } = fernhollow()
const [patient, volunteer] = ['t_patient', 't_volunteer'].map((id) => tableOf(design, id) ?? expect.fail())
const [left, right] = [patient ?? expect.fail(), volunteer ?? expect.fail()]

const place = (most: number) => fc.nat(most - 1)
const links = fc.uniqueArray(fc.tuple(place(left.rows.length), place(right.rows.length)), {
  minLength: 1,
  maxLength: 9,
  selector: (pair) => pair.join()
})

/** Answers whatever is asked. */
function answered(pairs: readonly [number, number][], mayLeft: boolean, mayRight: boolean): Connected {
  let now: Connected = { pairs }
  for (let asked = askedOf(now); asked; asked = askedOf(now)) {
    now = asked.side === 'left' ? { ...now, severalRight: mayRight } : { ...now, severalLeft: mayLeft }
    now = { ...now, pairs: keptPairs(now) }
  }
  return now
}

describe('rows that are connected', () => {
  it('ask with the second on a side, and come to a relationship in which they are connected so', () => {
    const seen = new Map<string, number>()
    fc.assert(
      fc.property(links, fc.boolean(), fc.boolean(), (pairs, mayLeft, mayRight) => {
        const connected = answered(pairs, mayLeft, mayRight)
        expect(askedOf(connected)).toBeUndefined()
        const shape = shapeOfLinks(connected)
        seen.set(shape, (seen.get(shape) ?? 0) + 1)
        const made = relateByRows(design, left, right, connected, false)
        const result = made.ok ? apply(design, made.value) : expect.fail(made.message)
        const after = result.ok ? result.design : expect.fail(result.refusal.message)
        expect(violations(after)).toEqual([])
        const found: string[] = []
        const [one, other] = [tableOf(after, left.id) ?? left, tableOf(after, right.id) ?? right]
        const isNew = (id: string): boolean => !JSON.stringify(design).includes(id)
        for (const [at, row] of one.rows.entries()) {
          for (const many of manysOf(after, one, row))
            if (isNew(many.foreignKey.id)) {
              const far = many.far[0]?.places ?? (many.table.id === other.id ? many.places : [])
              for (const place of far) found.push(`${at} ${place}`)
            }
          for (const side of onesOf(after, one, row))
            if (isNew(side.foreignKey.id) && side.place !== undefined) found.push(`${at} ${side.place}`)
        }
        const wanted = connected.pairs.map(([a, b]) => `${a} ${b}`)
        expect(found.sort()).toEqual([...wanted].sort())
        const back = result.ok && apply(after, result.inverse)
        expect(back && back.ok && back.design.tables).toEqual(design.tables)
      }),
      { numRuns: times(120) }
    )
    for (const shape of ['junction', 'left refers', 'right refers', 'one to one'])
      expect([shape, (seen.get(shape) ?? 0) > 3]).toEqual([shape, true])
  })

  it('ask nothing while each has one, and need a key to be referred to', () => {
    expect(
      askedOf({
        pairs: [
          [0, 0],
          [1, 1]
        ]
      })
    ).toBeUndefined()
    const { primaryKey: _, ...bare } = left
    const refused = relateByRows(design, bare, right, { pairs: [[0, 0]] }, false)
    expect(refused.ok || refused.message).toContain('patient has no primary key yet')
    expect(relateByRows(design, left, right, { pairs: [] }, false).ok).toBe(false)
  })
})
