import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { once } from '../once.ts'
import { exact } from '../sql/number.ts'
import { readJson } from './json.ts'
import { byId } from './by-id.ts'
import { shorten, type NamedValues, type Parsed, type Type } from './type.ts'

/**
 * One value in a row or a default. Decimals are strings, so that no digit is lost; dates are
 * `YYYY-MM-DD`, times `HH:MM:SS`, timestamps `YYYY-MM-DD HH:MM:SS` (UTC where the type has a zone).
 */
export const valueSchema = z.union([z.string(), z.number(), z.boolean(), z.null()])
export type Value = z.infer<typeof valueSchema>

export const defaultSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('generated') }),
  z.strictObject({ kind: z.literal('now') }),
  z.strictObject({ kind: z.literal('value'), value: z.union([z.string(), z.number(), z.boolean()]) }),
  /** Worked out when a row is made, from nothing but itself; kept as ./expressions.ts keeps expressions. */
  z.strictObject({ kind: z.literal('expression'), expression: z.string().min(1).max(BOUNDS.keptExpression) })
])
/**
 * What a column takes when a row says nothing: a number the engine counts, the present moment, a value, or
 * what an expression gives.
 */
export type Default = z.infer<typeof defaultSchema>

const INTEGER_RANGE = { small: 2n ** 15n, normal: 2n ** 31n, big: 2n ** 63n }
const DATE = String.raw`\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])`
const TIME = String.raw`(?:[01]\d|2[0-3]):[0-5]\d(?::[0-5]\d)?`

/** Reads what was typed as a value of the type; a message says why it does not fit. */
export function parseValue(
  text: string,
  type: Type,
  enums: readonly NamedValues[] = []
): Parsed<string | number | boolean> {
  const trimmed = text.trim()
  const bad = (what: string): Parsed<never> => ({ ok: false, message: `“${shorten(text)}” is not ${what}.` })
  const unfit = flawOfText(text)
  if (unfit !== undefined) return bad(`text an engine can hold: it has ${unfit} in it`)
  if (text.length > BOUNDS.value)
    return bad(`short enough: a value has at most ${BOUNDS.value.toLocaleString('en-GB')} characters`)
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
        return bad(
          `a number with ${type.precision - type.scale} digits before the point and ${type.scale} after it`
        )
      }
      return { ok: true, value: trimmed }
    }
    case 'float': {
      if (!/^-?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?$/i.test(trimmed) || !Number.isFinite(Number(trimmed)))
        return bad('a number')
      return { ok: true, value: Number(trimmed) }
    }
    case 'boolean':
      return trimmed === 'true'
        ? { ok: true, value: true }
        : trimmed === 'false'
          ? { ok: true, value: false }
          : bad('true or false')
    case 'date':
      return isDate(trimmed, new RegExp(`^${DATE}$`))
        ? { ok: true, value: trimmed }
        : bad('a date such as 2026-05-03')
    case 'time':
      return new RegExp(`^${TIME}$`).test(trimmed)
        ? { ok: true, value: withSeconds(trimmed) }
        : bad('a time such as 07:40')
    case 'timestamp':
      return isDate(trimmed, new RegExp(`^${DATE}[ T]${TIME}$`))
        ? { ok: true, value: withSeconds(trimmed.replace('T', ' ')) }
        : bad('a timestamp such as 2026-05-03 07:40')
    case 'uuid':
      return /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i.test(trimmed)
        ? { ok: true, value: trimmed.toLowerCase() }
        : bad('a uuid')
    case 'json':
      return readJson(trimmed).ok ? { ok: true, value: trimmed } : bad('JSON')
    case 'interval': {
      const value = parseInterval(trimmed)
      return value === undefined ? bad('an interval such as 2 days 3 hours or P2DT3H') : { ok: true, value }
    }
    case 'binary':
      if (type.length !== undefined && trimmed.length > type.length * 2)
        return bad(`short enough: the column holds ${type.length} bytes`)
      return /^(?:[0-9a-f]{2})+$/i.test(trimmed)
        ? { ok: true, value: trimmed.toLowerCase() }
        : bad('bytes in hexadecimal, such as 00ff')
    case 'enum': {
      const list = byId(enums).get(type.enum)
      return !list || valuesOf(list).has(text)
        ? { ok: true, value: text }
        : bad(`one of ${shorten(list.values.join(', '))}`)
    }
    case 'native':
    case 'text':
    case 'char': {
      if ('length' in type && type.length !== undefined && [...text].length > type.length)
        return bad(`short enough: the column holds ${type.length} characters`)
      return { ok: true, value: text }
    }
  }
}

const valuesOf = once((list: NamedValues): ReadonlySet<string> => new Set(list.values))

