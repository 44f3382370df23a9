import { clip, textWidth } from './box.ts'
import type { SceneRegion, SceneTable } from './scene-parts.ts'

/** How much of each table is drawn: all its columns, its name and the marks of its keys, or its outline alone. */
export type Detail = 'columns' | 'keys' | 'outlines'

/** The least size at which a text is read (pixels on the screen). */
const READABLE = 7

/** How much of each table can be read at a scale: nothing is written smaller than that. */
export function detailAt(scale: number): Detail {
  if (COLUMN * scale >= READABLE) return 'columns'
  return scale >= KEYS ? 'keys' : 'outlines'
}
/** The size of what stands in a table's rows, and the scale from which a name fits into its head. */
const COLUMN = 12.5
const KEYS = 0.38

/** How large a table's name is in its head where its columns are not drawn, so that it is read (the drawing's pixels). */
export const nameSize = (scale: number): number => Math.min(28, 11 / scale)

/** A name over the drawing: its middle, and its size, in the drawing's own pixels. */
export interface Label {
  table: string
  /** One below the other. */
  lines: readonly string[]
  x: number
  y: number
  size: number
  /** Whether it is that of a region. */
  isRegion?: boolean
}

/** How large names are on the screen (pixels): the more hangs on a table the larger, and smaller to stay within it. */
const SIZES = { most: 15, least: 11, small: 8, region: 17 }
/** How wide a name may be on the screen beyond its table, and of how many letters a region's is left at least. */
const WIDEST = 130
const LEAST_LEFT = 4
/** Lines of a name are so much higher than its letters. */
export const LEADING = 1.15

/**
 * The names that there is room for where tables are drawn without: those of the tables that most hangs on first, each
 * over its table, none on another.
 * @param weights how much hangs on each table, by its id.
 * @param regions whose names stand in their heads, before all others.
 */
export function labelsAt(
  tables: readonly SceneTable[],
  scale: number,
  weights: ReadonlyMap<string, number>,
  regions: readonly SceneRegion[] = []
): Label[] {
  const weight = ({ id }: SceneTable): number => weights.get(id) ?? 0
  const most = tables.reduce((max, table) => Math.max(max, weight(table)), 1)
  const order = [...tables].sort(
    (one, other) => weight(other) - weight(one) || other.width * other.height - one.width * one.height
  )
  const taken: { left: number; right: number; top: number; bottom: number }[] = []
  return [
    ...regions.flatMap((region) => headLabel(region, scale, taken)),
    ...order.flatMap((table): Label[] => {
      const wanted = (SIZES.least + (SIZES.most - SIZES.least) * Math.sqrt(weight(table) / most)) / scale
      const { lines, size } = within(table, scale, wanted) ?? {
        lines: [clip(table.name, Math.max(table.width, WIDEST / scale), wanted)],
        size: wanted
      }
      const wide = widest(lines) * size * 1.06
      const high = size * LEADING * lines.length
      const [x, y] = [table.x + table.width / 2, table.y + Math.min(table.height / 2, size + high / 2)]
      const own = { left: x - wide / 2, right: x + wide / 2, top: y - high / 2, bottom: y + high / 2 }
      const isTaken = taken.some(
        (each) =>
          each.left < own.right && each.right > own.left && each.top < own.bottom && each.bottom > own.top
      )
      if (isTaken) return []
      taken.push(own)
      return [{ table: table.id, lines, x, y, size }]
    })
  ]
}

/** The widest line of a name, for each unit of its size. */
const widest = (lines: readonly string[]): number => Math.max(...lines.map((line) => textWidth(line, 1)))

/** A name that can be read within its table: whole, or else at its joints below each other; none that has no room. */
function within(
  { name, width, height }: SceneTable,
  scale: number,
  wanted: number
): { lines: string[]; size: number } | undefined {
  for (const lines of [[name], inTwo(name), name.split(JOINT)]) {
    const most = Math.min((width * OVER) / widest(lines), (height * 0.94) / (lines.length * LEADING))
    if (most * scale >= SIZES.small) return { lines, size: Math.min(wanted, most) }
  }
  return undefined
}

/** How much wider than its table a name is that still looks to be in it. */
const OVER = 1.08

/** Behind what a name can go on in the next line. */
const JOINT = /(?<=[_.\- ])(?=.)/

/** A name in two lines, of which the longer is as short as can be. */
function inTwo(name: string): string[] {
  const parts = name.split(JOINT)
  const cuts = parts.slice(1).map((_, at) => [parts.slice(0, at + 1).join(''), parts.slice(at + 1).join('')])
  return cuts.sort((one, other) => widest(one) - widest(other))[0] ?? [name]
}

/** The name of a region in its head, as large as it has room there. */
function headLabel(
  { id, name, x, y, width, head }: SceneRegion,
  scale: number,
  taken: { left: number; right: number; top: number; bottom: number }[]
): Label[] {
  const size = Math.max(SIZES.small / scale, Math.min(SIZES.region / scale, head * 0.8))
  const text = clip(name, width * 0.94, size)
  if (text.length < LEAST_LEFT) return []
  const half = (textWidth(text, size) * 1.06) / 2
  const [middle, line] = [x + width / 2, y + head / 2]
  taken.push({ left: middle - half, right: middle + half, top: line - size * 0.6, bottom: line + size * 0.6 })
  return [{ table: id, lines: [text], x: middle, y: line, size, isRegion: true }]
}
