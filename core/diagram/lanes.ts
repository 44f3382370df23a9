import { groupBy } from '../group.ts'
import type { Near } from './near.ts'
import { simplify } from './way.ts'
import type { RouteRequest, Obstacle, Point } from './geometry.ts'

/** How far lines of different keys run apart, and where there is no room for that, how far from tables, and how far straight out of one (pixels). */
const APART = 7
const CLOSE = 2.5
const CLEAR = 8
const OUT = 24
/** How far apart, along their lane, two lines are that may have the same one. */
const BEHIND = 10
/** How often lanes are chosen anew, with what the others have chosen by then. */
const ROUNDS = 3

/** A piece of a line that can be moved sideways: between two points of its way. */
interface Piece {
  link: string
  points: Point[]
  at: number
}

/** Pieces of lines of one key that lie in one lane and are moved together. */
interface Trunk {
  bundle: string
  pieces: Piece[]
  /** Where it lies, and between which bounds it may. */
  lane: number
  least: number
  most: number
  /** The stretches along the lane that it takes. */
  stretches: [from: number, to: number][]
  /** The pieces that come in from its sides: where along the lane, and from which side (1 beyond it, −1 before it). */
  arms: { along: number; side: number }[]
  isFixed: boolean
}

/** Which of a point's two numbers tells the lane, and which runs along it. */
interface Axis {
  lane: 0 | 1
  along: 0 | 1
}
const DOWN: Axis = { lane: 0, along: 1 }
const ACROSS: Axis = { lane: 1, along: 0 }

/**
 * Moves pieces of lines of different keys that would lie on each other to lanes of their own, between the tables beside
 * them, so that few cross; lines of one key share theirs.
 */
export function drawApart(
  links: readonly RouteRequest[],
  routes: Map<string, Point[]>,
  near: Near<Obstacle>
): void {
  const bundles = new Map(links.map(({ id, bundle }) => [id, bundle]))
  const arms = new EndArms(routes, bundles)
  for (const axis of [DOWN, ACROSS, DOWN, ACROSS]) {
    const trunks = trunksOf(routes, bundles, axis, near)
    chooseLanes(trunks, axis, arms)
  }
  for (const [id, points] of routes) routes.set(id, simplify(points))
}

function trunksOf(
  routes: ReadonlyMap<string, Point[]>,
  bundles: ReadonlyMap<string, string>,
  axis: Axis,
  near: Near<Obstacle>
): Trunk[] {
  const trunks: Trunk[] = []
  for (const [link, points] of routes)
    for (let at = 0; at + 1 < points.length; at++) {
      const [a, b] = [points[at] as Point, points[at + 1] as Point]
      if (a[axis.lane] !== b[axis.lane]) continue
      const isEnd = at === 0 || at === points.length - 2
      // What goes straight out of a table does so on a lane that its row gives.
      if (isEnd && axis === DOWN) continue
      const piece = { link, points, at }
      const lane = a[axis.lane]
      const [from, to] = ordered(a[axis.along], b[axis.along])
      const [least, most] = isEnd ? [lane, lane] : boundsOf(piece, axis, near)
      const armAt = (point: number, beyond: number): Trunk['arms'] => {
        const other = points[beyond]
        const side = other ? Math.sign(other[axis.lane] - lane) : 0
        return side === 0 ? [] : [{ along: (points[point] as Point)[axis.along], side }]
      }
      trunks.push({
        bundle: bundles.get(link) as string,
        pieces: [piece],
        lane,
        least,
        most,
        stretches: [[from, to]],
        arms: [...armAt(at, at - 1), ...armAt(at + 1, at + 2)],
        isFixed: isEnd
      })
    }
  return [...trunks.filter(({ isFixed }) => isFixed), ...joined(trunks.filter(({ isFixed }) => !isFixed))]
}

const ordered = (one: number, other: number): [number, number] => (one < other ? [one, other] : [other, one])

