import { z } from 'zod'
import { shorten, type Parsed, type Type } from './type.ts'

/**
 * One value in a row or a default. Decimals are strings, so that no digit is lost; dates are
 * `YYYY-MM-DD`, times `HH:MM:SS`, timestamps `YYYY-MM-DD HH:MM:SS` (UTC where the type has a zone).
 */
export const valueSchema = z.union([z.string(), z.number(), z.boolean(), z.null()])
export type Value = z.infer<typeof valueSchema>

export const defaultSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('generated') }),
  z.strictObject({ kind: z.literal('now') }),
  z.strictObject({ kind: z.literal('value'), value: z.union([z.string(), z.number(), z.boolean()]) })
])
/** What a column takes when a row says nothing: a number the engine counts, the present moment, or a value. */
export type Default = z.infer<typeof defaultSchema>

const INTEGER_RANGE = { small: 2n ** 15n, normal: 2n ** 31n, big: 2n ** 63n }
const DATE = String.raw`\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])`
const TIME = String.raw`(?:[01]\d|2[0-3]):[0-5]\d(?::[0-5]\d)?`

/** Reads what was typed as a value of the type; a message says why it does not fit. */
export function parseValue(text: string, type: Type): Parsed<string | number | boolean> {
  const trimmed = text.trim()
  const bad = (what: string): Parsed<never> => ({ ok: false, message: `“${shorten(text)}” is not ${what}.` })
  switch (type.kind) {
    case 'integer': {
      if (!/^-?\d{1,19}$/.test(trimmed)) return bad('a whole number')
      const n = BigInt(trimmed)
      const range = INTEGER_RANGE[type.size]
      if (n >= range || n < -range) return bad(`a number that fits (the largest is ${range - 1n})`)
      return { ok: true, value: Number.isSafeInteger(Number(trimmed)) ? Number(trimmed) : n.toString() }
    }
    case 'decimal': {
      const match = /^-?(\d+)(?:\.(\d+))?$/.exec(trimmed)
      if (!match) return bad('a decimal number such as 0.20')
      const whole = (match[1] ?? '').replace(/^0+/, '').length
      if (whole > type.precision - type.scale || (match[2] ?? '').length > type.scale) {
        return bad(`a number with ${type.precision - type.scale} digits before the point and ${type.scale} after it`)
      }
      return { ok: true, value: trimmed }
    }
    case 'float': {
      if (!/^-?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?$/i.test(trimmed) || !Number.isFinite(Number(trimmed))) return bad('a number')
      return { ok: true, value: Number(trimmed) }
    }
    case 'boolean':
      return trimmed === 'true' ? { ok: true, value: true } : trimmed === 'false' ? { ok: true, value: false } : bad('true or false')
    case 'date':
      return isDate(trimmed, new RegExp(`^${DATE}$`)) ? { ok: true, value: trimmed } : bad('a date such as 2026-05-03')
    case 'time':
      return new RegExp(`^${TIME}$`).test(trimmed) ? { ok: true, value: withSeconds(trimmed) } : bad('a time such as 07:40')
    case 'timestamp':
      return isDate(trimmed, new RegExp(`^${DATE}[ T]${TIME}$`)) ? { ok: true, value: withSeconds(trimmed.replace('T', ' ')) } : bad('a timestamp such as 2026-05-03 07:40')
    case 'uuid':
      return /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i.test(trimmed) ? { ok: true, value: trimmed.toLowerCase() } : bad('a uuid')
    case 'json':
      try { JSON.parse(trimmed) } catch { return bad('JSON') }
      return { ok: true, value: trimmed }
    case 'binary':
      return /^(?:[0-9a-f]{2})+$/i.test(trimmed) ? { ok: true, value: trimmed.toLowerCase() } : bad('bytes in hexadecimal, such as 00ff')
    case 'text':
    case 'char': {
      if (text.includes('\0')) return bad('text an engine can hold: it has a zero byte in it')
      if (type.length !== undefined && [...text].length > type.length) return bad(`short enough: the column holds ${type.length} characters`)
      return { ok: true, value: text }
    }
  }
}

/** A value as it is read when it is typed: with its seconds, in lower case where case says nothing. One that does not fit stays as it is. */
export function normalValue(value: string | number | boolean, type: Type): string | number | boolean {
  const parsed = parseValue(String(value), type)
  return parsed.ok ? parsed.value : value
}

/** True where the value can stand in a column of the type (null is for the caller to judge). */
export function fits(value: Value, type: Type): boolean {
  if (value === null) return true
  if (type.kind === 'boolean') return typeof value === 'boolean'
  if (type.kind === 'text' || type.kind === 'char') return typeof value === 'string' && parseValue(value, type).ok
  return typeof value !== 'boolean' && parseValue(String(value), type).ok
}

/**
 * Reads a default as it is typed in a sheet: `generated`, `now`, or a value of the type.
 * Text stands as it is or between single quotes; empty means no default (null).
 */
export function parseDefault(text: string, type: Type): Parsed<Default | null> {
  const trimmed = text.trim()
  if (trimmed === '') return { ok: true, value: null }
  const word = trimmed.toLowerCase()
  if (word === 'generated') {
    return type.kind === 'integer' ? { ok: true, value: { kind: 'generated' } } : { ok: false, message: 'Only an integer can be generated.' }
  }
  if (word === 'now') {
    return type.kind === 'date' || type.kind === 'time' || type.kind === 'timestamp'
      ? { ok: true, value: { kind: 'now' } }
      : { ok: false, message: 'Only a date, a time or a timestamp can default to now.' }
  }
  const quoted = /^'((?:[^']|'')*)'$/.exec(trimmed)
  const value = parseValue(quoted ? (quoted[1] ?? '').replaceAll("''", "'") : trimmed, type)
  return value.ok ? { ok: true, value: { kind: 'value', value: value.value } } : value
}

/** A default as a sheet shows it; inverse of {@link parseDefault}. */
export function defaultText(value: Default | null | undefined, type: Type): string {
  if (!value) return ''
  if (value.kind !== 'value') return value.kind
  const isText = type.kind === 'text' || type.kind === 'char'
  return isText ? `'${String(value.value).replaceAll("'", "''")}'` : String(value.value)
}

/** True where the default can stand on a column of the type. */
export function defaultFits(value: Default | null | undefined, type: Type): boolean {
  if (!value) return true
  if (value.kind === 'value') return fits(value.value, type)
  return parseDefault(value.kind, type).ok
}

function withSeconds(text: string): string {
  return /:\d\d:\d\d$/.test(text) ? text : `${text}:00`
}

function isDate(text: string, pattern: RegExp): boolean {
  if (!pattern.test(text)) return false
  const [year = 0, month = 0, day = 0] = text.slice(0, 10).split('-').map(Number)
  const date = new Date(Date.UTC(year, month - 1, day))
  return year > 0 && date.getUTCMonth() === month - 1 && date.getUTCDate() === day
}
