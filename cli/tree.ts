import { createHash, randomBytes } from 'node:crypto'
import { existsSync, lstatSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { z } from 'zod'
import { BOUNDS } from '../core/bounds.ts'
import { stateWords } from '../core/definitions/state-words.ts'
import { OutputFlaw } from '../core/definitions/made-by.ts'
import { unknownOutputs, wantedFiles, type WantedFile } from '../core/definitions/wanted.ts'
import { placeSchema } from '../core/design/model.ts'
import { flawOfWritten, WRITTEN_LIST } from '../core/design/place.ts'
import { openDesign, readText, whyNot } from './files.ts'
import { CannotDo, type Outcome } from './outcome.ts'
import { fonts } from './picture.ts'

/**
 * What is noted in a tree: what was written into it, by its place, with a checksum of each, so that it is known again;
 * and the places that somebody has said yes to, since the design itself may come from anywhere.
 */
const writtenSchema = z.strictObject({
  design: z.string(),
  files: z.record(placeSchema, z.string().regex(/^[0-9a-f]{64}$/)),
  places: z.array(placeSchema).optional()
})
type Written = z.infer<typeof writtenSchema>

/** What became of a file, or would. */
type Became =
  | 'new'
  | 'changed'
  | 'as it was'
  | 'no longer wanted'
  | 'changed by somebody, and left'
  | 'not of this program, and left'

export interface TreeOptions {
  /** Only say what would be done. */
  check?: boolean | undefined
  /** Say yes to places that were not written before. */
  accept?: boolean | undefined
  /** Places at which a file is overwritten that somebody else made, or changed. */
  overwrite?: readonly string[] | undefined
}

/**
 * Writes all that a design gives an application into its tree: what did not change is left alone, and what was written
 * and is no longer wanted is removed. A file that this program did not write, or that somebody changed since, is left
 * unless it is named in `overwrite`; a place that was not written before asks for `accept`; nothing is written through
 * a link. All of it is written or nothing. Status 1 where the tree is not as it would be.
 */
export function writeTree(path: string, into: string, options: TreeOptions = {}): Outcome {
  const { check = false, accept = false, overwrite = [] } = options
  const { design, versions } = openDesign(path)
  const unknown = unknownOutputs(design)
  if (unknown.length > 0)
    throw new CannotDo(`${path}: this program knows no output called ${unknown.join(', ')}.`)
  const files = inWords(path, () => wantedFiles(design, fonts(), stateWords(design, versions.at(-1))))
  for (const { path: place } of files) refuseLinks(into, place)
  refuseLinks(into, WRITTEN_LIST)
  const before = writtenIn(into)
  const became = compare(into, files, before, overwrite)
  const agreed = new Set([...(before.places ?? []), ...Object.keys(before.files)])
  const unasked = files.map((each) => each.path).filter((place) => !agreed.has(place))
  const isHeldUp = unasked.length > 0 && !accept
  if (!check && !isHeldUp) carryOut(into, design.id, files, before, became)
  const left = [...became].filter(([, what]) => isLeft(what)).map(([place]) => place)
  const otherwise = [...became].filter(([, what]) => what !== 'as it was' && !isLeft(what))
  const said = [...became].sort(([one], [other]) => (one < other ? -1 : 1))
  return {
    status: (check && otherwise.length > 0) || isHeldUp || left.length > 0 ? 1 : 0,
    json: said.map(([file, is]) => ({ file, is })),
    words: [
      ...said
        .filter(([, what]) => what !== 'as it was')
        .map(([file, what]) => `${join(into, file)}: ${what}`),
      ...(isHeldUp && !check
        ? [
            `Nothing was written: ${into} has not been given these before, and a design may come from anywhere. If it is to have them, say --accept.`
          ]
        : []),
      ...left.map(
        (place) => `${join(into, place)} is left as it is. To have it overwritten, say --overwrite ${place}.`
      ),
      sum(design.name, files.length, otherwise.length + left.length, check || isHeldUp)
    ]
  }
}

const isLeft = (what: Became): boolean =>
  what === 'changed by somebody, and left' || what === 'not of this program, and left'

/** What would become of each file that is wanted, and of each that was. */
function compare(
  into: string,
  files: readonly WantedFile[],
  before: Written,
  overwrite: readonly string[]
): Map<string, Became> {
  const became = new Map<string, Became>()
  for (const { path: place, text } of files) {
    const there = textAt(join(into, place))
    const sum = before.files[place]
    const isOwn = there === undefined || (sum !== undefined && sumOf(there) === sum)
    if (there === text) became.set(place, 'as it was')
    else if (isOwn || overwrite.includes(place)) became.set(place, there === undefined ? 'new' : 'changed')
    else
      became.set(place, sum === undefined ? 'not of this program, and left' : 'changed by somebody, and left')
  }
  for (const [place, sum] of Object.entries(before.files)) {
    if (became.has(place) || flawOfWritten(place) !== undefined) continue
    refuseLinks(into, place)
    const there = textAt(join(into, place))
    if (there === undefined) continue
    became.set(place, sumOf(there) === sum ? 'no longer wanted' : 'changed by somebody, and left')
  }
  return became
}

/** A file that is to be written, or to go, and what is there now. */
interface Change {
  place: string
  text: string | undefined
  before: string | undefined
}

function carryOut(
  into: string,
  design: string,
  files: readonly WantedFile[],
  before: Written,
  became: ReadonlyMap<string, Became>
): void {
  const isWritten = ({ path: place }: WantedFile): boolean => !isLeft(became.get(place) ?? 'new')
  const sums = files
    .filter(isWritten)
    .map((each): [string, string] => [each.path, sumOf(each.text)])
    .concat(
      // What somebody changed is still known as it was written, so that it is left again.
      Object.entries(before.files).filter(([place]) => isLeft(became.get(place) ?? 'as it was'))
    )
  const written: Written = {
    design,
    files: Object.fromEntries(sums.sort(([one], [other]) => (one < other ? -1 : 1))),
    places: files.map((each) => each.path)
  }
  const changes: Change[] = [
    ...files
      .filter((each) => became.get(each.path) !== 'as it was' && isWritten(each))
      .map(({ path: place, text }) => ({ place, text, before: textAt(join(into, place)) })),
    ...[...became]
      .filter(([, what]) => what === 'no longer wanted')
      .map(([place]) => ({ place, text: undefined, before: textAt(join(into, place)) }))
  ]
  const list = textAt(join(into, WRITTEN_LIST))
  const isNothing = files.length === 0 && sums.length === 0
  const text = isNothing ? undefined : `${JSON.stringify(written, null, 2)}\n`
  if (text !== list) changes.push({ place: WRITTEN_LIST, text, before: list })
  allOrNothing(into, changes)
}

/** Everything is written beside its place first; what fails then, or while it is put there, takes all of it back. */
function allOrNothing(into: string, changes: readonly Change[]): void {
  const mark = randomBytes(6).toString('hex')
  const passing = (place: string): string => `${join(into, place)}.${mark}.new`
  const done: Change[] = []
  let at = ''
  try {
    for (const { place, text } of changes) {
      if (text === undefined) continue
      at = join(into, place)
      mkdirSync(dirname(at), { recursive: true })
      writeFileSync(passing(place), text, { flag: 'wx' })
    }
    for (const change of changes) {
      at = join(into, change.place)
      refuseLinks(into, change.place)
      if (change.text === undefined) rmSync(at, { force: true })
      else renameSync(passing(change.place), at)
      done.push(change)
    }
  } catch (error) {
    for (const { place, before } of done.reverse()) {
      if (before === undefined) rmSync(join(into, place), { force: true })
      else writeFileSync(join(into, place), before)
    }
    for (const { place } of changes) rmSync(passing(place), { force: true })
    if (error instanceof CannotDo) throw error
    throw new CannotDo(`${at}: it cannot be written${whyNot(error)}. Nothing was.`)
  }
}

/** Whoever made the tree may have put a link into it: nothing is written through one, nor in its place. */
export function refuseLinks(into: string, place: string): void {
  const parts = place.split('/')
  for (let count = 1; count <= parts.length; count++) {
    const part = join(into, ...parts.slice(0, count))
    const found = lstatSync(part, { throwIfNoEntry: false })
    if (!found) return
    if (found.isSymbolicLink())
      throw new CannotDo(
        `${part}: it is a link. Nothing is written through one; put a folder or a file there.`
      )
    const isFolder = count < parts.length
    if (isFolder ? !found.isDirectory() : !found.isFile())
      throw new CannotDo(`${part}: ${isFolder ? 'it is no folder' : 'it is no file'}, so nothing is written.`)
  }
}

/**
 * What writing gives; what cannot be written is told of in its own words.
 * @throws CannotDo
 */
export function inWords<T>(path: string, write: () => T): T {
  try {
    return write()
  } catch (error) {
    if (error instanceof OutputFlaw) throw new CannotDo(`${path}: ${error.message}`)
    throw error
  }
}

function sum(name: string, wanted: number, otherwise: number, check: boolean): string {
  if (wanted === 0 && otherwise === 0)
    return `${name} gives applications nothing yet: say what on its outputs.`
  if (otherwise === 0) return `${name}: all of it is in step.`
  return check ? `${name}: ${otherwise} of the application’s files are out of step.` : `${name}: in step now.`
}

const sumOf = (text: string): string => createHash('sha256').update(text).digest('hex')

function textAt(place: string): string | undefined {
  return existsSync(place) ? readFileSync(place, 'utf8') : undefined
}

function writtenIn(into: string): Written {
  const place = join(into, WRITTEN_LIST)
  if (!existsSync(place)) return { design: '', files: {} }
  try {
    return writtenSchema.parse(JSON.parse(readText(place, BOUNDS.file)))
  } catch {
    throw new CannotDo(
      `${place}: it is not as it was written. Remove it to begin anew; no file is removed then.`
    )
  }
}
