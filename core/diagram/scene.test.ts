import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { choices, grow, Maker } from '../../tests/designs.ts'
import { newTable } from '../relate/propose.ts'
import { emptyDesign, type Design, type Position } from '../design/model.ts'
import { keyShape } from '../design/key-shape.ts'
import { columnMarks } from './mark.ts'
import { layout } from './layout.ts'
import { routeAll } from './route.ts'
import { makeScene, type Scene } from './scene.ts'
import { sceneToSvg } from './svg.ts'
import { faultsOf } from '../../tests/drawing.ts'
import { times } from '../../tests/times.ts'
import type { Obstacle } from './geometry.ts'

const sceneOf = (design: Design): Scene => makeScene(design, layout(design))

const rightAngled = (scene: Scene): boolean =>
  scene.lines.every((line) =>
    line.points.slice(1).every((to, at) => to[0] === line.points[at]?.[0] || to[1] === line.points[at]?.[1])
  )

const NONE = { overlaps: [], through: [], onEachOther: [] }

describe('the diagram', () => {
  it('puts ones left of manys, and tables apart from each other', () => {
    const scene = sceneOf(fernhollow().versions[1]?.design as Design)
    const place = new Map(scene.tables.map((table) => [table.id, table]))
    expect(scene.lines).toHaveLength(6)
    for (const line of scene.lines)
      expect((place.get(line.parent)?.x ?? 0) + (place.get(line.parent)?.width ?? 0)).toBeLessThan(
        place.get(line.child)?.x ?? 0
      )
    expect(faultsOf(scene)).toEqual(NONE)
    expect(scene.lines.filter((line) => line.identifying).map((line) => line.child)).toEqual([
      't_dose',
      't_dose'
    ])
  })

  it('has no table on another, no line through a table or on one of another key, for any design', () => {
    let lines = 0
    fc.assert(
      fc.property(choices(60, 30), (taken) => {
        const scene = sceneOf({ ...grow(taken), positions: {} })
        expect(faultsOf(scene)).toEqual(NONE)
        expect(rightAngled(scene)).toBe(true)
        lines += scene.lines.length
      }),
      { numRuns: times(60) }
    )
    expect(lines).toBeGreaterThan(times(200))
  })

  it('has none even where tables were put anywhere by hand, on each other too; what finds no way is told beside its table', () => {
    const { design } = fernhollow()
    const ids = design.tables.map(({ id }) => id)
    const place = fc.record({
      x: fc.integer({ min: -400, max: 900 }),
      y: fc.integer({ min: -300, max: 500 })
    })
    const references = design.tables.flatMap(({ foreignKeys }) => foreignKeys).length
    fc.assert(
      fc.property(fc.array(place, { minLength: ids.length, maxLength: ids.length }), (places) => {
        const positions = Object.fromEntries(ids.map((id, at) => [id, places[at] as Position]))
        const scene = sceneOf({ ...design, positions })
        const { through, onEachOther } = faultsOf(scene)
        expect([through, onEachOther]).toEqual([[], []])
        expect(scene.lines.length + scene.stubs.length).toBe(references)
      }),
      { numRuns: times(30) }
    )
  })

  it('goes round tables that were put anywhere, as long as there is room between them', () => {
    let [asked, found] = [0, 0]
    const cell = fc.record({ x: fc.nat(7), y: fc.nat(7) })
    fc.assert(
      fc.property(
        fc.uniqueArray(cell, { minLength: 2, maxLength: 20, selector: ({ x, y }) => x * 10 + y }),
        fc.array(fc.tuple(fc.nat(100), fc.nat(100)), { minLength: 1, maxLength: 15 }),
        (cells, pairs) => {
          const tables = cells.map(({ x, y }): Obstacle & { id: string; name: string } => ({
            id: `${x}.${y}`,
            name: `${x}.${y}`,
            x: x * 280,
            y: y * 180,
            width: 160 + y * 5,
            height: 80 + x * 6
          }))
          const links = pairs.map(([a, b], at) => {
            const [from, to] = [tables[a % tables.length] as Obstacle, tables[b % tables.length] as Obstacle]
            return {
              id: `l${at}`,
              bundle: `b${a % tables.length}`,
              from: { table: from, y: from.y + 40 },
              to: { table: to, y: to.y + 60 }
            }
          })
          const routes = routeAll(links, tables)
          const lines = links.flatMap(({ id, bundle }) => {
            const points = routes.get(id)
            return points ? [{ id, key: bundle, parent: '', child: '', points }] : []
          })
          expect(faultsOf({ tables, lines })).toEqual(NONE)
          for (const { points } of lines) expect(points.length).toBeGreaterThan(1)
          asked += links.length
          found += lines.length
        }
      ),
      { numRuns: times(200) }
    )
    // There is room between them for nearly all.
    expect(asked).toBeGreaterThan(times(500))
    expect(found / asked).toBeGreaterThan(0.98)
  })

  it('leaves a table where it was put by hand', () => {
    const design = fernhollow().versions[1]?.design as Design
    const position: Position = { x: 1234, y: -56 }
    const scene = sceneOf({ ...design, positions: { t_species: position } })
    expect(scene.tables.find((table) => table.id === 't_species')).toMatchObject(position)
  })

  it('is exported as the same bytes each time, with every name as text and nothing else', () => {
    const design = grow(
      [
        [16, 0, 0, 8],
        [32, 1, 1, 10],
        [1, 0, 3, 9],
        [10, 1, 0, 0]
      ],
      undefined,
      new Maker()
    )
    const renamed = {
      ...design,
      name: '<script>alert(1)</script> & "Sons"',
      tables: design.tables.map((table, at) => ({ ...table, name: `<img src=x onerror=alert(${at})>` }))
    }
    const svg = sceneToSvg(sceneOf(renamed), { title: renamed.name, framed: true })
    expect(svg).toBe(sceneToSvg(sceneOf(renamed), { title: renamed.name, framed: true }))
    expect(svg).not.toMatch(/<script|<img/)
    expect(svg).toContain('&lt;img src=x')
  })
})

