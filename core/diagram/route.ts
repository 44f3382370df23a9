/** A table in the way of lines. */
export interface Obstacle {
  x: number
  y: number
  width: number
  height: number
}
export type Point = readonly [x: number, y: number]
/**
 * A line to be routed: the rows that it joins, each on its own table. `bundle`: lines of one bundle may
 * share their way.
 */
export interface Link {
  id: string
  bundle: string
  from: { table: Obstacle; y: number }
  to: { table: Obstacle; y: number }
}

/** How far a line goes straight out of a table before it turns, so that its end has room. */
const STUB = 26
const CLEAR = 10
const BEND = 40
/** Searches longer than this are given up for a plain way; a person would not follow the line either. */
const MOST_STEPS = 60_000

/**
 * A way for each line, at right angles, from the row of one table to the row of another, round every
 * table. Lines of different bundles that would lie on each other are drawn apart.
 */
export function routeAll(links: readonly Link[], obstacles: readonly Obstacle[]): Map<string, Point[]> {
  const routes = new Map<string, Point[]>()
  for (const link of links) routes.set(link.id, routeOne(link, obstacles))
  drawApart(links, routes)
  return routes
}

function routeOne(link: Link, obstacles: readonly Obstacle[]): Point[] {
  const [fromSide, toSide] = sides(link.from.table, link.to.table)
  const start: Point = [
    fromSide > 0 ? link.from.table.x + link.from.table.width : link.from.table.x,
    link.from.y
  ]
  const end: Point = [toSide > 0 ? link.to.table.x + link.to.table.width : link.to.table.x, link.to.y]
  const first: Point = [start[0] + fromSide * STUB, start[1]]
  const last: Point = [end[0] + toSide * STUB, end[1]]
  // First among the tables near by, then among all; last, where tables crowd, with hardly any room beside
  // them.
  for (const [margin, clear] of [
    [60, CLEAR],
    [600, CLEAR],
    [Infinity, CLEAR],
    [Infinity, 1]
  ] as const) {
    const found = search(first, last, within(obstacles, first, last, margin), clear)
    if (found) return simplify([start, ...found, end])
  }
  return simplify([start, first, [first[0], last[1]], last, end])
}

/**
 * Which side each end leaves by (1 right, −1 left): towards each other, or both to the right where the
 * tables stand above each other.
 */
function sides(from: Obstacle, to: Obstacle): [number, number] {
  if (from.x + from.width + STUB <= to.x) return [1, -1]
  if (to.x + to.width + STUB <= from.x) return [-1, 1]
  return [1, 1]
}

function within(obstacles: readonly Obstacle[], a: Point, b: Point, margin: number): Obstacle[] {
  const [left, right] = [Math.min(a[0], b[0]) - margin, Math.max(a[0], b[0]) + margin]
  const [top, bottom] = [Math.min(a[1], b[1]) - margin, Math.max(a[1], b[1]) + margin]
  return obstacles.filter((o) => o.x < right && o.x + o.width > left && o.y < bottom && o.y + o.height > top)
}

/**
 * A* on the grid of lines that pass beside, above and below the tables: shortest way, with a price on each
 * bend.
 */
