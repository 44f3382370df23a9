import type { Point } from '../core/diagram/geometry.ts'

/** A drawing as it is looked at: tables as rectangles, lines as pieces at right angles. */
export interface Drawing {
  tables: readonly { id: string; x: number; y: number; width: number; height: number }[]
  /** Lines of one key may share their way. */
  lines: readonly { id: string; key: string; parent: string; child: string; points: readonly Point[] }[]
}

/** What is wrong with a drawing: each fault in words. */
export interface Faults {
  overlaps: string[]
  through: string[]
  onEachOther: string[]
}

interface Piece {
  line: Drawing['lines'][number]
  isAcross: boolean
  /** Where it lies, and from where to where it runs. */
  at: number
  from: number
  to: number
}

/** How near two lines may run beside each other, and how far, without being taken for one (pixels). */
const NEAR = 2

const piecesOf = (line: Drawing['lines'][number]): Piece[] =>
  line.points.slice(1).map(([x, y], at): Piece => {
    const [fromX, fromY] = line.points[at] as Point
    const isAcross = fromY === y
    const [a, b] = isAcross ? [fromX, x] : [fromY, y]
    return { line, isAcross, at: isAcross ? y : x, from: Math.min(a, b), to: Math.max(a, b) }
  })

/** Looks at every two tables, every line and table, and every two lines: slow, and sure. */
export function faultsOf({ tables, lines }: Drawing): Faults {
  const faults: Faults = { overlaps: [], through: [], onEachOther: [] }
  for (const [at, one] of tables.entries())
    for (const other of tables.slice(at + 1)) {
      const isBeside = one.x >= other.x + other.width || other.x >= one.x + one.width
      const isAbove = one.y >= other.y + other.height || other.y >= one.y + one.height
      if (!isBeside && !isAbove) faults.overlaps.push(`${one.id} on ${other.id}`)
    }
  const pieces = lines.flatMap(piecesOf)
  for (const { line, isAcross, at, from, to } of pieces)
    for (const table of tables) {
      const [across, along] = isAcross
        ? [
            [table.y, table.y + table.height],
            [table.x, table.x + table.width]
          ]
        : [
            [table.x, table.x + table.width],
            [table.y, table.y + table.height]
          ]
      const isIn =
        at > (across[0] ?? 0) && at < (across[1] ?? 0) && to > (along[0] ?? 0) && from < (along[1] ?? 0)
      if (isIn) faults.through.push(`${line.id} through ${table.id}`)
    }
  for (const [index, one] of pieces.entries())
    for (let next = index + 1; next < pieces.length; next++) {
      const other = pieces[next] as Piece
      if (one.line.key === other.line.key || one.isAcross !== other.isAcross) continue
      const isNear = Math.abs(one.at - other.at) < NEAR
      const shared = Math.min(one.to, other.to) - Math.max(one.from, other.from)
      if (isNear && shared > NEAR) faults.onEachOther.push(`${one.line.id} on ${other.line.id}`)
    }
  return faults
}

/** How a drawing reads: how often lines of different keys cross, how large it is, and how much of it is tables. */
export interface Measures {
  crossings: number
  bends: number
  area: number
  /** Of the area, from 0 to 1. */
  tables: number
}

export function measuresOf({ tables, lines }: Drawing): Measures {
  const pieces = lines.flatMap(piecesOf)
  const down = pieces.filter(({ isAcross }) => !isAcross)
  const across = pieces.filter(({ isAcross }) => isAcross)
  const crossed = new Set<string>()
  for (const one of across)
    for (const other of down) {
      if (one.line.key === other.line.key) continue
      const isIn = other.at > one.from && other.at < one.to && one.at > other.from && one.at < other.to
      // Lines of one key that share their way cross another as one.
      if (isIn) crossed.add(`${one.line.key} ${other.line.key} ${one.at} ${other.at}`)
    }
  const points = lines.flatMap((line) => line.points)
  const xs = [...tables.flatMap(({ x, width }) => [x, x + width]), ...points.map(([x]) => x)]
  const ys = [...tables.flatMap(({ y, height }) => [y, y + height]), ...points.map(([, y]) => y)]
  const least = (list: readonly number[]): number => list.reduce((a, b) => Math.min(a, b), Infinity)
  const most = (list: readonly number[]): number => list.reduce((a, b) => Math.max(a, b), -Infinity)
  const area = (most(xs) - least(xs)) * (most(ys) - least(ys))
  const covered = tables.reduce((sum, { width, height }) => sum + width * height, 0)
  const bends = lines.reduce((sum, line) => sum + Math.max(0, line.points.length - 2), 0)
  return { crossings: crossed.size, bends, area, tables: covered / area }
}