describe('key marks', () => {
  it('differ between keys, and stay the same for a key', () => {
    const shapes = Array.from({ length: 400 }, (_, at) => keyShape(`k_${at.toString(36)}`))
    const distinct = new Set(shapes.map(({ cuts, hue }) => `${cuts.join('')} ${hue}`))
    expect(distinct.size).toBeGreaterThan(380)
    expect(new Set(shapes.map(({ hue }) => hue)).size).toBe(24)
    expect(shapes.every(({ cuts }) => new Set(cuts).size >= 3)).toBe(true)
    expect(keyShape('k_7')).toEqual(shapes[7])
  })

  it('of new tables are told apart by their colour, and of many tables use all colours', () => {
    const hues = (design: Design): number[] =>
      design.tables.map(({ primaryKey }) => keyShape(primaryKey?.id ?? '').hue)
    let [near, uneven] = [0, 0]
    for (let round = 0; round < 40; round++) {
      let design = emptyDesign('Fernhollow')
      for (let at = 0; at < 48; at++) {
        design = { ...design, tables: [...design.tables, newTable(`ward_${at}`, design)] }
        const now = hues(design)
        if (at === 5)
          near += now.flatMap((one, n) => now.slice(n + 1).filter((other) => one === other)).length
      }
      uneven += Math.max(...hues(design).map((hue) => hues(design).filter((other) => other === hue).length))
    }
    // By chance, six keys have a colour in common 25 times in 40 designs, and one of 48 keys' colours is there 5 times.
    expect(near).toBeLessThan(4)
    expect(uneven / 40).toBeLessThan(4)
  })

  it('travel with the key: filled at home, in outline where it fits, barred where it is both, dashed where it may be empty', () => {
    const design = fernhollow().versions[1]?.design as Design
    const styles = (id: string): string[] =>
      [...columnMarks(design, design.tables.find((table) => table.id === id) ?? expect.fail(id))].map(
        ([column, [mark]]) => `${column.slice(2)} ${mark?.style} ${mark?.table}`
      )
    expect(styles('t_admission')).toEqual([
      'admission_patient_id fits patient',
      'admission_finder_id open finder',
      'admission_reason_code fits reason',
      'admission_admission_id own admission'
    ])
    expect(styles('t_dose').slice(0, 2)).toEqual([
      'dose_admission_id both admission',
      'dose_medicine_id both medicine'
    ])
  })
})
