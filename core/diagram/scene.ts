import { fullName, tableOf } from '../design/directory.ts'
import type { Design, ForeignKey, Look, Position, Subject, Table } from '../design/model.ts'
import { isSingle, readingOf } from '../relate/reading.ts'
import { boxesOf, rowMiddle, textWidth, type Box, type Extent } from './box.ts'
import { isBeside, isStub } from './layout.ts'
import { columnMarks, MARK } from './mark.ts'
import { END_WORDS, roomOf, wordsAtEnds } from './line-words.ts'
import { headOf, REGION, regionOf } from './regions.ts'
import { routeAll } from './route.ts'
import { STUB } from './stub.ts'
import type { RouteRequest, Point } from './geometry.ts'
import type { SceneTable, SceneStub, SceneLine, SceneRegion, LineEnd } from './scene-parts.ts'

/**
 * The drawing: tables and lines with their places; the screen and the exported picture paint this same
 * scene.
 */
export interface Scene {
  tables: SceneTable[]
  lines: SceneLine[]
  stubs: SceneStub[]
  regions: SceneRegion[]
  bounds: { x: number; y: number; width: number; height: number }
}

const MARGIN = 30

/**
 * Draws the design with its tables at the places given. Lines leave from the row of the column concerned.
 * What a part of a design refers to beyond itself is told of.
 */
export function makeScene(
  design: Design,
  positions: ReadonlyMap<string, Position>,
  extent: Extent & Partial<Pick<Look, 'words' | 'ends'>> = { rows: 'all' }
): Scene {
  const { whole = design, words = 'none', ends = 'feet' } = extent
  const boxes = boxesOf(design, extent)
  const tables = design.tables.map((table): SceneTable => ({
    ...(boxes.get(table.id) as Box),
    ...(positions.get(table.id) ?? { x: 0, y: 0 }),
    beside: isBeside(design, table, positions, extent) ? STUB.length : 0
  }))
  const placed = new Map(tables.map((table) => [table.id, table]))
  const links: RouteRequest[] = []
  const drawn: { table: Table; foreignKey: ForeignKey }[] = []
  const stubs: SceneStub[] = []
  for (const table of design.tables)
    for (const foreignKey of table.foreignKeys) {
      const [child, parent] = [placed.get(table.id), placed.get(foreignKey.table)]
      const [pair] = foreignKey.pairs
      if (!child || !pair) continue
      // Of what stands at the edge only what leads to the others counts.
      if (child.slim && (!parent || isStub(design, table, parent.id, positions))) continue
      if (!parent || isStub(design, table, parent.id, positions)) {
        stubs.push(stubOf(whole, table, foreignKey, child))
        continue
      }
      drawn.push({ table, foreignKey })
      links.push({
        id: foreignKey.id,
        bundle: foreignKey.key,
        from: { table: parent, y: parent.y + rowMiddle(parent, pair.refersTo) },
        to: { table: child, y: child.y + rowMiddle(child, pair.column) }
      })
    }
  const routes = routeAll(links, tables)
  const lines = drawn.flatMap(({ table, foreignKey }): SceneLine[] => {
    const points = routes.get(foreignKey.id)
    if (!points) {
      if (!placed.get(table.id)?.slim)
        stubs.push(stubOf(whole, table, foreignKey, placed.get(table.id) as SceneTable))
      return []
    }
    const reading = readingOf(table, foreignKey)
    return [
      {
        id: foreignKey.id,
        key: foreignKey.key,
        child: table.id,
        parent: foreignKey.table,
        points,
        identifying: reading.identifying,
        ends: [
          { ...endOf(points, 0), least: reading.ofChild === 'exactly one' ? 1 : 0, most: 'one' },
          { ...endOf(points, points.length - 1), ...manyEnd(table, foreignKey) }
        ]
      }
    ]
  })
  for (const { child, column, says } of stubs) {
    const table = placed.get(child)
    if (table) table.rows = table.rows.map((row) => (row.id === column ? { ...row, leadsTo: says } : row))
  }
  const regions = regionsOf(design, tables)
  const said = wordsAtEnds(whole, { words, ends }, lines, tables, regions)
  for (const { id, ends } of lines)
    for (const [at, end] of ends.entries()) {
      const own = said.get(id)?.[at]
      if (own) end.words = own
    }
  return { tables, lines, stubs, regions, bounds: boundsOf(tables, lines, regions) }
}

