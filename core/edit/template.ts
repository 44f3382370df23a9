import { BOUNDS } from '../bounds.ts'
import { templateOutput, templateSchema } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { kind, noun, type Handler, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'

/** Templates of a team's own, by which outputs are written. */

const KINDS = [
  /** Null: it is removed. */
  kind(
    'template.set',
    { name: templateSchema.shape.name, text: templateSchema.shape.text.nullable() },
    ({ name, text }) => `${text === null ? 'remove' : 'write'} the template ${name}`
  )
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

/** Templates stand in the order of their names. One that the application is given cannot be removed. */
const setTemplate: Handler<'template.set'> = (design, { name, text }) => {
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

export const TEMPLATE = noun(KINDS, { 'template.set': setTemplate })
