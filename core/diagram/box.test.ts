import type { Design } from '../design/model.ts'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { NAMES } from '../../tests/designs.ts'
import { BOX, boxesOf, clip, textWidth } from './box.ts'
import { keyShape } from '../design/key-shape.ts'
import { markColour, markPath, tableMarks } from './mark.ts'
import { endMarks, linePath, outline } from './scene.ts'

const design = fernhollow().versions[1]?.design as Design
const box = (id: string) => boxesOf(design).get(id) ?? expect.fail(id)

/** Contrast of two colours (WCAG 2.2, 1.4.3). */
function contrast(a: string, b: string): number {
  const luminance = (hex: string): number => {
    const [r = 0, g = 0, bl = 0] = [1, 3, 5]
      .map((at) => parseInt(hex.slice(at, at + 2), 16) / 255)
      .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4))
    return 0.2126 * r + 0.7152 * g + 0.0722 * bl
  }
  const [light, dark] = [luminance(a), luminance(b)].sort((x, y) => y - x) as [number, number]
  return (light + 0.05) / (dark + 0.05)
}

describe('a box', () => {
  it('has its key columns above the rule and the rest below, each in its row', () => {
    const dose = box('t_dose')
    expect(dose.rows.map((row) => row.name)).toEqual([
      'admission_id',
      'medicine_id',
      'given_at',
      'quantity',
      'unit_cost'
    ])
    expect(dose.rows.filter((row) => row.middle < dose.rule)).toHaveLength(3)
    expect(dose).toMatchObject({ junction: true, height: BOX.head + 5 * BOX.row + BOX.foot })
    expect(dose.marks.map((mark) => [mark.table, mark.style])).toEqual([
      ['admission', 'both'],
      ['medicine', 'both']
    ])
    for (const row of dose.rows) expect(row.middle).toBeLessThan(dose.height)
    expect(boxesOf(design)).toBe(boxesOf(design))
  })

  it('is as wide as its longest line needs and no wider than it may be', () => {
    for (const each of boxesOf(design).values()) {
      expect(each.width).toBeLessThanOrEqual(BOX.most)
      for (const row of each.rows)
        expect(textWidth(row.name, 12.5, true) + textWidth(row.type, 12, true)).toBeLessThan(each.width)
    }
    const long = {
      ...design,
      tables: [{ ...(design.tables[0] as (typeof design.tables)[number]), name: 'x'.repeat(128) }]
    }
    expect([...boxesOf(long).values()][0]?.width).toBe(BOX.most)
  })

  it('clips what is too long, and never inside a character', () => {
    fc.assert(
      fc.property(fc.constantFrom(...NAMES), fc.integer({ min: 20, max: 200 }), (name, width) => {
        const clipped = clip(name, width, 12)
        expect(clipped.isWellFormed()).toBe(true)
        if (clipped !== name) {
          expect(clipped.endsWith('…')).toBe(true)
          expect(name.startsWith(clipped.slice(0, -1))).toBe(true)
        }
      })
    )
  })
})

describe('marks and ends', () => {
  it('have a colour that can be told from the sheet in both themes', () => {
    for (let hue = 0; hue < 360; hue += 15) {
      expect(contrast(markColour({ cuts: [], hue }), '#ffffff')).toBeGreaterThan(3)
      expect(contrast(markColour({ cuts: [], hue }, true), '#1a2420')).toBeGreaterThan(3)
    }
  })

  it('are drawn inside their strip', () => {
    const numbers =
      markPath(keyShape('k_x'))
        .match(/-?\d+(\.\d+)?/g)
        ?.map(Number) ?? []
    expect(Math.max(...numbers)).toBeLessThanOrEqual(24)
    expect(Math.min(...numbers)).toBeGreaterThanOrEqual(0)
    expect(
      tableMarks(design, { ...(design.tables[0] as (typeof design.tables)[number]), primaryKey: undefined })
    ).toEqual([])
  })

  it('say how few and how many at each end', () => {
    const at = [100, 50] as const
    expect(endMarks({ at, side: 1, least: 1, most: 'one' })).toEqual({
      path: 'M106 45V55M110 45V55',
      circle: undefined
    })
    expect(endMarks({ at, side: -1, least: 0, most: 'many' })).toEqual({
      path: 'M90 50L100 44M90 50L100 56',
      circle: [86, 50]
    })
    expect(endMarks({ at, side: 1, least: 0, most: 'one' }).circle).toEqual([113, 50])
    expect(
      linePath([
        [0, 0],
        [10, 0],
        [10, 5],
        [20, 5]
      ])
    ).toBe('M0 0H10V5H20')
  })

  it('cut the two left corners of a junction and no other', () => {
    const place = { x: 0, y: 0, width: 100, height: 60, beside: 0 }
    expect(outline({ ...box('t_patient'), ...place }, 10)).toBe('M0 0H100V60H0Z')
    expect(outline({ ...box('t_dose'), ...place }, 10)).toBe('M10 0H100V60H10L0 50V10Z')
  })
})