/**
 * What of a text no engine holds, or nothing: a zero byte, or half of a character that takes two units of
 * UTF-16.
 */
export function flawOfText(text: string): string | undefined {
  if (text.includes('\0')) return 'a zero byte'
  return text.isWellFormed() ? undefined : 'half a character'
}

/**
 * A value as it is read when it is typed: with its seconds, in lower case where case says nothing. One
 * that does not fit stays as it is.
 */
export function normalValue(value: string | number | boolean, type: Type): string | number | boolean {
  const parsed = parseValue(String(value), type)
  return parsed.ok ? parsed.value : value
}

/**
 * What an expression gives as a value of the type: a number for a column of a scale is rounded to it, for
 * a whole one to a whole.
 */
export function typedValue(value: Value, type: Type): Value {
  if (value === null) return null
  if (type.kind === 'decimal') return rounded(value, type.scale)
  if (type.kind === 'integer') {
    const whole = rounded(value, 0)
    return Number.isSafeInteger(Number(whole)) ? Number(whole) : whole
  }
  if (type.kind === 'float') return Number(value)
  return isWords(type) ? String(value) : value
}

function rounded(value: Value, scale: number): string {
  return exact(String(value))?.toFixed(scale) ?? String(value)
}

/** True where the value can stand in a column of the type (null is for the caller to judge). */
export function fits(value: Value, type: Type, enums: readonly NamedValues[] = []): boolean {
  if (value === null) return true
  if (type.kind === 'boolean') return typeof value === 'boolean'
  const plainly = fitsPlainly(value, type)
  if (plainly !== undefined) return plainly
  if (isWords(type)) return typeof value === 'string' && parseValue(value, type, enums).ok
  return typeof value !== 'boolean' && parseValue(String(value), type).ok
}

/** The same for what most rows are made of, without reading it as it would be typed; nothing where that is needed. */
function fitsPlainly(value: Exclude<Value, null>, type: Type): boolean | undefined {
  if (type.kind === 'integer' && typeof value === 'number' && Number.isInteger(value)) {
    const range = Number(INTEGER_RANGE[type.size])
    return value < range && value >= -range
  }
  const isText = type.kind === 'text' || type.kind === 'char'
  if (!isText || typeof value !== 'string' || value.length > (type.length ?? BOUNDS.value)) return undefined
  return flawOfText(value) === undefined
}

/** True for the types whose values are any text, which stands between quotes where a default is written. */
export const isWords = (type: Type): boolean =>
  type.kind === 'text' || type.kind === 'char' || type.kind === 'enum' || type.kind === 'native'

/**
 * An interval of days, hours, minutes and seconds as ISO 8601 says it (`P2DT3H`); months and years are no
 * fixed time and are not taken.
 */
function parseInterval(text: string): string | undefined {
  const iso = /^P(?:(\d{1,6})D)?(?:T(?:(\d{1,6})H)?(?:(\d{1,6})M)?(?:(\d{1,8})S)?)?$/i.exec(text)
  const words =
    /^(?:(\d{1,6})\s*d(?:ays?)?)?[\s,]*(?:(\d{1,6})\s*h(?:ours?)?)?[\s,]*(?:(\d{1,6})\s*m(?:in(?:utes?)?)?)?[\s,]*(?:(\d{1,8})\s*s(?:ec(?:onds?)?)?)?$/i.exec(
      text
    )
  const [, days = 0, hours = 0, minutes = 0, seconds = 0] = (iso ?? words ?? []).map((part) =>
    part === undefined ? undefined : Number(part)
  ) as (number | undefined)[]
  if ((!iso && !words) || !/\d/.test(text)) return undefined
  return intervalText(days * 86_400 + hours * 3600 + minutes * 60 + seconds)
}

/** Seconds as the shortest ISO 8601 interval. */
export function intervalText(total: number): string {
  const parts: [number, string][] = [
    [Math.floor(total / 86_400), 'D'],
    [Math.floor(total / 3600) % 24, 'H'],
    [Math.floor(total / 60) % 60, 'M'],
    [total % 60, 'S']
  ]
  const [day, ...time] = parts.map(([n, unit]) => (n > 0 ? `${n}${unit}` : ''))
  const clock = time.join('')
  return total === 0 ? 'PT0S' : `P${day ?? ''}${clock && `T${clock}`}`
}

/** The seconds of an interval in ISO 8601, for comparing two; nothing where it is none. */
export function intervalSeconds(text: string): number | undefined {
  const match = /^P(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:\.0+)?)S)?)?$/i.exec(text)
  if (!match) return undefined
  const [days = 0, hours = 0, minutes = 0, seconds = 0] = match.slice(1).map((part) => Number(part ?? 0))
  return days * 86_400 + hours * 3600 + minutes * 60 + seconds
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
