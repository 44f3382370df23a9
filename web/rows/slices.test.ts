import { describe, expect, it } from 'vitest'
import type { Paused } from '../../core/design/paused.ts'
import { inSlices, slicer, soon } from './slices.ts'

/** Work that stops so many times, each after as long as is said (milliseconds). */
function* stops(times: number, each: number): Paused<number> {
  for (let at = 0; at < times; at++) {
    const until = performance.now() + each
    while (performance.now() < until);
    yield
  }
  return times
}
const aWhile = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 300))

describe('work in slices', () => {
  it('is had at once where it is short, and else when it is done', async () => {
    const given: number[] = []
    const give = (result: number): void => void given.push(result)
    soon(stops(3, 0), () => true, give)
    expect(given).toEqual([3])
    soon(stops(20, 5), () => true, give)
    expect(given).toEqual([3])
    await aWhile()
    expect(given).toEqual([3, 20])
  })

  it('lets others have their turn on the way', async () => {
    let turns = 0
    const timer = setInterval(() => turns++, 1)
    expect(
      await inSlices(
        stops(30, 5),
        slicer(() => true)
      )
    ).toBe(30)
    clearInterval(timer)
    expect(turns).toBeGreaterThan(3)
  })

  it('gives nothing where it is no longer wanted', async () => {
    const given: number[] = []
    let isWanted = true
    const give = (result: number): void => void given.push(result)
    soon(stops(30, 5), () => isWanted, give)
    isWanted = false
    await aWhile()
    expect(given).toEqual([])
    expect(
      await inSlices(
        stops(30, 5),
        slicer(() => false)
      )
    ).toBeUndefined()
  })
})
