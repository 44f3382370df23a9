import type { Box } from './box.ts'
import type { Point } from './geometry.ts'
import type { MarkedKey } from './mark.ts'

/** What stands beside the end of a line. */
export interface EndWords {
  text: string
  at: Point
  /** Which way it is written from there: 1 to the right, −1 to the left. */
  side: number
}

/** A table with its place. */
export interface SceneTable extends Box {
  x: number
  y: number
  /** How far what is told beside it reaches to the left (pixels). */
  beside: number
}

/**
 * A reference that is told of beside its table, since what it refers to is a hub or far away: a short line with its end,
 * and the mark of the key that it fits.
 */
export interface SceneStub {
  id: string
  key: string
  child: string
  parent: string
  /** The name of the hub, which stands in the row of the column. */
  says: string
  column: string
  identifying: boolean
  end: LineEnd
  mark: MarkedKey
}

/** One end of a line, in crow's foot notation: how few and how many of that side there may be. */
export interface LineEnd {
  at: Point
  /** 1 where the line leaves the table to the right, −1 to the left. */
  side: number
  least: 0 | 1
  most: 'one' | 'many'
  /** What is said there, where something is and there is room. */
  words?: EndWords
}

/** Where the tables of a subject stand. */
export interface SceneRegion {
  id: string
  name: string
  x: number
  y: number
  width: number
  height: number
  /** How much of its height is the head, in which its name stands. */
  head: number
}

export interface SceneLine {
  id: string
  key: string
  child: string
  parent: string
  points: Point[]
  identifying: boolean
  ends: [parent: LineEnd, child: LineEnd]
}

/** Where they stand: over the line, beside the table. */
export const endNumbersAt = ({ at: [x, y], side }: LineEnd): Point => [x + side * 5, y - 5]