/** Between which lanes a piece may lie: as far as the tables beside it, and the ends of its line, let it. */
function boundsOf({ points, at }: Piece, axis: Axis, near: Near<Obstacle>): [least: number, most: number] {
  const [a, b] = [points[at] as Point, points[at + 1] as Point]
  const lane = a[axis.lane]
  const [from, to] = ordered(a[axis.along], b[axis.along])
  const box = (low: number, high: number): Obstacle[] =>
    axis === DOWN
      ? near.within({ left: low, top: from - CLEAR, right: high, bottom: to + CLEAR })
      : near.within({ left: from - CLEAR, top: low, right: to + CLEAR, bottom: high })
  let [least, most] = [lane - REACH, lane + REACH]
  for (const { x, y, width, height } of box(least, most)) {
    const [low, high] = axis === DOWN ? [x, x + width] : [y, y + height]
    if (high <= lane) least = Math.max(least, high + CLEAR)
    else if (low >= lane) most = Math.min(most, low - CLEAR)
  }
  if (axis === DOWN)
    for (const [end, edge] of [
      [at === 1, points[0]],
      [at === points.length - 3, points.at(-1)]
    ] as const) {
      if (!end || !edge) continue
      if (edge[0] < lane) least = Math.max(least, edge[0] + OUT)
      else most = Math.min(most, edge[0] - OUT)
    }
  return [Math.min(least, lane), Math.max(most, lane)]
}
/** How far a piece is moved at most (pixels). */
const REACH = 120

/** Pieces of one key that lie in one lane, and may lie in another together, as one. */
function joined(trunks: readonly Trunk[]): Trunk[] {
  const whole: Trunk[] = []
  for (const group of groupBy(trunks, ({ bundle, lane }) => `${bundle} ${lane}`).values()) {
    const open: Trunk[] = []
    for (const trunk of group) {
      const fits = open.find(({ least, most }) => Math.max(least, trunk.least) <= Math.min(most, trunk.most))
      if (!fits) {
        open.push({ ...trunk })
        continue
      }
      fits.pieces = [...fits.pieces, ...trunk.pieces]
      fits.least = Math.max(fits.least, trunk.least)
      fits.most = Math.min(fits.most, trunk.most)
      fits.stretches = [...fits.stretches, ...trunk.stretches]
      fits.arms = [...fits.arms, ...trunk.arms]
    }
    whole.push(...open)
  }
  return whole
}

/** Gives each trunk the lane between its bounds where it lies on no other and crosses fewest. */
function chooseLanes(trunks: readonly Trunk[], axis: Axis, ends: EndArms): void {
  const beside = neighbours(trunks)
  const first = new Map(trunks.map((trunk) => [trunk, trunk.lane]))
  const order = trunks
    .filter(({ isFixed }) => !isFixed)
    .sort((one, other) => one.most - one.least - (other.most - other.least) || longest(other) - longest(one))
  for (let round = 0; round < ROUNDS; round++)
    for (const trunk of order) {
      let best = { lane: trunk.lane, cost: Infinity }
      for (const lane of lanesFor(trunk, first.get(trunk) as number)) {
        const cost = costOf(trunk, lane, beside.get(trunk) ?? [], first.get(trunk) as number, axis, ends)
        if (cost < best.cost) best = { lane, cost }
      }
      move(trunk, best.lane, axis)
    }
}

const longest = ({ stretches }: Trunk): number => Math.max(...stretches.map(([from, to]) => to - from))

/** The lanes that a trunk may take, those near to where it lies first. */
function lanesFor({ least, most }: Trunk, lane: number): number[] {
  const lanes = [lane]
  // Where there is little room, lines stand closer.
  const step = most - least < 6 * APART ? CLOSE : APART
  for (let off = step; lane - off >= least || lane + off <= most; off += step) {
    if (lane + off <= most) lanes.push(lane + off)
    if (lane - off >= least) lanes.push(lane - off)
  }
  lanes.push(least, most)
  return lanes
}

/** What it is to lie on another line, and to cross one. */
const ON_ANOTHER = 10_000
const CROSSING = 40

