import ELK from 'elkjs/lib/elk.bundled.js'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { choices, grow, Maker } from '../../tests/designs.ts'
import type { Design, Position } from '../design/model.ts'
import { keyShape, columnMarks } from './mark.ts'
import { layout, type LayeredGraph, type LayeredStep } from './layout.ts'
import { routeAll, type Obstacle } from './route.ts'
import { makeScene, type Scene } from './scene.ts'
import { sceneToSvg } from './svg.ts'
import { times } from '../../tests/times.ts'

const layered: LayeredStep = async (graph) => (await new ELK().layout(graph)) as LayeredGraph
const sceneOf = async (design: Design): Promise<Scene> => makeScene(design, await layout(design, layered))

/** Pieces of lines that run through the inside of a table. */
function through(scene: Scene): string[] {
  return scene.lines.flatMap((line) =>
    line.points.slice(1).flatMap((to, at) => {
      const from = line.points[at] as (typeof line.points)[number]
      const [left, right] = [Math.min(from[0], to[0]), Math.max(from[0], to[0])]
      const [top, bottom] = [Math.min(from[1], to[1]), Math.max(from[1], to[1])]
      return scene.tables
        .filter(
          (t) => left < t.x + t.width - 1 && right > t.x + 1 && top < t.y + t.height - 1 && bottom > t.y + 1
        )
        .map((t) => `${line.id} through ${t.name}`)
    })
  )
}

const rightAngled = (scene: Scene): boolean =>
  scene.lines.every((line) =>
    line.points.slice(1).every((to, at) => to[0] === line.points[at]?.[0] || to[1] === line.points[at]?.[1])
  )

describe('the diagram', () => {
  it('puts ones left of manys, and tables apart from each other', async () => {
    const scene = await sceneOf(fernhollow().versions[1]?.design as Design)
    const place = new Map(scene.tables.map((table) => [table.id, table]))
    expect(scene.lines).toHaveLength(6)
    for (const line of scene.lines)
      expect((place.get(line.parent)?.x ?? 0) + (place.get(line.parent)?.width ?? 0)).toBeLessThan(
        place.get(line.child)?.x ?? 0
      )
    expect(through(scene)).toEqual([])
    expect(scene.lines.filter((line) => line.identifying).map((line) => line.child)).toEqual([
      't_dose',
      't_dose'
    ])
  })

  it('never draws a line through a table, and always at right angles, for any design', async () => {
    await fc.assert(
      fc.asyncProperty(choices(60, 30), async (taken) => {
        // Tables put by hand may lie on each other, where no line can go round them.
        const scene = await sceneOf({ ...grow(taken), positions: {} })
        expect(through(scene)).toEqual([])
        expect(rightAngled(scene)).toBe(true)
      }),
      { numRuns: times(25) }
    )
  })

  it('goes round tables that were put anywhere, as long as there is room between them', () => {
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
          const lines = links.map(({ id }) => ({ id, points: routes.get(id) ?? [] }))
          expect(through({ tables, lines } as unknown as Scene)).toEqual([])
          for (const { points } of lines) expect(points.length).toBeGreaterThan(1)
        }
      ),
      { numRuns: times(200) }
    )
  })

  it('leaves a table where it was put by hand', async () => {
    const design = fernhollow().versions[1]?.design as Design
    const position: Position = { x: 1234, y: -56 }
    const scene = await sceneOf({ ...design, positions: { t_species: position } })
    expect(scene.tables.find((table) => table.id === 't_species')).toMatchObject(position)
  })

  it('is exported as the same bytes each time, with every name as text and nothing else', async () => {
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
    const svg = sceneToSvg(await sceneOf(renamed), renamed.name)
    expect(svg).toBe(sceneToSvg(await sceneOf(renamed), renamed.name))
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
