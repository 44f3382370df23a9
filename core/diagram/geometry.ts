/** A table in the way of lines, with what is told beside it on its left. */
export interface Obstacle {
  x: number
  y: number
  width: number
  height: number
  /** How far what is told beside it reaches, to the left (pixels). */
  beside?: number
}
export type Point = readonly [x: number, y: number]

/** An end of a line, at a row of a table. */
export interface RouteEnd {
  table: Obstacle
  y: number
}

/**
 * A line to be routed: the rows that it joins, each on its own table. `bundle`: lines of one bundle may
 * share their way.
 */
export interface RouteRequest {
  id: string
  bundle: string
  from: RouteEnd
  to: RouteEnd
}
