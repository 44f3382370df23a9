import { describe, expect, it } from 'vitest'
import { lifelike } from '../../demo/lifelike.ts'
import { textWidth } from './box.ts'
import { detailAt, labelsAt, nameSize } from './labels.ts'
import { layout } from './layout.ts'
import { makeScene } from './scene.ts'

describe('what is drawn from how far', () => {
  it('is more the nearer, and never smaller than can be read', () => {
    const details = [0.02, 0.2, 0.37, 0.4, 0.5, 0.55, 0.57, 1, 3].map(detailAt)
    expect(details).toEqual([
      'outlines',
      'outlines',
      'outlines',
      'keys',
      'keys',
      'keys',
      'columns',
      'columns',
      'columns'
    ])
    for (const scale of [0.38, 0.45, 0.55]) expect(nameSize(scale) * scale).toBeGreaterThan(9)
  })

  it('has names that lie on no other, those of what most refer to among them, and more of them the nearer', () => {
    const design = lifelike(170)
    const { tables } = makeScene(design, layout(design))
    const weights = new Map(tables.map(({ id }, at) => [id, at % 7 === 0 ? 40 : at % 3]))
    const counts = [0.05, 0.1, 0.2, 0.35].map((scale) => {
      const labels = labelsAt(tables, scale, weights)
      const boxes = labels.map(({ lines, x, y, size }) => ({
        x,
        y,
        wide: Math.max(...lines.map((line) => textWidth(line, size))),
        high: size * lines.length
      }))
      for (const [at, one] of boxes.entries())
        for (const other of boxes.slice(at + 1)) {
          const isBeside = Math.abs(one.x - other.x) >= (one.wide + other.wide) / 2
          const isAbove = Math.abs(one.y - other.y) >= (one.high + other.high) / 2
          expect(isBeside || isAbove).toBe(true)
        }
      for (const { size } of labels) expect(size * scale).toBeGreaterThanOrEqual(8)
      const heavy = [...weights].filter(([, weight]) => weight === 40).map(([id]) => id)
      const shown = new Set(labels.map(({ table }) => table))
      const share = (ids: readonly string[]): number => ids.filter((id) => shown.has(id)).length / ids.length
      expect(share(heavy)).toBeGreaterThanOrEqual(share(tables.map(({ id }) => id)))
      return labels.length
    })
    expect(counts).toEqual([...counts].sort((one, other) => one - other))
    expect(counts.at(-1)).toBeGreaterThan(100)
  })

  it('has names in as many lines as make them stay within their tables, where that can be read', () => {
    const design = lifelike(170)
    const { tables } = makeScene(design, layout(design))
    const byId = new Map(tables.map((table) => [table.id, table]))
    const labels = labelsAt(tables, 0.2, new Map())
    const inLines = labels.filter(({ lines }) => lines.length > 1)
    expect(inLines.length).toBeGreaterThan(20)
    for (const { table, lines, size } of inLines) {
      const { name, width, height } = byId.get(table) ?? expect.fail()
      expect(lines.join('')).toBe(name)
      expect(Math.max(...lines.map((line) => textWidth(line, size)))).toBeLessThanOrEqual(width * 1.1)
      expect(size * lines.length).toBeLessThanOrEqual(height)
    }
  })
})
