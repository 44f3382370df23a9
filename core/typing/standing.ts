import { defaultText, isMoment, parseDefault } from '../design/default.ts'
import { fold } from '../design/directory.ts'
import { nameSchema, type StandingColumn } from '../design/model.ts'
import { parseType, typeText, type Parsed } from '../design/type.ts'
import type { LineText } from './edits.ts'
import { readRenewed, sayRenewed } from './given.ts'

/** Columns that every table begins with, as they are typed: name, type, required and default. */

export type StandingLine = Pick<LineText, 'name' | 'type' | 'required' | 'default'>

export const standingLine = ({
  name,
  type,
  required,
  default: begins,
  renewed
}: StandingColumn): StandingLine => ({
  name,
  type: typeText(type),
  required,
  default: sayRenewed(defaultText(begins, type), renewed)
})

/** Reads the lines that say something; tells what is wrong with the first that cannot be a column. */
export function readStanding(lines: readonly StandingLine[]): Parsed<StandingColumn[]> {
  const columns: StandingColumn[] = []
  for (const line of lines) {
    if (line.name.trim() === '' && line.type.trim() === '') continue
    const name = nameSchema.safeParse(line.name.trim())
    if (!name.success) return { ok: false, message: `A column has no name yet: ${line.type}.` }
    if (columns.some((each) => fold(each.name) === fold(name.data)))
      return { ok: false, message: `Two of them are called ${name.data}.` }
    const type = parseType(line.type.trim() || 'text')
    if (!type.ok) return { ok: false, message: `${name.data}: ${type.message}` }
    const { first, renewed } = readRenewed(line.default)
    if (renewed && !isMoment(type.value))
      return { ok: false, message: `${name.data}: only a date, a time or a timestamp is renewed on change.` }
    const begins = parseDefault(first, type.value)
    if (!begins.ok) return { ok: false, message: `${name.data}: ${begins.message}` }
    if (begins.value?.kind === 'generated')
      return {
        ok: false,
        message: `${name.data} cannot be generated: a table counts one column, which is its key.`
      }
    columns.push({
      name: name.data,
      type: type.value,
      required: line.required,
      ...(begins.value && { default: begins.value }),
      ...(renewed && { renewed })
    })
  }
  return { ok: true, value: columns }
}
