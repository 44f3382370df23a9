import { tableOf } from '../design/directory.ts'
import type { Design, LineWords, Look } from '../design/model.ts'
import { accessorNames } from '../relate/accessors.ts'
import { textWidth } from './box.ts'
import { around, Near, type Room } from './near.ts'
import type { Point } from './geometry.ts'
import {
  endNumbersAt,
  type SceneLine,
  type SceneRegion,
  type SceneTable,
  type EndWords
} from './scene-parts.ts'

/** The size of words at an end, how far they stand from the table by what else is there, and how far above their line (pixels). */
export const END_WORDS = { size: 11.5, away: { feet: 24, numbers: 38 }, above: 4 }

/** How wide the numbers at an end are (pixels). */
const NUMBERS_WIDE = 28

/**
 * What stands at the ends of lines, parent's end first: at each what its own side says of the other (verbs) or is called
 * by it (roles). Only where there is room: they are written across lines that go up or down, and over nothing else.
 */
export function wordsAtEnds(
  design: Design,
  { words, ends }: Pick<Look, 'words' | 'ends'>,
  lines: readonly SceneLine[],
  tables: readonly SceneTable[],
  regions: readonly SceneRegion[]
): Map<string, [EndWords | undefined, EndWords | undefined]> {
  if (words === 'none') return new Map()
  const taken = new Near<Room>((room) => room)
  for (const { x, y, width, height } of tables)
    taken.add({ left: x - 2, top: y - 2, right: x + width + 2, bottom: y + height + 2 })
  for (const { points } of lines)
    for (const [at, point] of points.entries()) {
      const next = points[at + 1]
      if (next?.[1] === point[1]) taken.add(around(point, next, 0.6))
    }
  if (ends === 'numbers')
    for (const end of lines.flatMap((line) => line.ends)) {
      const [x, y] = endNumbersAt(end)
      taken.add(roomOf(x, y, end.side, NUMBERS_WIDE))
    }
  for (const { x, y, width } of regions) taken.add({ left: x, top: y, right: x + width, bottom: y + 2 })
  return new Map(
    lines.map((line) => {
      const said = saidAt(design, words, line)
      const placed = line.ends.map(({ at, side }, end) =>
        placedAt(said[end] ?? '', at, side, END_WORDS.away[ends], taken)
      )
      return [line.id, [placed[0], placed[1]]]
    })
  )
}

/** What a text takes that is written from a place one way. */
export function roomOf(x: number, y: number, side: number, wide: number): Room {
  const [left, right] = side > 0 ? [x, x + wide] : [x - wide, x]
  return { left, right, top: y - END_WORDS.size * 0.85, bottom: y + 2 }
}

function placedAt(
  text: string,
  [x, y]: Point,
  side: number,
  away: number,
  taken: Near<Room>
): EndWords | undefined {
  const wide = textWidth(text, END_WORDS.size)
  const at: Point = [x + side * away, y - END_WORDS.above]
  const room = roomOf(at[0], at[1], side, wide)
  if (text === '' || taken.within(room).length > 0) return undefined
  taken.add(room)
  return { text, at, side }
}

/** What is said at the parent's end and at the child's. */
function saidAt(design: Design, words: LineWords, { id, child: childId }: SceneLine): [string, string] {
  const child = tableOf(design, childId)
  const foreignKey = child?.foreignKeys.find((key) => key.id === id)
  if (!child || !foreignKey) return ['', '']
  if (words === 'roles') {
    const names = accessorNames(design, child, foreignKey)
    return [names.child, names.parent]
  }
  return [foreignKey.verbs?.parent ?? '', foreignKey.verbs?.child ?? '']
}