function costOf(
  trunk: Trunk,
  lane: number,
  beside: readonly Trunk[],
  first: number,
  axis: Axis,
  ends: EndArms
): number {
  let cost = Math.abs(lane - first) * 0.2
  for (const other of beside) {
    const far = Math.abs(other.lane - lane)
    if (far < APART && isOn(trunk, other)) cost += ON_ANOTHER * (1 - far / (2 * APART))
    cost += CROSSING * (lane < other.lane ? crossings(trunk, other) : crossings(other, trunk))
  }
  return axis === DOWN ? cost + ON_ANOTHER * ends.onOthers(trunk, lane) : cost
}

/** Whether two trunks share a stretch, or nearly. */
function isOn(one: Trunk, other: Trunk): boolean {
  for (const [from, to] of one.stretches)
    for (const [start, end] of other.stretches) if (from < end + BEHIND && start < to + BEHIND) return true
  return false
}

/** How often two trunks cross with the first before the second: arms that reach over the other. */
function crossings(before: Trunk, behind: Trunk): number {
  let count = 0
  for (const { along, side } of before.arms) if (side > 0 && isAlong(behind, along)) count++
  for (const { along, side } of behind.arms) if (side < 0 && isAlong(before, along)) count++
  return count
}

const isAlong = ({ stretches }: Trunk, along: number): boolean =>
  stretches.some(([from, to]) => from < along && along < to)

/** For each trunk those of other keys that may come to lie on it or beside it. */
function neighbours(trunks: readonly Trunk[]): Map<Trunk, Trunk[]> {
  const found = new Map<Trunk, Trunk[]>(trunks.map((trunk) => [trunk, []]))
  const sorted = [...trunks].sort((one, other) => one.least - other.least)
  for (const [at, one] of sorted.entries())
    for (let next = at + 1; next < sorted.length; next++) {
      const other = sorted[next] as Trunk
      if (other.least > one.most + APART) break
      if (one.bundle === other.bundle || (one.isFixed && other.isFixed) || !isOn(one, other)) continue
      found.get(one)?.push(other)
      found.get(other)?.push(one)
    }
  return found
}

function move(trunk: Trunk, lane: number, axis: Axis): void {
  trunk.lane = lane
  for (const { points, at } of trunk.pieces)
    for (const index of [at, at + 1]) {
      const point = [...(points[index] as Point)] as [number, number]
      point[axis.lane] = lane
      points[index] = point
    }
}

/** The pieces with which lines end at tables: as long as their first turn is away. */
class EndArms {
  private readonly rows: Map<number, Arm[]>

  constructor(routes: ReadonlyMap<string, Point[]>, bundles: ReadonlyMap<string, string>) {
    const arms = [...routes].flatMap(([link, points]): Arm[] => {
      const bundle = bundles.get(link) as string
      const last = points.length - 1
      return last < 1
        ? []
        : [
            { points, end: 0, turn: 1, bundle },
            { points, end: last, turn: last - 1, bundle }
          ]
    })
    this.rows = groupBy(arms, ({ points, end }) => Math.round((points[end] as Point)[1] / ROW))
  }

  /** How many arms of other keys those of a trunk would lie on, if it had a lane. */
  onOthers({ bundle, pieces }: Trunk, lane: number): number {
    let count = 0
    for (const { points, at } of pieces) {
      if (at === 1) count += this.on(points[0] as Point, lane, bundle)
      if (at === points.length - 3) count += this.on(points.at(-1) as Point, lane, bundle)
    }
    return count
  }

  private on([edge, y]: Point, lane: number, bundle: string): number {
    const [from, to] = ordered(edge, lane)
    const row = Math.round(y / ROW)
    let count = 0
    for (const near of [row - 1, row, row + 1])
      for (const { points, end, turn, bundle: other } of this.rows.get(near) ?? []) {
        if (other === bundle) continue
        const [itsEdge, itsY] = points[end] as Point
        if (Math.abs(itsY - y) >= ROW) continue
        const [start, stop] = ordered(itsEdge, (points[turn] as Point)[0])
        if (from < stop && start < to) count++
      }
    return count
  }
}
/** How near two rows are whose lines would be taken for one (pixels). */
const ROW = 4

interface Arm {
  points: Point[]
  end: number
  turn: number
  bundle: string
}
