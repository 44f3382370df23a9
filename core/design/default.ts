import { flawOfExpression, readExpression, showExpression } from './expressions.ts'
import type { NamedValues, Parsed, Type } from './type.ts'
import { fits, isWords, parseValue, type Default } from './value.ts'

/** The present moment, or day, as people and engines call it. */
const NOW = new Set(['now', 'now()', 'today', 'today()', 'current_date', 'current_time', 'current_timestamp'])

/**
 * Reads a default as it is typed in a sheet: `generated`, `now`, a value of the type, or `=` and an
 * expression.
 * Text stands as it is or between single quotes; empty means no default (null).
 */
export function parseDefault(
  text: string,
  type: Type,
  enums: readonly NamedValues[] = []
): Parsed<Default | null> {
  const trimmed = text.trim()
  if (trimmed === '') return { ok: true, value: null }
  const word = trimmed.toLowerCase()
  if (trimmed.startsWith('=')) {
    const read = readExpression(trimmed.slice(1), { wanted: type, columns: [], enums, moments: true })
    return read.ok ? { ok: true, value: { kind: 'expression', expression: read.value } } : read
  }
  if (word === 'generated') {
    return type.kind === 'integer'
      ? { ok: true, value: { kind: 'generated' } }
      : { ok: false, message: 'Only an integer can be generated.' }
  }
  if (word === 'now' || (isMoment(type) && NOW.has(word))) {
    return isMoment(type)
      ? { ok: true, value: { kind: 'now' } }
      : { ok: false, message: 'Only a date, a time or a timestamp can default to now.' }
  }
  const quoted = /^'((?:[^']|'')*)'$/.exec(trimmed)
  const value = parseValue(quoted ? (quoted[1] ?? '').replaceAll("''", "'") : trimmed, type, enums)
  return value.ok ? { ok: true, value: { kind: 'value', value: value.value } } : value
}

/** Whether the present moment is a value of the type. */
export const isMoment = ({ kind }: Type): boolean =>
  kind === 'date' || kind === 'time' || kind === 'timestamp'

/** A default as a sheet shows it; inverse of {@link parseDefault}. */
export function defaultText(value: Default | null | undefined, type: Type): string {
  if (!value) return ''
  if (value.kind === 'expression') return `= ${showExpression(value.expression)}`
  if (value.kind !== 'value') return value.kind
  return isWords(type) ? `'${String(value.value).replaceAll("'", "''")}'` : String(value.value)
}

/** True where the default can stand on a column of the type. */
export function defaultFits(
  value: Default | null | undefined,
  type: Type,
  enums: readonly NamedValues[] = []
): boolean {
  if (!value) return true
  if (value.kind === 'value') return fits(value.value, type, enums)
  if (value.kind === 'expression')
    return (
      flawOfExpression(value.expression, { wanted: type, columns: [], enums, moments: true }) === undefined
    )
  return parseDefault(value.kind, type).ok
}
