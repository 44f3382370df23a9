import { z } from 'zod'
import { BOUNDS } from '../../bounds.ts'
import { idSchema } from '../ids.ts'
import { nameSchema } from '../name.ts'
import { beside, part } from './part.ts'

/**
 * A named part of a design, as people talk of it. A table may stand in several; one that is gone is left out when it is
 * drawn, and comes back with its undo.
 */
export const subjectSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  note: z.string().max(BOUNDS.note).optional(),
  tables: z.array(idSchema).max(BOUNDS.tables)
})
export type Subject = z.infer<typeof subjectSchema>

export const subjectPart = part<Subject>()({
  name: 'subject',
  plural: 'subjects',
  prefix: 'b',
  heldBy: 'design',
  in: 'subjects',
  as: 'list',
  mayBeLeftOut: true,
  schema: subjectSchema,
  isOfSchema: false,
  aspects: {
    name: beside('value', 'name'),
    note: beside('value', 'note'),
    tables: beside('set', 'tables')
  }
})
