import { describe, expect, it } from 'vitest'
import { districts } from '../../demo/districts.ts'
import { lifelike } from '../../demo/lifelike.ts'
import { faultsOf, measuresOf } from '../../tests/drawing.ts'
import { times } from '../../tests/times.ts'
import { referencesTo } from '../design/directory.ts'
import { emptyDesign, emptyTable, ROWS, type Design } from '../design/model.ts'
import { flawsOf } from '../design/integrity.ts'
import { hubsOf } from './hubs.ts'
import { layout } from './layout.ts'
import { makeScene, type Scene } from './scene.ts'

const sceneOf = (design: Design): Scene => makeScene(design, layout(design))
const NONE = { overlaps: [], through: [], onEachOther: [] }

describe('a lifelike design', () => {
  it('is as large ones are: hubs, a quarter alone, sizes far apart, self references, and nothing wrong with it', () => {
    const design = lifelike(170)
    expect(flawsOf(design)).toEqual([])
    const referrers = design.tables.map(({ id }) => referencesTo(design, id).length)
    const sizes = design.tables.map(({ columns }) => columns.length)
    const alone = design.tables.filter(
      ({ id, foreignKeys }) => foreignKeys.length === 0 && referencesTo(design, id).length === 0
    )
    expect(Math.max(...referrers)).toBeGreaterThan(40)
    expect(Math.max(...sizes)).toBe(170)
    expect(sizes.filter((size) => size < 12).length).toBeGreaterThan(100)
    expect(alone.length / 170).toBeCloseTo(0.25, 1)
    expect(design.tables.some(({ id, foreignKeys }) => foreignKeys.some(({ table }) => table === id))).toBe(
      true
    )
    expect(lifelike(170)).toEqual(design)
  })
})

describe('the layout of a large design', () => {
  it('has no fault of drawing, at any size, and is the same each time', () => {
    for (const count of [1, 2, 30, 90, 170, 300])
      for (let seed = 1; seed <= times(count > 200 ? 1 : 3); seed++) {
        const scene = sceneOf(lifelike(count, seed))
        expect(faultsOf(scene), `${count} tables, seed ${seed}`).toEqual(NONE)
        expect(scene.tables.every(({ x, y }) => Number.isInteger(x) && Number.isInteger(y))).toBe(true)
      }
    const design = lifelike(90, 5)
    expect([...layout({ ...design })]).toEqual([...layout(design)])
  })

  it('fills its sheet, which has the shape of a screen', () => {
    for (const design of [lifelike(170), lifelike(170, 2), districts(300)]) {
      const scene = sceneOf(design)
      expect(measuresOf(scene).tables).toBeGreaterThan(0.3)
      expect(scene.bounds.width / scene.bounds.height).toBeGreaterThan(0.9)
      expect(scene.bounds.width / scene.bounds.height).toBeLessThan(2.4)
    }
  })

  it('puts ones left of manys wherever a line is drawn, except in a circle', () => {
    for (const design of [districts(40), districts(170)]) {
      const scene = sceneOf(design)
      const x = new Map(scene.tables.map((table) => [table.id, table.x]))
      expect(scene.lines.length).toBeGreaterThan(20)
      for (const { parent, child } of scene.lines) expect(x.get(parent)).toBeLessThan(x.get(child) ?? 0)
    }
  })

  it('draws no line to a hub: what refers to it says so beside itself, each reference once', () => {
    const design = lifelike(170)
    const hubs = hubsOf(design)
    const scene = sceneOf(design)
    expect(hubs.size).toBeGreaterThan(1)
    expect(scene.lines.filter(({ parent, child }) => hubs.has(parent) && parent !== child)).toEqual([])
    const told = [...scene.lines, ...scene.stubs].map(({ id }) => id).sort()
    const references = design.tables.flatMap(({ foreignKeys }) => foreignKeys.map(({ id }) => id)).sort()
    expect(told).toEqual(references)
    const [stub] = scene.stubs
    const table = scene.tables.find(({ id }) => id === stub?.child)
    expect(table?.rows.find(({ id }) => id === stub?.column)?.leadsTo).toBe(stub?.says)
  })

  it('is drawn with its keys or its names alone, on a smaller sheet, and no less right', () => {
    const design = lifelike(90, 2)
    const areas = ROWS.map((rows) => {
      const scene = makeScene(design, layout(design, { rows }), { rows })
      expect(faultsOf(scene)).toEqual(NONE)
      expect(scene.lines.length).toBeGreaterThan(30)
      return measuresOf(scene).area
    })
    expect(areas[0]).toBeGreaterThan((areas[1] ?? 0) * 1.5)
    expect(areas[1]).toBeGreaterThan(areas[2] ?? 0)
  })

  it('holds what can be: nothing, a thousand tables without a reference, everything related to everything', () => {
    const alone = Array.from({ length: 1000 }, (_, at) => emptyTable(`t${at}`, `t_${at}`))
    const some = districts(12)
    const all = some.tables.map((table) => ({
      ...table,
      foreignKeys: some.tables.map((other) => ({
        ...(some.tables.flatMap(({ foreignKeys }) => foreignKeys)[0] ?? expect.fail()),
        id: `f_${table.id}_${other.id}`,
        table: other.id,
        key: other.primaryKey?.id ?? '',
        pairs: [{ column: table.columns[0]?.id ?? '', refersTo: other.columns[0]?.id ?? '' }]
      }))
    }))
    const named = some.tables.map((table, at) => ({
      ...table,
      name: ['ق'.repeat(60), '🦔'.repeat(40), 'w'.repeat(128)][at % 3] as string
    }))
    for (const tables of [[], alone, all, named]) {
      const scene = sceneOf({ ...emptyDesign('Odd'), tables })
      expect(scene.tables).toHaveLength(tables.length)
      expect(faultsOf(scene)).toEqual(NONE)
    }
    expect(sceneOf(emptyDesign('Nothing')).bounds).toEqual({ x: 0, y: 0, width: 0, height: 0 })
  })
})
