import { z } from 'zod'
import { BOUNDS } from '../../bounds.ts'
import { idSchema } from '../ids.ts'
import { nameSchema } from '../name.ts'
import { beside, part } from './part.ts'

/** What of a design a view shows: all, a subject with what is beside it, what is near a table, or tables by name. */
export const shownPartSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('all') }),
  z.strictObject({ kind: z.literal('subject'), subject: idSchema }),
  z.strictObject({ kind: z.literal('near'), table: idSchema, steps: z.int().min(1).max(2) }),
  z.strictObject({ kind: z.literal('tables'), tables: z.array(idSchema).max(BOUNDS.tables) })
])
export type ShownPart = z.infer<typeof shownPartSchema>

/** Which rows of a table are drawn: of all columns, of those in keys and references, or none. */
export const ROWS = ['all', 'keys', 'none'] as const
export type Rows = (typeof ROWS)[number]
/** How the ends of lines say how few and how many: by crow's feet, or by numbers, minimum..maximum. */
export const ENDS = ['feet', 'numbers'] as const
export type Ends = (typeof ENDS)[number]
/** What stands at the ends of lines: nothing, the verbs of the readings, or what each side is called in code. */
export const LINE_WORDS = ['none', 'verbs', 'roles'] as const
export type LineWords = (typeof LINE_WORDS)[number]

/** How a diagram is drawn. */
export const lookSchema = z.strictObject({
  rows: z.enum(ROWS),
  /** Whether the types of columns stand beside them. */
  types: z.boolean(),
  ends: z.enum(ENDS),
  words: z.enum(LINE_WORDS),
  /** Whether subjects stand together, each in a region with its name. */
  regions: z.boolean()
})
export type Look = z.infer<typeof lookSchema>
export const PLAIN_LOOK: Look = { rows: 'all', types: true, ends: 'feet', words: 'none', regions: true }

/** A diagram that is kept: what it shows and how, with its title and what is said of it. */
export const viewSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  /** What stands over the drawing, where that is not its name. */
  title: z.string().max(BOUNDS.note).optional(),
  note: z.string().max(BOUNDS.note).optional(),
  shows: shownPartSchema,
  look: lookSchema
})
export type View = z.infer<typeof viewSchema>

export const viewPart = part<View>()({
  name: 'view',
  plural: 'views',
  prefix: 'v',
  heldBy: 'design',
  in: 'views',
  as: 'list',
  mayBeLeftOut: true,
  schema: viewSchema,
  isOfSchema: false,
  aspects: {
    name: beside('value', 'name'),
    title: beside('value', 'title'),
    note: beside('value', 'note'),
    shows: beside('value', 'shows'),
    look: beside('value', 'look')
  }
})