/** The regions of subjects: what is around their tables, wherever these were put. */
function regionsOf(design: Design, tables: readonly SceneTable[]): SceneRegion[] {
  const found = new Map<Subject, SceneTable[]>()
  for (const table of tables) {
    const subject = regionOf(design).get(table.id)
    if (subject) found.set(subject, [...(found.get(subject) ?? []), table])
  }
  return [...found].map(([{ id, name }, own]) => {
    const x = Math.min(...own.map((table) => table.x - table.beside)) - REGION.around
    const y = Math.min(...own.map((table) => table.y)) - headOf(design)
    const right = Math.max(...own.map((table) => table.x + table.width)) + REGION.around
    const bottom = Math.max(...own.map((table) => table.y + table.height)) + REGION.around
    return { id, name, x, y, width: right - x, height: bottom - y, head: headOf(design) }
  })
}

/** How few and how many rows refer to one. */
const manyEnd = (table: Table, foreignKey: ForeignKey): Pick<LineEnd, 'least' | 'most'> => ({
  least: foreignKey.atLeastOne ? 1 : 0,
  most: isSingle(readingOf(table, foreignKey)) ? 'one' : 'many'
})

function stubOf(design: Design, table: Table, foreignKey: ForeignKey, child: SceneTable): SceneStub {
  const parent = tableOf(design, foreignKey.table)
  const says = parent ? fullName(design, parent) : ''
  const column = foreignKey.pairs[0]?.column ?? ''
  const at: Point = [child.x, child.y + rowMiddle(child, column)]
  const marks = columnMarks(design, table).get(column) ?? []
  return {
    id: foreignKey.id,
    key: foreignKey.key,
    child: child.id,
    parent: foreignKey.table,
    says,
    column,
    identifying: readingOf(table, foreignKey).identifying,
    end: { at, side: -1, ...manyEnd(table, foreignKey) },
    mark: marks.find(({ key }) => key === foreignKey.key) ?? {
      key: foreignKey.key,
      style: 'fits',
      table: says
    }
  }
}

/** Where the mark of a stub stands, by its top left corner. */
export const stubMarkAt = ({ end: { at } }: SceneStub): Point => [
  at[0] - STUB.line - MARK.width - 2,
  at[1] - MARK.height / 2 + 1
]

function endOf(points: readonly Point[], at: number): Pick<LineEnd, 'at' | 'side'> {
  const point = points[at] as Point
  const next = points[at === 0 ? 1 : at - 1] as Point
  return { at: point, side: Math.sign(next[0] - point[0]) || 1 }
}

function boundsOf(
  tables: readonly SceneTable[],
  lines: readonly SceneLine[],
  regions: readonly SceneRegion[]
): Scene['bounds'] {
  if (tables.length === 0) return { x: 0, y: 0, width: 0, height: 0 }
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  const take = (x: number, y: number): void => {
    left = Math.min(left, x)
    right = Math.max(right, x)
    top = Math.min(top, y)
    bottom = Math.max(bottom, y)
  }
  for (const table of tables) {
    take(table.x - table.beside, table.y)
    take(table.x + table.width, table.y + table.height)
  }
  for (const line of lines) {
    for (const [x, y] of line.points) take(x, y)
    for (const { words } of line.ends) {
      if (!words) continue
      const { left, right, top, bottom } = roomOf(
        ...words.at,
        words.side,
        textWidth(words.text, END_WORDS.size)
      )
      take(left, top)
      take(right, bottom)
    }
  }
  for (const { x, y, width, height } of regions) {
    take(x, y)
    take(x + width, y + height)
  }
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
export function endMarks({ at: [x, y], side, least, most }: LineEnd): {
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

/** The numbers at an end, minimum..maximum: how few and how many of that side there may be. */
export const endNumbers = ({ least, most }: Pick<LineEnd, 'least' | 'most'>): string =>
  `${least}..${most === 'many' ? '*' : '1'}`

/** The outline of a table: a plain sheet, or, for a junction, one with its two left corners cut. */
export function outline({ x, y, width, height, junction }: SceneTable, cut: number): string {
  if (!junction) return `M${x} ${y}H${x + width}V${y + height}H${x}Z`
  return `M${x + cut} ${y}H${x + width}V${y + height}H${x + cut}L${x} ${y + height - cut}V${y + cut}Z`
}
