import type { Point } from './geometry.ts'

/** A rectangle by its edges. */
export interface Room {
  left: number
  top: number
  right: number
  bottom: number
}

/** The side of the squares by which things are found (pixels). */
const SQUARE = 400

/** Things of a drawing, found by where they are. */
export class Near<T> {
  private readonly squares = new Map<string, Set<T>>()

  constructor(private readonly roomOf: (thing: T) => Room) {}

  add(thing: T): void {
    for (const square of squaresIn(this.roomOf(thing))) {
      const there = this.squares.get(square)
      if (there) there.add(thing)
      else this.squares.set(square, new Set([thing]))
    }
  }

  remove(thing: T): void {
    for (const square of squaresIn(this.roomOf(thing))) this.squares.get(square)?.delete(thing)
  }

  /** Those that reach into a rectangle. */
  within(room: Room): T[] {
    const found = new Set<T>()
    for (const square of squaresIn(room))
      for (const thing of this.squares.get(square) ?? []) {
        const { left, top, right, bottom } = this.roomOf(thing)
        if (left < room.right && right > room.left && top < room.bottom && bottom > room.top) found.add(thing)
      }
    return [...found]
  }
}

/** The rectangle between two points, and so far around it. */
export const around = (a: Point, b: Point, margin: number): Room => ({
  left: Math.min(a[0], b[0]) - margin,
  top: Math.min(a[1], b[1]) - margin,
  right: Math.max(a[0], b[0]) + margin,
  bottom: Math.max(a[1], b[1]) + margin
})

function* squaresIn({ left, top, right, bottom }: Room): Iterable<string> {
  for (let x = Math.floor(left / SQUARE); x <= Math.floor(right / SQUARE); x++)
    for (let y = Math.floor(top / SQUARE); y <= Math.floor(bottom / SQUARE); y++) yield `${x} ${y}`
}
