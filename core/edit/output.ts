import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { fold } from '../design/directory.ts'
import { outputNameSchema, placeFlaw, placeSchema, type Design } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { sorted } from './handler.ts'
import { kind, noun, type Handler, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'

/** What an application is given of a design. */

const KINDS = [
  /** Where an output is written in an application's tree; null: it is not wanted. */
  kind('design.setOutput', { output: outputNameSchema, to: placeSchema.nullable() }, ({ output, to }) =>
    to === null
      ? `leave ${output} out of what the application is given`
      : `give the application ${output} as ${shorten(to)}`
  ),
  /** What is chosen of an output; null: as usual. */
  kind(
    'design.setOutputSetting',
    {
      output: outputNameSchema,
      setting: outputNameSchema,
      to: z.string().trim().min(1).max(BOUNDS.place).nullable()
    },
    ({ output, setting, to }) => `write ${output} with ${setting} ${shorten(to ?? 'as usual')}`
  )
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

/** Which outputs an application is given, and where in its tree: no two in the same place. */
const setOutput: Handler<'design.setOutput'> = (design, { output, to }) => {
  const flaw = to === null ? undefined : placeFlaw(to)
  if (flaw !== undefined)
    throw new Refused('name-invalid', `“${shorten(to ?? '')}” is no place for a file: ${flaw}.`)
  const before = design.outputs?.[output] ?? null
  const others = Object.entries(design.outputs ?? {}).filter(([name]) => name !== output)
  const there = to === null ? undefined : others.find(([, path]) => fold(path) === fold(to))
  if (there)
    throw new Refused('name-taken', `${shorten(there[0])} is written to ${shorten(there[1])} already.`)
  return {
    design: withOutputs(design, to === null ? others : [...others, [output, to]]),
    inverse: { kind: 'design.setOutput', output, to: before },
    touched: []
  }
}

/** What is chosen of an output, by the name of a setting. */
const setOutputSetting: Handler<'design.setOutputSetting'> = (design, { output, setting, to }) => {
  const before = design.outputSettings?.[output]?.[setting] ?? null
  const { [setting]: _, ...others } = design.outputSettings?.[output] ?? {}
  const now = to === null ? others : sorted({ ...others, [setting]: to })
  const { [output]: __, ...rest } = design.outputSettings ?? {}
  const all = Object.keys(now).length === 0 ? rest : sorted({ ...rest, [output]: now })
  const { outputSettings: ___, ...bare } = design
  return {
    design: Object.keys(all).length === 0 ? bare : { ...bare, outputSettings: all },
    inverse: { kind: 'design.setOutputSetting', output, setting, to: before },
    touched: []
  }
}

/** In the order of their names, whichever was wanted first; left out where none is. */
function withOutputs({ outputs: _, ...bare }: Design, all: [string, string][]): Design {
  if (all.length === 0) return bare
  return { ...bare, outputs: sorted(Object.fromEntries(all)) }
}

export const OUTPUT = noun(KINDS, {
  'design.setOutput': setOutput,
  'design.setOutputSetting': setOutputSetting
})
