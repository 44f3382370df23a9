import type { Room } from './near.ts'
import type { Obstacle, Point } from './geometry.ts'

/** How near a way may pass by a table, and what a bend and a crossing cost, as so much more way (pixels). */
const BESIDE = 26
const BEND = 40
const CROSSING = 30
/** Searches longer than this are given up for a plain way; a person would not follow the line either. */
const MOST_STEPS = 60_000

/** A straight piece of a line that is there already. */
export interface LinePiece {
  bundle: string
  a: Point
  b: Point
}

/** What a way is looked for between, and around. */
export interface Quest {
  start: Point
  end: Point
  obstacles: readonly Obstacle[]
  /** How near it may pass by a table at least (pixels). */
  clear: number
  /** What lies beyond it is not known, so the way stays in it. */
  room: Room
  /** Pieces of lines of other keys, which are better not crossed. */
  others: readonly LinePiece[]
}

/**
 * A* on the grid of lines that pass beside, above and below the tables: the shortest way in a room, with a price on
 * each bend and on each line that it crosses; nothing where there is none.
 */
export function search({ start, end, obstacles, clear, room, others }: Quest): Point[] | undefined {
  const isInX = (x: number): boolean => x >= room.left && x <= room.right
  const isInY = (y: number): boolean => y >= room.top && y <= room.bottom
  const xs = distinct([
    start[0],
    end[0],
    Math.round((start[0] + end[0]) / 2),
    ...obstacles
      .flatMap((o) => [o.x - Math.min(BESIDE, clear * 2.6), o.x + o.width + Math.min(BESIDE, clear * 2.6)])
      .filter(isInX)
  ])
  const ys = distinct([
    start[1],
    end[1],
    ...obstacles.flatMap((o) => [o.y - clear * 1.6, o.y + o.height + clear * 1.6]).filter(isInY)
  ])
  const { across, down } = blocked(xs, ys, obstacles, clear)
  const crossed = crossings(xs, ys, others)
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
    const acrossTo = (next: number, piece: number): void =>
      go(
        next,
        Math.abs((xs[next % width] as number) - (xs[x] as number)) + (crossed.across[piece] as number),
        0
      )
    const downTo = (next: number, piece: number): void =>
      go(
        next,
        Math.abs((ys[(next - x) / width] as number) - (ys[y] as number)) + (crossed.down[piece] as number),
        1
      )
    if (x + 1 < width && !across[node]) acrossTo(node + 1, node)
    if (x > 0 && !across[node - 1]) acrossTo(node - 1, node - 1)
    if (y + 1 < ys.length && !down[node]) downTo(node + width, node)
    if (y > 0 && !down[node - width]) downTo(node - width, node - width)
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

/**
 * For each crossing of the grid, what the piece to its right and the piece below it cost for the lines that they cross:
 * those on the grid's own lines are crossed by the piece that ends there.
 */
function crossings(
  xs: readonly number[],
  ys: readonly number[],
  others: readonly LinePiece[]
): { across: Float64Array; down: Float64Array } {
  const across = new Float64Array(xs.length * ys.length)
  const down = new Float64Array(xs.length * ys.length)
  for (const { a, b } of others) {
    const isDown = a[0] === b[0]
    const [along, other] = isDown ? [ys, xs] : [xs, ys]
    const [from, to] = isDown ? [a[1], b[1]] : [a[0], b[0]]
    const piece = lowerBound(other, isDown ? a[0] : a[1]) - 1
    if (piece < 0 || piece >= other.length - 1) continue
    const most = Math.max(from, to)
    for (
      let at = lowerBound(along, Math.min(from, to));
      at < along.length && (along[at] as number) < most;
      at++
    )
      if ((along[at] as number) > Math.min(from, to)) {
        if (isDown) across[at * xs.length + piece] = (across[at * xs.length + piece] as number) + CROSSING
        else down[piece * xs.length + at] = (down[piece * xs.length + at] as number) + CROSSING
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
export function simplify(points: readonly Point[]): Point[] {
  const kept: Point[] = []
  for (const point of points) {
    const [a, b] = [kept.at(-2), kept.at(-1)]
    if (b && b[0] === point[0] && b[1] === point[1]) continue
    if (a && b && ((a[0] === b[0] && b[0] === point[0]) || (a[1] === b[1] && b[1] === point[1]))) kept.pop()
    kept.push(point)
  }
  return kept
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