function search(
  start: Point,
  end: Point,
  obstacles: readonly Obstacle[],
  clear: number
): Point[] | undefined {
  const xs = distinct([
    start[0],
    end[0],
    Math.round((start[0] + end[0]) / 2),
    ...obstacles.flatMap((o) => [
      o.x - Math.min(STUB, clear * 2.6),
      o.x + o.width + Math.min(STUB, clear * 2.6)
    ])
  ])
  const ys = distinct([
    start[1],
    end[1],
    ...obstacles.flatMap((o) => [o.y - clear * 1.6, o.y + o.height + clear * 1.6])
  ])
  const { across, down } = blocked(xs, ys, obstacles, clear)
  const width = xs.length
  const startNode = ys.indexOf(start[1]) * width + xs.indexOf(start[0])
  const endNode = ys.indexOf(end[1]) * width + xs.indexOf(end[0])
  // Two states for each crossing: reached going across (0) or going down (1).
  const cost = new Float64Array(width * ys.length * 2).fill(Infinity)
  const before = new Int32Array(width * ys.length * 2).fill(-1)
  const queue = new Queue()
  const guess = (node: number): number =>
    Math.abs((xs[node % width] as number) - end[0]) +
    Math.abs((ys[Math.floor(node / width)] as number) - end[1])
  cost[startNode * 2] = 0
  queue.push(startNode * 2, guess(startNode))
  for (let steps = 0; steps < MOST_STEPS; steps++) {
    const state = queue.pop()
    if (state === undefined) return undefined
    const node = state >> 1
    const way = state & 1
    // The line must come in across: its end is a stub.
    if (node === endNode && way === 0) return trace(before, state, xs, ys)
    const x = node % width
    const y = (node - x) / width
    const go = (next: number, length: number, nextWay: number): void => {
      const price = (cost[state] as number) + length + (nextWay === way ? 0 : BEND)
      const nextState = next * 2 + nextWay
      if (price < (cost[nextState] as number)) {
        cost[nextState] = price
        before[nextState] = state
        queue.push(nextState, price + guess(next))
      }
    }
    if (x + 1 < width && !across[node]) go(node + 1, (xs[x + 1] as number) - (xs[x] as number), 0)
    if (x > 0 && !across[node - 1]) go(node - 1, (xs[x] as number) - (xs[x - 1] as number), 0)
    if (y + 1 < ys.length && !down[node]) go(node + width, (ys[y + 1] as number) - (ys[y] as number), 1)
    if (y > 0 && !down[node - width]) go(node - width, (ys[y] as number) - (ys[y - 1] as number), 1)
    if (node === endNode && way === 1) go(node, 0, 0)
  }
  return undefined
}

/**
 * For each crossing, whether the piece to its right and the piece below it run through a table or too
 * close by.
 */
function blocked(
  xs: readonly number[],
  ys: readonly number[],
  obstacles: readonly Obstacle[],
  clear: number
): { across: Uint8Array; down: Uint8Array } {
  const across = new Uint8Array(xs.length * ys.length)
  const down = new Uint8Array(xs.length * ys.length)
  for (const o of obstacles) {
    const [left, right, top, bottom] = [
      o.x - clear,
      o.x + o.width + clear,
      o.y - clear,
      o.y + o.height + clear
    ]
    const firstX = lowerBound(xs, left)
    const firstY = lowerBound(ys, top)
    for (let y = firstY; y < ys.length && (ys[y] as number) < bottom; y++) {
      if ((ys[y] as number) <= top) continue
      for (let x = Math.max(firstX - 1, 0); x + 1 < xs.length && (xs[x] as number) < right; x++)
        if ((xs[x + 1] as number) > left) across[y * xs.length + x] = 1
    }
    for (let x = firstX; x < xs.length && (xs[x] as number) < right; x++) {
      if ((xs[x] as number) <= left) continue
      for (let y = Math.max(firstY - 1, 0); y + 1 < ys.length && (ys[y] as number) < bottom; y++)
        if ((ys[y + 1] as number) > top) down[y * xs.length + x] = 1
    }
  }
  return { across, down }
}

function trace(before: Int32Array, end: number, xs: readonly number[], ys: readonly number[]): Point[] {
  const points: Point[] = []
  for (let state = end; state >= 0; state = before[state] as number) {
    const node = state >> 1
    points.unshift([xs[node % xs.length] as number, ys[Math.floor(node / xs.length)] as number])
  }
  return points
}

/** Without points that lie on a straight piece or twice in the same place. */
function simplify(points: readonly Point[]): Point[] {
  const kept: Point[] = []
  for (const point of points) {
    const [a, b] = [kept.at(-2), kept.at(-1)]
    if (b && b[0] === point[0] && b[1] === point[1]) continue
    if (a && b && ((a[0] === b[0] && b[0] === point[0]) || (a[1] === b[1] && b[1] === point[1]))) kept.pop()
    kept.push(point)
  }
  return kept
}

/**
 * A piece going down, with where its line comes in from and goes on to: the side of each end, and its
 * height.
 */
interface Piece {
  id: string
  bundle: string
  at: number
  low: number
  high: number
  arms: { y: number; side: number }[]
}

/**
 * Moves pieces going down that lie on each other and belong to different bundles to lanes of their own, a
 * few pixels apart.
 */
