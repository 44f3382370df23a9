import { z } from 'zod'
import { BOUNDS } from '../../bounds.ts'
import { beside, entrySchema, part, type Entry } from './part.ts'

/** Why a text is no place for a file in a tree: it would stand outside it, or not on every machine. */
export function placeFlaw(place: string): string | undefined {
  if (place.length > BOUNDS.place) return `it is longer than ${BOUNDS.place} characters`
  const parts = place.split('/')
  if (parts.some((part) => part === '' || part === '.' || part === '..'))
    return 'it is to be names with a / between them, such as src/data/rows.ts'
  const odd = /[\p{Cc}\\:*?"<>|]/u.exec(place)?.[0]
  if (odd !== undefined) return `${JSON.stringify(odd)} cannot stand in the name of a file everywhere`
  return parts.some((part) => /[. ]$/.test(part)) ? 'a name may not end with a dot or a space' : undefined
}
export const placeSchema = z.string().refine((place) => placeFlaw(place) === undefined, {
  error: 'is no place for a file'
})
export const outputNameSchema = z.string().regex(/^[a-z][a-z0-9-]{0,59}$/)
/** What is chosen of an output, by the name of the setting. */
export const outputSettingsSchema = z.record(outputNameSchema, z.string().min(1).max(BOUNDS.place))

/** Where an output is written, by its name. */
export const outputPart = part<Entry<string>>()({
  name: 'output',
  plural: 'outputs',
  heldBy: 'design',
  in: 'outputs',
  as: 'record',
  schema: entrySchema(placeSchema),
  isOfSchema: false,
  aspects: { place: beside('value', 'value') }
})

/** What is chosen of an output, by its name. */
export const outputSettingPart = part<Entry<Record<string, string>>>()({
  name: 'outputSetting',
  plural: 'settings of outputs',
  heldBy: 'design',
  in: 'outputSettings',
  as: 'record',
  schema: entrySchema(outputSettingsSchema),
  isOfSchema: false,
  aspects: { settings: beside('map', 'value') }
})
