import type { Design, Subject, TableId } from '../design/model.ts'
import { once } from '../once.ts'

/** Room around the tables of a subject that is drawn as a region (pixels). */
export const REGION = { around: 28 }

/** Of more tables than this a design is looked at from afar. */
const MANY = 60
export const isLarge = ({ tables }: Design): boolean => tables.length > MANY

/** How high the head of a region is, in which its name stands: as the whole is looked at from (pixels). */
export const headOf = (design: Design): number => (isLarge(design) ? 150 : 46)

/** How large the name in such a head is. */
export const regionSize = (head: number): number => head * 0.38

/** The subject in whose region each table stands: the first of those that have it. */
export const regionOf = once((design: Design): ReadonlyMap<TableId, Subject> => {
  const found = new Map<TableId, Subject>()
  const known = new Set(design.tables.map(({ id }) => id))
  for (const subject of design.subjects ?? [])
    for (const id of subject.tables) if (known.has(id) && !found.has(id)) found.set(id, subject)
  return found
})

/** Whether a reference leads from one region into another, or out of one. */
export const leadsOut = (design: Design, from: TableId, to: TableId): boolean =>
  regionOf(design).get(from) !== regionOf(design).get(to)
