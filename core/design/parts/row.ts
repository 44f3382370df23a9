import { z } from 'zod'
import { idSchema } from '../ids.ts'
import { valueSchema } from '../value.ts'

/** Values by column id; a column that is missing is null. */
export const rowSchema = z.record(idSchema, valueSchema)
export type Row = z.infer<typeof rowSchema>

/** A row as a design keeps it: a column that is empty is left out, so that there is one way to say so. */
export function tidyRow(row: Row): Row {
  const values = Object.entries(row)
  const said = values.filter(([, value]) => value !== null && value !== undefined)
  return said.length === values.length ? row : Object.fromEntries(said)
}

/** Whether two rows say the same, or neither is there. */
export function isSameRow(one: Row | undefined, other: Row | undefined): boolean {
  if (one === undefined || other === undefined || one === other) return one === other
  const [tidy, wanted] = [tidyRow(one), tidyRow(other)]
  const ids = Object.keys(tidy)
  return ids.length === Object.keys(wanted).length && ids.every((id) => tidy[id] === wanted[id])
}
