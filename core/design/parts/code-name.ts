import { nameSchema } from '../name.ts'
import { beside, entrySchema, part, type Entry } from './part.ts'

/** What a table or a column is called in code, by its id. */
export const codeNamePart = part<Entry<string>>()({
  name: 'codeName',
  plural: 'names in code',
  heldBy: 'design',
  in: 'codeNames',
  as: 'record',
  schema: entrySchema(nameSchema),
  isOfSchema: false,
  aspects: { name: beside('value', 'value') }
})
