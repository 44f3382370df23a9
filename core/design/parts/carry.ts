import { carrySchema, type Carry } from '../carry.ts'
import { part } from './part.ts'

/** What rows a restructuring moves. One never changes: it comes and goes whole. */
export const carryPart = part<Carry>()({
  name: 'carry',
  plural: 'restructurings',
  prefix: 'y',
  heldBy: 'design',
  in: 'carries',
  as: 'list',
  schema: carrySchema,
  isOfSchema: true,
  aspects: {}
})