function drawApart(links: readonly Link[], routes: Map<string, Point[]>): void {
  const groups = new Map<number, Piece[]>()
  for (const { id, bundle } of links) {
    const points = routes.get(id) ?? []
    for (let at = 1; at < points.length - 2; at++) {
      const [before, a, b, after] = points.slice(at - 1, at + 3) as [Point, Point, Point, Point]
      if (a[0] !== b[0]) continue
      const arms = [
        { y: a[1], side: Math.sign(before[0] - a[0]) },
        { y: b[1], side: Math.sign(after[0] - b[0]) }
      ]
      const piece = { id, bundle, at, low: Math.min(a[1], b[1]), high: Math.max(a[1], b[1]), arms }
      const group = groups.get(a[0])
      if (group) group.push(piece)
      else groups.set(a[0], [piece])
    }
  }
  for (const pieces of groups.values()) {
    const lanes = assignLanes(pieces)
    const most = Math.max(...lanes.values())
    if (most === 0) continue
    const step = Math.min(7, (2 * (CLEAR - 2)) / most)
    for (const piece of pieces) {
      const shift = ((lanes.get(piece.bundle) ?? 0) - most / 2) * step
      const points = routes.get(piece.id) as Point[]
      const [a, b] = [points[piece.at] as Point, points[piece.at + 1] as Point]
      points[piece.at] = [a[0] + shift, a[1]]
      points[piece.at + 1] = [b[0] + shift, b[1]]
    }
  }
}

/** How often two bundles would cross with the first on the left: arms that reach over the other's piece. */
function crossings(left: readonly Piece[], right: readonly Piece[]): number {
  const over = (arms: Piece['arms'], side: number, others: readonly Piece[]): number =>
    arms.filter((arm) => arm.side === side && others.some((other) => other.low < arm.y && arm.y < other.high))
      .length
  return (
    left.reduce((sum, piece) => sum + over(piece.arms, 1, right), 0) +
    right.reduce((sum, piece) => sum + over(piece.arms, -1, left), 0)
  )
}

/** A lane for each bundle, from the left: beside those that it overlaps, in the order that crosses least. */
function assignLanes(pieces: readonly Piece[]): Map<string, number> {
  const bundles = new Map<string, Piece[]>()
  for (const piece of pieces) bundles.set(piece.bundle, [...(bundles.get(piece.bundle) ?? []), piece])
  const ordered = [...bundles].sort(([, a], [, b]) => crossings(a, b) - crossings(b, a))
  const lanes = new Map<string, number>()
  for (const [bundle, own] of ordered) {
    const beside = ordered.filter(
      ([other, theirs]) =>
        lanes.has(other) &&
        own.some((piece) => theirs.some((each) => piece.low <= each.high && each.low <= piece.high))
    )
    lanes.set(bundle, Math.max(-1, ...beside.map(([other]) => lanes.get(other) as number)) + 1)
  }
  return lanes
}

const distinct = (numbers: readonly number[]): number[] => [...new Set(numbers)].sort((a, b) => a - b)

function lowerBound(sorted: readonly number[], value: number): number {
  let [low, high] = [0, sorted.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if ((sorted[middle] as number) < value) low = middle + 1
    else high = middle
  }
  return low
}

/** A queue that gives the least first (a binary heap). */
class Queue {
  private readonly items: number[] = []
  private readonly keys: number[] = []

  push(item: number, key: number): void {
    let at = this.items.length
    while (at > 0) {
      const up = (at - 1) >> 1
      if ((this.keys[up] as number) <= key) break
      this.items[at] = this.items[up] as number
      this.keys[at] = this.keys[up] as number
      at = up
    }
    this.items[at] = item
    this.keys[at] = key
  }

  pop(): number | undefined {
    const top = this.items[0]
    const item = this.items.pop()
    const key = this.keys.pop()
    if (item === undefined || key === undefined || this.items.length === 0) return top
    let at = 0
    for (;;) {
      let next = at * 2 + 1
      if (next >= this.items.length) break
      if (next + 1 < this.items.length && (this.keys[next + 1] as number) < (this.keys[next] as number))
        next++
      if ((this.keys[next] as number) >= key) break
      this.items[at] = this.items[next] as number
      this.keys[at] = this.keys[next] as number
      at = next
    }
    this.items[at] = item
    this.keys[at] = key
    return top
  }
}
