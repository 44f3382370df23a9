import type { Paused } from './paused.ts'

/**
 * Reads JSON in many short stretches of work, where `JSON.parse` has one long one: lists that are long as text are read
 * some members at a time. Brackets and quotes are followed here; what stands between them is read by `JSON.parse`.
 */

/** About how many characters are read at once. */
const CHUNK = 1 << 17

/** Why a text is not read. */
export class NoJson extends Error {
  /** @param deepAt where it is nested too deeply, in a text that is */
  constructor(readonly deepAt?: number) {
    super()
  }
}

/** A list or an object that is open where the text is being read. */
interface Open {
  isList: boolean
  /** Where its text begins, behind the bracket. */
  begin: number
  /** Of a list: where its text begins that is not in `parts`, and what stands before. */
  from: number
  parts: string[]
  /** What stands for the members that have been read. */
  marks: string[]
  /** Whether marks of lists within it stand in its text. */
  hasMarks: boolean
}

/**
 * What a text of JSON stands for.
 * @param mostDepth how deep brackets may stand in each other
 * @throws NoJson
 */
export function* parseInTurns(text: string, mostDepth: number, chunk = CHUNK): Paused<unknown> {
  const reading = new Reading(text, chunk)
  let depth = 0
  let isQuoted = false
  for (let at = 0; at < text.length; at++) {
    const char = text[at]
    if (isQuoted) {
      if (char === '\\') at++
      else if (char === '"') isQuoted = false
    } else if (char === '"') isQuoted = true
    else if (char === '[' || char === '{') {
      if (++depth > mostDepth) throw new NoJson(at)
      reading.open(at, char === '[')
    } else if (char === ']' || char === '}') {
      depth--
      reading.close(at, char === ']')
    } else if (char === ',' && reading.member(at)) yield
  }
  return reading.end()
}

class Reading {
  private readonly all: Open = { isList: true, begin: 0, from: 0, parts: [], marks: [], hasMarks: false }
  private readonly stack: Open[] = []
  /** The lists among what is open, the whole text first: text belongs to the last of them. */
  private readonly lists: Open[] = [this.all]
  private readonly read: unknown[][] = []
  /** No text from outside has this in it. */
  private readonly secret = [...crypto.getRandomValues(new Uint32Array(4))].join('-')

  constructor(
    private readonly text: string,
    private readonly chunk: number
  ) {}

  open(at: number, isList: boolean): void {
    const open: Open = { isList, begin: at + 1, from: at + 1, parts: [], marks: [], hasMarks: false }
    this.stack.push(open)
    if (isList) this.lists.push(open)
  }

  /** A comma: reads the members before it, where they are a list's and long enough. Says whether it did. */
  member(at: number): boolean {
    const open = this.stack.at(-1)
    if (!open?.isList || at - open.from < this.chunk) return false
    const members = this.parse(`[${this.textOf(open, at)}]`, open.hasMarks) as unknown[]
    // A comma with nothing before it.
    if (members.length === 0) throw new NoJson()
    this.read.push(members)
    open.marks.push(JSON.stringify(`${this.secret} ${this.read.length - 1}`))
    Object.assign(open, { from: at + 1, parts: [], hasMarks: false })
    return true
  }

  close(at: number, isList: boolean): void {
    const closed = this.stack.pop()
    if (closed?.isList !== isList) throw new NoJson()
    if (!isList) return
    this.lists.pop()
    if (closed.marks.length === 0 && !closed.hasMarks) return
    const around = this.lists.at(-1) as Open
    const inside = [...closed.marks, this.textOf(closed, at)].join(',')
    around.parts.push(this.text.slice(around.from, closed.begin), inside)
    around.from = at
    around.hasMarks = true
  }

  end(): unknown {
    if (this.stack.length > 0) throw new NoJson()
    return this.parse(this.textOf(this.all, this.text.length), this.all.hasMarks)
  }

  private textOf(open: Open, end: number): string {
    return [...open.parts, this.text.slice(open.from, end)].join('')
  }

  private parse(text: string, hasMarks: boolean): unknown {
    try {
      return JSON.parse(text, hasMarks ? (_key, value: unknown) => this.withRead(value) : undefined)
    } catch {
      throw new NoJson()
    }
  }

  /** A list with the members that were read in place of the marks for them. */
  private withRead(value: unknown): unknown {
    if (!Array.isArray(value)) return value
    const isMark = (each: unknown): each is string => typeof each === 'string' && each.startsWith(this.secret)
    if (!value.some(isMark)) return value
    return value.flatMap((each: unknown) =>
      isMark(each) ? (this.read[Number(each.slice(this.secret.length))] as unknown[]) : [each]
    )
  }
}
