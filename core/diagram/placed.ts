/** A table as the layers see it: its size, with what stands beside it, in pixels. */
export interface Node {
  id: string
  width: number
  height: number
}

/** A reference as the layers see it: from a table to one that refers to it, and how far below their tops it ends. */
export interface Edge {
  from: string
  to: string
  /** Lines of one key may share their way, and do not cross each other. */
  bundle: string
  fromY: number
  toY: number
}

export const GAP = { tables: 26, lines: 14 }

/** How often the layers are gone through, to and fro: for their order, and then for where each stands. */
export const SWEEPS = { order: 24, place: 8 }

/** A table in its layer, or a line on its way through one. */
export interface Placed {
  id: string
  width: number
  height: number
  isLine: boolean
  /** Where it stood among all at first. */
  at: number
  layer: number
  y: number
  before: Joint[]
  behind: Joint[]
}

/** Where a line leads to, in a neighbouring layer once lines have their places in each. */
export interface Joint {
  node: Placed
  bundle: string
  /** How far below their tops the line ends, here and there. */
  own: number
  its: number
}
