import { describe, expect, it } from 'vitest'
import { districts } from '../../demo/districts.ts'
import { layered } from '../../cli/layered.ts'
import type { Design } from '../design/model.ts'
import { boxesOf } from './box.ts'
import { layout, type LayeredGraph } from './layout.ts'
import { makeScene } from './scene.ts'

interface Placed {
  id: string
  x: number
  y: number
  width: number
  height: number
}

async function place(design: Design): Promise<Placed[]> {
  const positions = await layout(design, layered)
  return [...boxesOf(design).values()].map(({ id, width, height }) => ({
    id,
    width,
    height,
    ...(positions.get(id) ?? expect.fail(`${id} has no place`))
  }))
}

function overlaps(placed: readonly Placed[]): string[] {
  return placed.flatMap((a, at) =>
    placed
      .slice(at + 1)
      .filter(
        (b) => a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height
      )
      .map((b) => `${a.id} on ${b.id}`)
  )
}

describe('the layout of a large design', () => {
  it('puts no table on another, gives every table a place, and the same each time', async () => {
    const design = districts(300)
    const placed = await place(design)
    expect(overlaps(placed)).toEqual([])
    expect(placed.every(({ x, y }) => Number.isInteger(x) && Number.isInteger(y))).toBe(true)
    expect(await place(design)).toEqual(placed)
  })

  it('stands a table that very many refer to at the far left, and keeps the whole in a shape that can be looked at', async () => {
    const placed = await place(districts(300))
    const species = placed.find(({ id }) => id === 't_species') ?? expect.fail('no species')
    expect(
      placed.filter(({ id }) => id !== 't_species').every(({ x }) => x > species.x + species.width)
    ).toBe(true)
    const [width, height] = [
      Math.max(...placed.map((t) => t.x + t.width)) - species.x,
      Math.max(...placed.map((t) => t.y + t.height))
    ]
    expect(width / height).toBeGreaterThan(0.8)
    expect(width / height).toBeLessThan(4)
  })

  it('lays a small design out in one piece, hub or not', async () => {
    const placed = await place(districts(40))
    const x = new Map(placed.map((table) => [table.id, table.x]))
    for (const table of districts(40).tables)
      for (const key of table.foreignKeys) expect(x.get(key.table) ?? 0).toBeLessThan(x.get(table.id) ?? 0)
  })

  it('asks the layered step for nothing where there is nothing', async () => {
    const asked: LayeredGraph[] = []
    const step = (graph: LayeredGraph) => {
      asked.push(graph)
      return Promise.resolve(graph)
    }
    expect((await layout({ ...districts(1), tables: [] }, step)).size).toBe(0)
    expect(asked).toEqual([])
    expect(makeScene({ ...districts(1), tables: [] }, new Map()).bounds).toEqual({
      x: 0,
      y: 0,
      width: 0,
      height: 0
    })
  })
})
