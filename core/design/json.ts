import { visit } from 'jsonc-parser'
import { BOUNDS } from '../bounds.ts'
import { NoJson, parseInTurns } from './json-in-turns.ts'
import { finish, type Paused } from './paused.ts'
import type { Parsed } from './type.ts'

/**
 * Everything that comes as JSON or as text from outside is read here: how long, how deep, in which
 * characters.
 */

/**
 * The text that bytes stand for. Refuses what is no UTF-8, so that no character is put for another in
 * silence; a byte order mark at the beginning is passed over (RFC 8259, 8.1).
 */
export function decodeText(bytes: Uint8Array): Parsed<string> {
  try {
    return { ok: true, value: new TextDecoder('utf-8', { fatal: true }).decode(bytes) }
  } catch {
    return {
      ok: false,
      message: `it is not text in UTF-8: byte ${firstBadByte(bytes) + 1} cannot stand there`
    }
  }
}

/** Where bytes stop being UTF-8: the longest beginning that is some is found by halving. */
function firstBadByte(bytes: Uint8Array): number {
  let [good, bad] = [0, bytes.length]
  const isText = (end: number): boolean => {
    try {
      new TextDecoder('utf-8', { fatal: true }).decode(bytes.subarray(0, end), { stream: true })
      return true
    } catch {
      return false
    }
  }
  while (good < bad) {
    const middle = Math.ceil((good + bad) / 2)
    if (isText(middle)) good = middle
    else bad = middle - 1
  }
  return good
}

/**
 * Reads JSON of up to `most` characters. Refuses what is longer, nested deeper than {@link BOUNDS}, or no
 * JSON, with the line and column.
 */
export const readJson = (text: string, most: number = BOUNDS.file): Parsed<unknown> =>
  finish(readJsonInTurns(text, most))

/** The same in short stretches of work. */
export function* readJsonInTurns(text: string, most: number = BOUNDS.file): Paused<Parsed<unknown>> {
  if (text.length > most)
    return { ok: false, message: `it is longer than ${most.toLocaleString('en-GB')} characters` }
  try {
    return { ok: true, value: yield* parseInTurns(text, BOUNDS.jsonDepth) }
  } catch (error) {
    if (!(error instanceof NoJson)) throw error
    if (error.deepAt === undefined) return { ok: false, message: `it is not JSON (${where(text)})` }
    const deep = place(text, error.deepAt)
    return { ok: false, message: `it is nested deeper than ${BOUNDS.jsonDepth} levels (${deep})` }
  }
}

/**
 * Where brackets stand deeper in each other than is taken, or nothing: one pass, in which what stands in
 * quotes opens nothing.
 */
export function tooDeepAt(text: string, most: number = BOUNDS.jsonDepth): number | undefined {
  let depth = 0
  let quoted = false
  for (let at = 0; at < text.length; at++) {
    const char = text[at]
    if (quoted) {
      if (char === '\\') at++
      else if (char === '"') quoted = false
    } else if (char === '"') quoted = true
    else if (char === '[' || char === '{') {
      if (++depth > most) return at
    } else if (char === ']' || char === '}') depth--
  }
  return undefined
}

/**
 * Where a text stops being JSON. JSON.parse says so in words that differ from one engine to the next, so
 * another parser is asked, up to its first error.
 */
function where(text: string): string {
  if (text.trim() === '') return 'it is empty'
  class Found extends Error {
    constructor(readonly at: number) {
      super()
    }
  }
  try {
    visit(
      text,
      {
        onError: (_, offset) => {
          throw new Found(offset)
        }
      },
      { disallowComments: true }
    )
  } catch (found) {
    if (found instanceof Found) return place(text, found.at)
    throw found
  }
  return place(text, text.length)
}

function place(text: string, at: number): string {
  const start = text.lastIndexOf('\n', at - 1) + 1
  let line = 1
  for (let from = text.indexOf('\n'); from >= 0 && from < start; from = text.indexOf('\n', from + 1)) line++
  return `line ${line}, column ${at - start + 1}`
}

/**
 * JSON in one spelling: no spaces, keys in order. Texts that say the same are the same after it; what is
 * no JSON, or nested too deeply to be told apart, stays as it is.
 */
export function canonicalJson(text: string): string {
  if (tooDeepAt(text) !== undefined) return text
  try {
    return JSON.stringify(inOrder(JSON.parse(text)))
  } catch {
    return text
  }
}

function inOrder(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(inOrder)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([key, item]) => [key, inOrder(item)])
  )
}
