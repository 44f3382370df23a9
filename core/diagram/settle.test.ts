import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { lifelike } from '../../demo/lifelike.ts'
import { faultsOf } from '../../tests/drawing.ts'
import { changedBy } from '../../tests/minds.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import type { Design, Position, Table } from '../design/model.ts'
import { apply } from '../edit/apply.ts'
import { layout } from './layout.ts'
import { makeScene } from './scene.ts'
import { settle } from './settle.ts'

const NONE = { overlaps: [], through: [], onEachOther: [] }
/** What a person would see as moved (pixels). */
const SEEN = 60

/** The tables that are elsewhere than before, as a share of those that are there still. */
function moved(before: ReadonlyMap<string, Position>, after: ReadonlyMap<string, Position>): number {
  const kept = [...before].filter(([id]) => after.has(id))
  const far = kept.filter(([id, { x, y }]) => {
    const now = after.get(id) as Position
    return Math.abs(now.x - x) + Math.abs(now.y - y) > SEEN
  })
  return far.length / Math.max(1, kept.length)
}

const withTable = (design: Design, table: Table): Design => ({ ...design, tables: [...design.tables, table] })

describe('a picture after a small change', () => {
  it('stays as it is, where placing all anew would move much; without a fault of drawing', () => {
    let [settled, anew, changes] = [0, 0, 0]
    for (let seed = 1; seed <= times(6); seed++) {
      let design: Design = { ...lifelike(60, seed), positions: {} }
      let before = layout(design)
      for (let step = 0; step < 4; step++) {
        const numbers = new Numbers([seed * 37 + step, 11, seed + 5, 3, step * 7 + 1, 2, 9, 4])
        const next = { ...changedBy(numbers, design, 2), positions: {} }
        if (next.tables === design.tables) continue
        const places = settle(next, undefined, before) ?? expect.fail('it does not come out')
        expect(new Set(places.keys())).toEqual(new Set(next.tables.map(({ id }) => id)))
        expect(faultsOf(makeScene(next, places))).toEqual(NONE)
        settled += moved(before, places)
        anew += moved(layout(design), layout(next))
        changes++
        ;[design, before] = [next, places]
      }
    }
    expect(changes).toBeGreaterThan(times(10))
    expect(settled / changes).toBeLessThan(0.03)
    expect(anew / changes).toBeGreaterThan(0.1)
  })

  it('has a new table beside what it refers to, and one that has grown pushes what is beside or under it', () => {
    const { subjects: _, ...demo } = fernhollow().design
    const design = { ...demo, positions: {} }
    const before = layout(design)
    const ward = design.tables.find(({ id }) => id === 't_ward') ?? expect.fail('there is no ward')
    const pen = design.tables.find(({ id }) => id === 't_pen') ?? expect.fail('there is no pen')
    const other = { ...pen, id: 't_pen_two', name: 'pen_two' }
    const places = settle(withTable(design, other), undefined, before) ?? expect.fail('it does not come out')
    expect(moved(before, places)).toBe(0)
    const [at, its] = [places.get('t_pen_two'), places.get('t_ward')].map((each) => each as Position)
    expect(Math.abs((at?.x ?? 0) - (its?.x ?? 0))).toBeLessThan(900)
    const columns = Array.from({ length: 30 }, (_each, index) => ({
      ...(ward.columns[1] ?? expect.fail('it has one column')),
      id: `c_more_${index}`,
      name: `more_${index}`
    }))
    let grown: Design = design
    for (const column of columns) {
      const done = apply(grown, { kind: 'column.add', table: 't_ward', column })
      if (done.ok) grown = done.design
    }
    const after = settle(grown, undefined, before) ?? expect.fail('it does not come out')
    expect(faultsOf(makeScene(grown, after))).toEqual(NONE)
    const elsewhere = [...before].filter(([id, { x, y }]) => after.get(id)?.x !== x || after.get(id)?.y !== y)
    const grownAt = before.get('t_ward') as Position
    expect(elsewhere.length).toBeGreaterThan(0)
    expect(elsewhere.every(([, { x, y }]) => x > grownAt.x || y > grownAt.y)).toBe(true)
    expect(elsewhere.length).toBeLessThan(design.tables.length / 2)
  })

  it('keeps regions apart, or places all anew; another picture is none that was changed', () => {
    const { design } = fernhollow()
    const before = layout(design)
    const renamed = apply(design, { kind: 'table.rename', table: 't_ward', name: 'house' })
    expect(renamed.ok && settle(renamed.design, undefined, before)).toEqual(before)
    const [care, animals] = design.subjects ?? []
    const swapped: Design = {
      ...design,
      subjects: [
        { ...(care ?? expect.fail()), tables: ['t_species', 't_stay', 't_volunteer'] },
        { ...(animals ?? expect.fail()), tables: ['t_dose', 't_pen'] }
      ]
    }
    expect(settle(swapped, undefined, before)).toBeUndefined()
    expect(settle(lifelike(30), undefined, before)).toBeUndefined()
  })
})
