import { createHash } from 'node:crypto'
import { existsSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { z } from 'zod'
import { BOUNDS } from '../core/bounds.ts'
import { stateWords } from '../core/definitions/state-words.ts'
import { OutputFlaw } from '../core/definitions/made-by.ts'
import { unknownOutputs, wantedFiles } from '../core/definitions/wanted.ts'
import { placeSchema } from '../core/design/model.ts'
import { openDesign, put, readText } from './files.ts'
import { CannotDo, type Outcome } from './outcome.ts'
import { fonts } from './picture.ts'

/** What was written into a tree, by its place there: a checksum of each, so that it is known again. */
const WRITTEN = 'patient-key.written.json'
const writtenSchema = z.strictObject({
  design: z.string(),
  files: z.record(placeSchema, z.string().regex(/^[0-9a-f]{64}$/))
})
type Written = z.infer<typeof writtenSchema>

/** What became of a file, or would. */
type Became = 'new' | 'changed' | 'as it was' | 'no longer wanted' | 'changed by somebody, and left'

/**
 * Writes all that a design gives an application into its tree: what did not change is left alone, and what was written
 * and is no longer wanted is removed, unless somebody changed it. With `check` nothing is written: status 1 where the
 * tree is not as it would be.
 */
export function writeTree(path: string, into: string, { check = false } = {}): Outcome {
  const { design, versions } = openDesign(path)
  const unknown = unknownOutputs(design)
  if (unknown.length > 0)
    throw new CannotDo(`${path}: this program knows no output called ${unknown.join(', ')}.`)
  const files = inWords(path, () => wantedFiles(design, fonts(), stateWords(design, versions.at(-1))))
  const before = writtenIn(into)
  const became = new Map<string, Became>()
  for (const { path: place, text } of files) {
    const there = textAt(join(into, place))
    became.set(place, there === undefined ? 'new' : there === text ? 'as it was' : 'changed')
  }
  for (const [place, sum] of Object.entries(before.files)) {
    const there = textAt(join(into, place))
    if (became.has(place) || there === undefined) continue
    became.set(place, sumOf(there) === sum ? 'no longer wanted' : 'changed by somebody, and left')
  }
  if (!check) {
    for (const { path: place, text } of files)
      if (became.get(place) !== 'as it was') put(text, join(into, place))
    for (const [place, what] of became) if (what === 'no longer wanted') rmSync(join(into, place))
    keep(into, {
      design: design.id,
      files: Object.fromEntries(files.map((each) => [each.path, sumOf(each.text)]))
    })
  }
  const otherwise = [...became].filter(
    ([, what]) => what === 'new' || what === 'changed' || what === 'no longer wanted'
  )
  const said = [...became].sort(([one], [other]) => (one < other ? -1 : 1))
  return {
    status: check && otherwise.length > 0 ? 1 : 0,
    json: said.map(([file, is]) => ({ file, is })),
    words: [
      ...said
        .filter(([, what]) => what !== 'as it was')
        .map(([file, what]) => `${join(into, file)}: ${what}`),
      sum(design.name, files.length, otherwise.length, check)
    ]
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
  const place = join(into, WRITTEN)
  if (!existsSync(place)) return { design: '', files: {} }
  try {
    return writtenSchema.parse(JSON.parse(readText(place, BOUNDS.file)))
  } catch {
    throw new CannotDo(
      `${place}: it is not as it was written. Remove it to begin anew; no file is removed then.`
    )
  }
}

/** Where nothing was written it is not begun. */
function keep(into: string, written: Written): void {
  const place = join(into, WRITTEN)
  const text = `${JSON.stringify(written, null, 2)}\n`
  if (Object.keys(written.files).length === 0) return rmSync(place, { force: true })
  if (textAt(place) !== text) put(text, place)
}
