import { describe, expect, it } from 'vitest'
import { lifelike } from '../../demo/lifelike.ts'
import { faultsOf } from '../../tests/drawing.ts'
import { hubsOf } from './hubs.ts'
import { layout } from './layout.ts'
import { neighbourhood } from './neighbourhood.ts'
import { makeScene } from './scene.ts'

const whole = lifelike(170)
const hubs = hubsOf(whole)
const pairs = whole.tables.flatMap(({ id, foreignKeys }) =>
  foreignKeys.flatMap(({ table }) => [[id, table] as const, [table, id] as const])
)
const beside = (id: string): string[] => pairs.filter(([one]) => one === id).map(([, other]) => other)

describe('what is near a table', () => {
  it('is what it refers to and what refers to it, step by step, and nothing that only a hub leads to', () => {
    for (const { id } of whole.tables.slice(0, 60)) {
      const one = new Set([id, ...beside(id)])
      const two = new Set([
        ...one,
        ...[...one].filter((each) => each === id || !hubs.has(each)).flatMap(beside)
      ])
      for (const [steps, near] of [
        [0, new Set([id])],
        [1, one],
        [2, two]
      ] as const)
        expect(new Set(neighbourhood(whole, id, steps).tables.map((each) => each.id))).toEqual(near)
    }
  })

  it('is drawn with every reference of its tables: those that lead beyond it are told of by name', () => {
    let beyond = 0
    for (const { id } of whole.tables.slice(60, 100)) {
      const part = neighbourhood(whole, id, 1)
      const scene = makeScene(part, layout(part, { rows: 'all', whole }), { rows: 'all', whole })
      expect(faultsOf(scene)).toEqual({ overlaps: [], through: [], onEachOther: [] })
      const told = [...scene.lines, ...scene.stubs].map((each) => each.id).sort()
      expect(told).toEqual(part.tables.flatMap(({ foreignKeys }) => foreignKeys.map((key) => key.id)).sort())
      const shown = new Set(part.tables.map((each) => each.id))
      for (const stub of scene.stubs) {
        if (shown.has(stub.parent)) continue
        expect(stub.says).toBe(whole.tables.find((each) => each.id === stub.parent)?.name)
        beyond++
      }
    }
    expect(beyond).toBeGreaterThan(10)
  })
})
