import { groupBy } from '../group.ts'
import { drawApart } from './lanes.ts'
import { around, Near, type Room } from './near.ts'
import { search, simplify, type LinePiece } from './way.ts'
import type { Obstacle, RouteEnd, Point, RouteRequest } from './geometry.ts'

/** How far a line goes straight out of a table before it turns, so that its end has room. */
const OUT = 26
const CLEAR = 10
/** How far apart lines of different keys end that end at the same row. */
const APART = 6

/** How often all ways are looked for: from the second time on with all others known. */
const ROUNDS = 2

/**
 * A way for each line, at right angles, from the row of one table to the row of another, round every
 * table, and across few others. Lines of different bundles that would lie on each other are drawn apart. Where tables
 * crowd so that a line finds no way of its own, it has none.
 */
export function routeAll(
  links: readonly RouteRequest[],
  obstacles: readonly Obstacle[]
): Map<string, Point[]> {
  const tables = new Near<Obstacle>(roomOf)
  for (const obstacle of obstacles) tables.add(whole(obstacle))
  const pieces = new Near<LinePiece>(({ a, b }) => around(a, b, 0.5))
  const own = new Map<string, LinePiece[]>()
  const routes = new Map<string, Point[]>(links.map(({ id }) => [id, []]))
  // What is short has hardly a choice, so it comes first.
  const order = withOwnEnds(links).sort((one, other) => lengthOf(one) - lengthOf(other))
  for (let round = 0; round < ROUNDS; round++)
    for (const link of order) {
      for (const piece of own.get(link.id) ?? []) pieces.remove(piece)
      const points = routeOne(link, tables, pieces)
      const made = points
        .slice(1)
        .map((b, at): LinePiece => ({ bundle: link.bundle, a: points[at] as Point, b }))
      for (const piece of made) pieces.add(piece)
      own.set(link.id, made)
      routes.set(link.id, points)
    }
  drawApart(links, routes, tables)
  const bare = new Near<Obstacle>(roomOf)
  for (const obstacle of obstacles) bare.add(obstacle)
  return withoutFaults(order, routes, bare)
}

/** How near and how far two lines run beside each other that are taken for one (pixels). */
const ONE = 2

/** The ways that run through no table and on no line of another key: the longer of two is left out. */
function withoutFaults(
  order: readonly RouteRequest[],
  routes: ReadonlyMap<string, Point[]>,
  tables: Near<Obstacle>
): Map<string, Point[]> {
  const kept = new Map<string, Point[]>()
  const pieces = new Near<LinePiece>(({ a, b }) => around(a, b, ONE))
  for (const { id, bundle } of order) {
    const points = routes.get(id) as Point[]
    const own = points.slice(1).map((b, at): LinePiece => ({ bundle, a: points[at] as Point, b }))
    const isFree = own.every((piece) => {
      const room = around(piece.a, piece.b, 0)
      return tables.within(room).length === 0 && !pieces.within(room).some((other) => isOn(piece, other))
    })
    if (!isFree || own.length === 0) continue
    kept.set(id, points)
    for (const piece of own) pieces.add(piece)
  }
  return kept
}

function isOn(one: LinePiece, other: LinePiece): boolean {
  const axis = one.a[0] === one.b[0] ? 0 : 1
  if (one.bundle === other.bundle || other.a[axis] !== other.b[axis]) return false
  const along = axis === 0 ? 1 : 0
  const from = Math.max(Math.min(one.a[along], one.b[along]), Math.min(other.a[along], other.b[along]))
  const to = Math.min(Math.max(one.a[along], one.b[along]), Math.max(other.a[along], other.b[along]))
  return Math.abs(one.a[axis] - other.a[axis]) < ONE && to - from > ONE
}

const lengthOf = ({ from, to }: RouteRequest): number =>
  Math.abs(from.table.x - to.table.x) + Math.abs(from.y - to.y)

const roomOf = ({ x, y, width, height }: Obstacle): Room => ({
  left: x,
  top: y,
  right: x + width,
  bottom: y + height
})

/** With what is told beside it. */
const whole = ({ x, y, width, height, beside = 0 }: Obstacle): Obstacle => ({
  x: x - beside,
  y,
  width: width + beside,
  height
})

function routeOne(link: RouteRequest, tables: Near<Obstacle>, pieces: Near<LinePiece>): Point[] {
  const [fromSide, toSide] = sides(link.from.table, link.to.table)
  const [start, first] = outOf(link.from, fromSide)
  const [end, last] = outOf(link.to, toSide)
  // First among the tables near by, then among more; last, where tables crowd, with hardly any room beside them.
  for (const [margin, clear] of [
    [60, CLEAR],
    [600, CLEAR],
    [2000, CLEAR],
    [2000, 1]
  ] as const) {
    const room = around(first, last, margin)
    const others = pieces.within(room).filter(({ bundle }) => bundle !== link.bundle)
    const found = search({ start: first, end: last, obstacles: tables.within(room), clear, room, others })
    if (found) return simplify([start, ...found, end])
  }
  return simplify([start, first, [first[0], last[1]], last, end])
}

/** Where a line leaves a table by a side, and where it may turn. */
function outOf({ table, y }: RouteEnd, side: number): [Point, Point] {
  const edge = side > 0 ? table.x + table.width : table.x
  const beside = side > 0 ? 0 : (table.beside ?? 0)
  return [
    [edge, y],
    [edge + side * (OUT + beside), y]
  ]
}

/**
 * Which side each end leaves by (1 right, −1 left): towards each other, or both to the right where the
 * tables stand above each other.
 */
function sides(from: Obstacle, to: Obstacle): [number, number] {
  const room = 2 * OUT
  if (from.x + from.width + room <= to.x - (to.beside ?? 0)) return [1, -1]
  if (to.x + to.width + room <= from.x - (from.beside ?? 0)) return [-1, 1]
  return [1, 1]
}

/** Lines of different keys that end at one row of a table end a little apart. */
function withOwnEnds(links: readonly RouteRequest[]): RouteRequest[] {
  const ends = links.flatMap(({ bundle, from, to }) => {
    const [fromSide, toSide] = sides(from.table, to.table)
    return [
      { bundle, row: rowOf(from, fromSide) },
      { bundle, row: rowOf(to, toSide) }
    ]
  })
  const bundles = new Map(
    [...groupBy(ends, ({ row }) => row)].map(([row, at]) => [
      row,
      [...new Set(at.map(({ bundle }) => bundle))]
    ])
  )
  const shifted = (end: RouteEnd, side: number, bundle: string): RouteEnd => {
    const there = bundles.get(rowOf(end, side)) ?? []
    return {
      ...end,
      y: end.y + (there.indexOf(bundle) - (there.length - 1) / 2) * Math.min(APART, 14 / there.length)
    }
  }
  return links.map((link) => {
    const [fromSide, toSide] = sides(link.from.table, link.to.table)
    return {
      ...link,
      from: shifted(link.from, fromSide, link.bundle),
      to: shifted(link.to, toSide, link.bundle)
    }
  })
}

const rowOf = ({ table, y }: RouteEnd, side: number): string => `${table.x} ${table.y} ${y} ${side}`
