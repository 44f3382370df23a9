import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { choices, grow } from '../../tests/designs.ts'
import { faultsOf } from '../../tests/drawing.ts'
import { changedBy } from '../../tests/minds.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import type { Design } from '../design/model.ts'
import { sameNames } from '../version/same-names.ts'
import { bothIn, type Fates } from './compared.ts'
import { ALL_SHOWN, sceneOf } from './drawing.ts'
import { sceneToSvg } from './svg.ts'

const columns = (design: Design): Map<string, string> =>
  new Map(design.tables.flatMap((table) => table.columns.map(({ id, name }) => [id, name])))
const fated = (fates: Fates, fate: string, ids: Iterable<string>): string[] =>
  [...ids].filter((id) => fates.get(id)?.fate === fate).sort()

describe('two states in one picture', () => {
  it('has what either has, and says of each what became of it, for any two', () => {
    const seen = { added: 0, removed: 0, renamed: 0, changed: 0 }
    fc.assert(
      fc.property(
        choices(30, 12),
        fc.array(fc.nat(1000), { minLength: 60, maxLength: 90 }),
        (taken, given) => {
          const before = grow(taken)
          if (before.tables.length === 0) return
          const after = changedBy(new Numbers(given), before, 8)
          const { design, fates } = bothIn(before, after)
          const [was, is] = [columns(before), columns(after)]
          const kept = new Set(
            before.tables.filter(({ id }) => after.tables.some((t) => t.id === id)).map((t) => t.id)
          )
          const inKept = (one: Design): string[] =>
            one.tables.filter(({ id }) => kept.has(id)).flatMap((table) => table.columns.map(({ id }) => id))
          expect(new Set(design.tables.map(({ id }) => id))).toEqual(
            new Set([...before.tables, ...after.tables].map(({ id }) => id))
          )
          expect(new Set(columns(design).keys())).toEqual(new Set([...was.keys(), ...is.keys()]))
          expect(fated(fates, 'removed', inKept(before))).toEqual(
            inKept(before)
              .filter((id) => !is.has(id))
              .sort()
          )
          expect(fated(fates, 'added', inKept(after))).toEqual(
            inKept(after)
              .filter((id) => !was.has(id))
              .sort()
          )
          for (const [id, name] of was)
            if (is.has(id) && is.get(id) !== name)
              expect(fates.get(id)).toEqual({ fate: 'renamed', was: name })
          for (const { fate } of fates.values()) seen[fate]++
          const scene = sceneOf(design, ALL_SHOWN)
          expect(faultsOf(scene)).toEqual({ overlaps: [], through: [], onEachOther: [] })
          expect(bothIn(before, before).fates.size).toBe(0)
        }
      ),
      { numRuns: times(24) }
    )
    for (const count of Object.values(seen)) expect(count).toBeGreaterThan(times(5))
  })

  it('says it in words and by its shape, not in colour alone', () => {
    const [first] = fernhollow().versions
    const { design, fates, steps } = bothIn(first?.design as Design, fernhollow().design)
    const svg = sceneToSvg(sceneOf(design, ALL_SHOWN), { title: 'both', framed: true }, { fates })
    for (const said of ['>+ new<', '>~ changed<', '>was ring<', 'line-through">medicine_id<', '>removed<'])
      expect(svg).toContain(said)
    expect(steps.map(({ sentence }) => sentence)).toContain('patient.ring is renamed to ring_no.')
  })
})

describe('two designs that do not come from one another', () => {
  it('are compared by names: the same under other ids is the same', () => {
    const demo = fernhollow().design
    const twisted = JSON.parse(
      JSON.stringify(demo).replaceAll(/\b([tckfxipse])_([a-z0-9_]+)/g, (id, kind: string, rest: string) =>
        demo.tables.some(({ name }) => name === id) ? id : `${kind}_other_${rest}`
      )
    ) as Design
    expect(bothIn(twisted, demo).fates.size).toBeGreaterThan(60)
    const { fates, steps } = bothIn(sameNames(twisted, demo), demo)
    expect([[...fates.keys()], steps.map(({ sentence }) => sentence)]).toEqual([[], []])
    expect(sameNames(demo, demo)).toBe(demo)
  })
})
