import type { Point } from './geometry.ts'

/** What a picture is made of, whatever it is written as: each is painted over those before it. */
export type PictureShape = PathShape | CircleShape | TextShape | GroupShape

export interface PathShape {
  kind: 'path'
  /** SVG path data. */
  path: string
  stroke?: string
  width?: number
  /** How long its dashes and the gaps between are. */
  dash?: readonly [number, number]
  fill?: string
  /** Where its origin is put. */
  move?: Point
}

export interface CircleShape {
  kind: 'circle'
  at: Point
  radius: number
  stroke: string
  width: number
  fill: string
}

/** The faces of ./fonts.ts: words, names, columns, and columns that may be empty. */
export type Face = 'plain' | 'bold' | 'mono' | 'italic'

export interface TextShape {
  kind: 'text'
  text: string
  at: Point
  face: Face
  size: number
  fill: string
  /** Which part of it stands there; its beginning, unless something else is said. */
  anchor?: 'middle' | 'end'
  /** Painted around its letters, so that they stand out from what is beneath. */
  halo?: string
  struck?: boolean
}

/** Shapes that belong together. */
export interface GroupShape {
  kind: 'group'
  shapes: PictureShape[]
  /** The table that it shows. */
  table?: string
  /** What it reaches over, where that is known. */
  room?: { x: number; y: number; width: number; height: number }
}
