import { canonicalJson } from './json.ts'
import { intervalSeconds } from './value.ts'
import type { Type } from './type.ts'

/** A number without what stands behind its point; a text that is none as it is. */
function wholeText(text: string): string {
  const number = Math.trunc(Number(text))
  return Number.isFinite(number) ? BigInt(number).toString() : text
}

/**
 * A value in one spelling, so that what a design holds and what an engine gives back can be compared:
 * `0.2` and `0.20` are the same decimal, a char is without its padding, an instant without its zone (UTC).
 */
export function canonicalValue(value: unknown, type: Type): string | null {
  if (value === null || value === undefined) return null
  if (type.kind === 'integer' && Number.isSafeInteger(value)) return String(value)
  const text = String(value)
  switch (type.kind) {
    case 'integer':
      return /^-?\d+$/.test(text) ? BigInt(text).toString() : wholeText(text)
    case 'decimal':
      return plainDecimal(text)
    case 'float':
      return String(Number(text))
    case 'boolean':
      return String(text === 'true' || text === 't' || text === '1')
    case 'char':
      return text.replace(/ +$/, '')
    case 'time':
      return text.slice(0, 8)
    case 'timestamp':
      return text.replace('T', ' ').replace(/(?:\.0+)?(?:\+00(?::?00)?|Z)?$/, '')
    case 'uuid':
    case 'binary':
      return text.toLowerCase()
    case 'interval':
      return String(intervalSeconds(text) ?? text)
    case 'json':
      return canonicalJson(text)
    default:
      return text
  }
}

export function sameValue(a: unknown, b: unknown, type: Type): boolean {
  return canonicalValue(a, type) === canonicalValue(b, type)
}

function plainDecimal(text: string): string {
  const match = /^(-?)0*(\d*)(?:\.(\d*?)0*)?$/.exec(text)
  if (!match) return String(Number(text))
  const [, sign = '', whole = '', fraction = ''] = match
  const digits = `${whole || '0'}${fraction ? `.${fraction}` : ''}`
  return digits === '0' ? '0' : sign + digits
}
