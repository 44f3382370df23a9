import { fold } from '../design/directory.ts'
import { placeFlaw, type Design } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import type { Handler } from './handler.ts'
import { Refused } from './refusal.ts'

/** Which outputs an application is given, and where in its tree: no two in the same place. */
export const setOutput: Handler<'design.setOutput'> = (design, { output, to }) => {
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
export const setOutputSetting: Handler<'design.setOutputSetting'> = (design, { output, setting, to }) => {
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

/** By their names, whatever was chosen first. */
const sorted = <Value>(all: Record<string, Value>): Record<string, Value> =>
  Object.fromEntries(Object.entries(all).sort(([one], [other]) => (one < other ? -1 : 1)))

/** In the order of their names, whichever was wanted first; left out where none is. */
function withOutputs({ outputs: _, ...bare }: Design, all: [string, string][]): Design {
  if (all.length === 0) return bare
  return { ...bare, outputs: sorted(Object.fromEntries(all)) }
}
