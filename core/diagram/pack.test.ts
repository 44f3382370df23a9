import { describe, expect, it } from 'vitest'
import { times } from '../../tests/times.ts'
import { randomFrom } from '../rows/random.ts'
import { pack, type Parcel, type Rectangle, type Spot } from './pack.ts'

const GAP = 10
const solidsAt = ({ solids, width, height }: Parcel, { x, y }: Spot): Rectangle[] =>
  (solids ?? [{ x: 0, y: 0, width, height }]).map((solid) => ({ ...solid, x: x + solid.x, y: y + solid.y }))
const isOn = (one: Rectangle, other: Rectangle): boolean =>
  one.x < other.x + other.width &&
  other.x < one.x + one.width &&
  one.y < other.y + other.height &&
  other.y < one.y + one.height

/** Steps down or up, with a corner free, or a whole rectangle. */
function randomParcels(seed: number): Parcel[] {
  const random = randomFrom(seed)
  return Array.from({ length: 1 + random.below(40) }, () => {
    const [width, height] = [20 + random.below(300), 20 + random.below(300)]
    if (!random.chance(40)) return { width, height }
    const [half, top] = [Math.round(width / 2), random.below(height - 10)]
    const solids = [
      { x: 0, y: random.chance(50) ? 0 : top, width: half, height: height - top },
      { x: half, y: 0, width: width - half, height }
    ]
    return { width, height, solids }
  })
}

describe('parcels on a sheet', () => {
  it('are none on another, whatever their shape, and within about the shape of the sheet', () => {
    let stepped = 0
    for (let seed = 1; seed <= times(60); seed++) {
      const parcels = randomParcels(seed)
      const spots = pack(parcels, GAP, 1.5)
      expect(spots.every(({ x, y }) => x >= 0 && y >= 0 && Number.isFinite(x + y))).toBe(true)
      const solids = parcels.map((parcel, at) => solidsAt(parcel, spots[at] as Spot))
      for (const [at, own] of solids.entries())
        for (const its of solids.slice(at + 1))
          expect(
            own.some((one) => its.some((other) => isOn(one, other))),
            `seed ${seed}`
          ).toBe(false)
      stepped += parcels.filter((each) => each.solids).length
      expect(pack(parcels, GAP, 1.5)).toEqual(spots)
    }
    expect(stepped).toBeGreaterThan(times(60) * 3)
  })

  it('stand in what a larger one leaves free', () => {
    const arch: Parcel = {
      width: 400,
      height: 300,
      solids: [
        { x: 0, y: 0, width: 100, height: 300 },
        { x: 100, y: 0, width: 200, height: 60 },
        { x: 300, y: 0, width: 100, height: 300 }
      ]
    }
    const spots = pack([arch, { width: 150, height: 200 }], GAP, 1.5)
    expect(spots).toEqual([
      { x: 0, y: 0 },
      { x: 100, y: 60 }
    ])
  })

  it('are nothing where there are none', () => expect(pack([], GAP, 1.5)).toEqual([]))
})
