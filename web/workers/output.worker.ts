import { diffLines } from 'diff'
import { strToU8, zipSync } from 'fflate'
import { outputsOf } from '../../core/definitions/outputs.ts'
import { type OutputOptions } from '../../core/definitions/output.ts'
import { stateWords } from '../../core/definitions/state-words.ts'
import { wantedFiles } from '../../core/definitions/wanted.ts'
import type { Design, Version } from '../../core/design/model.ts'

/**
 * Writes an output of a design, or a folder of files packed: all that it gives an application, or those of one output.
 * The answer carries the number of the question.
 */
export interface OutputQuestion {
  number: number
  output: string | { all: true } | { folder: string }
  design: Design
  options: OutputOptions
  /** The last version that was saved, which says which state this is. */
  last?: Pick<Version, 'number' | 'design'> | undefined
  /** What it was before, with which it is compared. */
  before?: Design | undefined
}

/** Where a text is otherwise than it was: lines, counted from 0, and how many lines went before the first of them. */
export interface Changed {
  from: number
  lines: number
  gone: number
}

export type OutputAnswer = { number: number } & (
  { text: string; changed: Changed[] } | { packed: Uint8Array<ArrayBuffer> } | { failure: string }
)
type Said<T> = T extends unknown ? Omit<T, 'number'> : never

self.onmessage = ({ data }: MessageEvent<OutputQuestion>) => {
  const { number, output, design, options: asked, last, before } = data
  const answer = (said: Said<OutputAnswer>): void => self.postMessage({ number, ...said } as OutputAnswer)
  const version = stateWords(design, last)
  const options = { ...asked, ...(version !== undefined && { version }) }
  const found = (of: Design, name: string): ReturnType<typeof outputsOf>[number] | undefined =>
    outputsOf(of).find((each) => each.name === name)
  try {
    if (typeof output !== 'string') {
      const files =
        'all' in output
          ? wantedFiles(design, options.fonts ?? '', version)
          : (found(design, output.folder)?.files?.(design, options) ?? [])
      const packed = zipSync(Object.fromEntries(files.map(({ path, text }) => [path, strToU8(text)])))
      return answer({ packed })
    }
    const text = found(design, output)?.write(design, options) ?? ''
    // What it was says the same of its version, so that only what is otherwise in it is told of.
    const was = before && found(before, output)?.write(before, options)
    answer({ text, changed: was === undefined ? [] : changedIn(was, text) })
  } catch (error) {
    answer({ failure: error instanceof Error ? error.message : String(error) })
  }
}

/** Milliseconds after which two texts that have little in common are compared no further, and nothing is told of. */
const LONGEST = 2000

function changedIn(before: string, now: string): Changed[] {
  const changed: Changed[] = []
  let [line, gone] = [0, 0]
  const close = (lines: number): void => {
    if (lines > 0 || gone > 0) changed.push({ from: line, lines, gone })
    gone = 0
  }
  for (const part of diffLines(before, now, { timeout: LONGEST }) ?? []) {
    if (part.removed) gone = part.count
    else {
      close(part.added ? part.count : 0)
      line += part.count
    }
  }
  close(0)
  return changed
}
