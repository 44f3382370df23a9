import { OUTPUTS, type OutputOptions } from '../../core/definitions/outputs.ts'
import type { Design } from '../../core/design/model.ts'

/** Writes an output of a design; the answer carries the number of the question. */
export interface OutputQuestion {
  number: number
  output: string
  design: Design
  options: OutputOptions
}

export type OutputAnswer = { number: number } & ({ text: string } | { failure: string })

self.onmessage = ({ data: { number, output, design, options } }: MessageEvent<OutputQuestion>) => {
  const answer = (said: { text: string } | { failure: string }): void =>
    self.postMessage({ number, ...said } satisfies OutputAnswer)
  try {
    answer({ text: OUTPUTS.find(({ name }) => name === output)?.write(design, options) ?? '' })
  } catch (error) {
    answer({ failure: error instanceof Error ? error.message : String(error) })
  }
}
