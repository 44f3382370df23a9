import { CHARACTERS, TABLES, type Paused } from './paused.ts'
import type { Design } from './model.ts'

/**
 * A design as JSON, in pieces that come to what `JSON.stringify` gives of it: so that a large one is written without
 * a long stretch of work, and need not be in memory as text whole.
 */
export function* piecesOf(design: Design): Generator<string> {
  let before = '{'
  for (const [key, value] of Object.entries(design)) {
    if (value === undefined) continue
    const name = `${before}${JSON.stringify(key)}:`
    before = ','
    if (key !== 'tables') yield `${name}${JSON.stringify(value)}`
    else {
      yield `${name}[`
      yield* piecesOfList(design.tables)
      yield ']'
    }
  }
  yield '}'
}

function* piecesOfList(list: readonly object[]): Generator<string> {
  for (let at = 0; at < list.length; at += TABLES) {
    const piece = JSON.stringify(list.slice(at, at + TABLES)).slice(1, -1)
    yield at > 0 ? `,${piece}` : piece
  }
}

/** The same as one text. */
export function* textOf(design: Design): Paused<string> {
  const pieces: string[] = []
  for (const piece of piecesOf(design)) {
    pieces.push(piece)
    yield
  }
  return pieces.join('')
}

/** A long text in turn; none of the parts ends within a character. */
export function* partsOf(text: string): Generator<string> {
  for (let from = 0; from < text.length;) {
    const end = from + CHARACTERS
    const isWithin = /[\ud800-\udbff]/.test(text.charAt(end - 1)) && end < text.length
    const to = isWithin ? end + 1 : end
    yield text.slice(from, to)
    from = to
  }
}
