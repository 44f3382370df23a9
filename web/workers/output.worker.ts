import { strToU8, zipSync } from 'fflate'
import { OUTPUTS, type OutputOptions } from '../../core/definitions/outputs.ts'
import { wantedFiles } from '../../core/definitions/wanted.ts'
import type { Design } from '../../core/design/model.ts'

/** Writes an output of a design, or all that it gives an application as one packed folder; the answer carries the number of the question. */
export interface OutputQuestion {
  number: number
  output: string | { all: true }
  design: Design
  options: OutputOptions
}

export type OutputAnswer = { number: number } & (
  { text: string } | { packed: Uint8Array<ArrayBuffer> } | { failure: string }
)

self.onmessage = ({ data: { number, output, design, options } }: MessageEvent<OutputQuestion>) => {
  const answer = (said: { text: string } | { packed: Uint8Array<ArrayBuffer> } | { failure: string }): void =>
    self.postMessage({ number, ...said } satisfies OutputAnswer)
  try {
    if (typeof output === 'string')
      return answer({ text: OUTPUTS.find(({ name }) => name === output)?.write(design, options) ?? '' })
    const files = wantedFiles(design, options.fonts ?? '')
    answer({ packed: zipSync(Object.fromEntries(files.map(({ path, text }) => [path, strToU8(text)]))) })
  } catch (error) {
    answer({ failure: error instanceof Error ? error.message : String(error) })
  }
}
