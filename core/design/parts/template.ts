import { z } from 'zod'
import { BOUNDS } from '../../bounds.ts'
import { beside, part } from './part.ts'

/** A template of a team's own, over the shape that applications are given. */
export const templateSchema = z.strictObject({
  name: z.string().regex(/^[a-z][a-z0-9-]{0,39}$/),
  text: z.string().max(BOUNDS.template)
})
export type Template = z.infer<typeof templateSchema>
/** The output that a template comes to. */
export const templateOutput = (name: string): string => `template-${name}`

export const templatePart = part<Template>()({
  name: 'template',
  plural: 'templates',
  goesBy: ['name'],
  heldBy: 'design',
  in: 'templates',
  as: 'list',
  mayBeLeftOut: true,
  schema: templateSchema,
  isOfSchema: false,
  aspects: { text: beside('value', 'text') }
})
