import { tableOf } from '../design/directory.ts'
import type { Design, Position } from '../design/model.ts'
import { isSingle, readingOf } from '../relate/reading.ts'
import { boxesOf, type Box } from './box.ts'
import { routeAll, type Link, type Obstacle, type Point } from './route.ts'

/** A table with its place. */
export interface SceneTable extends Box {
  x: number
  y: number
}

/** One end of a line, in crow's foot notation: how few and how many of that side there may be. */
export interface End {
  at: Point
  /** 1 where the line leaves the table to the right, −1 to the left. */
  side: number
  least: 0 | 1
  most: 'one' | 'many'
}

export interface SceneLine {
  id: string
  key: string
  child: string
  parent: string
  points: Point[]
  identifying: boolean
  ends: [parent: End, child: End]
}

/**
 * The drawing: tables and lines with their places; the screen and the exported picture paint this same
 * scene.
 */
export interface Scene {
  tables: SceneTable[]
  lines: SceneLine[]
  bounds: { x: number; y: number; width: number; height: number }
}

const MARGIN = 30

/** Draws the design with its tables at the places given. Lines leave from the row of the column concerned. */
export function makeScene(design: Design, positions: ReadonlyMap<string, Position>): Scene {
  const boxes = boxesOf(design)
  const tables = [...boxes.values()].map((box): SceneTable => ({
    ...box,
    ...(positions.get(box.id) ?? { x: 0, y: 0 })
  }))
  const placed = new Map(tables.map((table) => [table.id, table]))
  const links: (Link & { parent: string; child: string })[] = []
  for (const table of design.tables) {
    for (const foreignKey of table.foreignKeys) {
      const child = placed.get(table.id)
      const parent = placed.get(foreignKey.table)
      const [pair] = foreignKey.pairs
      if (!child || !parent || !pair) continue
      links.push({
        id: foreignKey.id,
        bundle: foreignKey.key,
        parent: parent.id,
        child: child.id,
        from: { table: parent, y: parent.y + rowMiddle(parent, pair.refersTo) },
        to: { table: child, y: child.y + rowMiddle(child, pair.column) }
      })
    }
  }
  const routes = routeAll(links, tables)
  const lines = links.flatMap((link): SceneLine[] => {
    const table = tableOf(design, link.child)
    const foreignKey = table?.foreignKeys.find((each) => each.id === link.id)
    const points = routes.get(link.id)
    if (!table || !foreignKey || !points) return []
    const reading = readingOf(table, foreignKey)
    return [
      {
        id: link.id,
        key: foreignKey.key,
        child: link.child,
        parent: link.parent,
        points,
        identifying: reading.identifying,
        ends: [
          { ...endOf(points, 0), least: reading.ofChild === 'exactly one' ? 1 : 0, most: 'one' },
          {
            ...endOf(points, points.length - 1),
            least: foreignKey.atLeastOne ? 1 : 0,
            most: isSingle(reading) ? 'one' : 'many'
          }
        ]
      }
    ]
  })
  return { tables, lines, bounds: boundsOf(tables, lines) }
}

const rowMiddle = (box: Box, column: string): number =>
  box.rows.find((row) => row.id === column)?.middle ?? box.height / 2

function endOf(points: readonly Point[], at: number): Pick<End, 'at' | 'side'> {
  const point = points[at] as Point
  const next = points[at === 0 ? 1 : at - 1] as Point
  return { at: point, side: Math.sign(next[0] - point[0]) || 1 }
}

function boundsOf(tables: readonly Obstacle[], lines: readonly SceneLine[]): Scene['bounds'] {
  if (tables.length === 0) return { x: 0, y: 0, width: 0, height: 0 }
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  const take = (x: number, y: number): void => {
    left = Math.min(left, x)
    right = Math.max(right, x)
    top = Math.min(top, y)
    bottom = Math.max(bottom, y)
  }
  for (const table of tables) {
    take(table.x, table.y)
    take(table.x + table.width, table.y + table.height)
  }
  for (const line of lines) for (const [x, y] of line.points) take(x, y)
  return {
    x: left - MARGIN,
    y: top - MARGIN,
    width: right - left + 2 * MARGIN,
    height: bottom - top + 2 * MARGIN
  }
}

/** The way of a line as SVG path data. */
export function linePath(points: readonly Point[]): string {
  return points
    .map(([x, y], at) => (at === 0 ? `M${x} ${y}` : points[at - 1]?.[1] === y ? `H${x}` : `V${y}`))
    .join('')
}

/**
 * Crow's foot notation at an end: path data for its strokes, and the circle of “may be none”. Takes up 20
 * pixels of the line.
 */
export function endMarks({ at: [x, y], side, least, most }: End): {
  path: string
  circle: Point | undefined
} {
  const foot = most === 'many'
  const path = foot
    ? `M${x + side * 10} ${y}L${x} ${y - 6}M${x + side * 10} ${y}L${x} ${y + 6}`
    : `M${x + side * 6} ${y - 5}V${y + 5}`
  if (least === 0) return { path, circle: [x + side * (foot ? 14 : 13), y] }
  return { path: `${path}M${x + side * (foot ? 13 : 10)} ${y - 5}V${y + 5}`, circle: undefined }
}

/** The outline of a table: a plain sheet, or, for a junction, one with its two left corners cut. */
export function outline({ x, y, width, height, junction }: SceneTable, cut: number): string {
  if (!junction) return `M${x} ${y}H${x + width}V${y + height}H${x}Z`
  return `M${x + cut} ${y}H${x + width}V${y + height}H${x + cut}L${x} ${y + height - cut}V${y + cut}Z`
}
