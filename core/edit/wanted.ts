import { BOUNDS } from '../bounds.ts'
import { fold } from '../design/directory.ts'
import { placeFlaw, templateOutput, type Design } from '../design/model.ts'
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

/** Templates stand in the order of their names. One that the application is given cannot be removed. */
export const setTemplate: Handler<'template.set'> = (design, { name, text }) => {
  const { templates = [], ...bare } = design
  const before = templates.find((each) => each.name === name)
  const place = design.outputs?.[templateOutput(name)]
  if (text === null && place !== undefined)
    throw new Refused('in-use', `The application is given it as ${shorten(place)}: leave it out there first.`)
  if (!before && text === null) throw new Refused('missing', `There is no template called ${name}.`)
  if (!before && templates.length >= BOUNDS.templates)
    throw new Refused('invalid', `There are ${BOUNDS.templates} templates already, and no more are kept.`)
  const others = templates.filter((each) => each.name !== name)
  const now = text === null ? others : [...others, { name, text }]
  now.sort((one, other) => (one.name < other.name ? -1 : 1))
  return {
    design: now.length === 0 ? bare : { ...bare, templates: now },
    inverse: { kind: 'template.set', name, text: before?.text ?? null },
    touched: []
  }
}

/** What is not there, and what is of no table or column, is called nothing. */
export const setCodeName: Handler<'code.setName'> = (design, { of, name }) => {
  const isThere = design.tables.some(({ id, columns }) => id === of || columns.some((each) => each.id === of))
  if (!isThere && name !== null)
    throw new Refused('missing', 'There is no table or column of that kind any more.')
  const { codeNames = {}, ...bare } = design
  const { [of]: before, ...others } = codeNames
  const now = name === null ? others : sorted({ ...others, [of]: name })
  return {
    design: Object.keys(now).length === 0 ? bare : { ...bare, codeNames: now },
    inverse: { kind: 'code.setName', of, name: before ?? null },
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
