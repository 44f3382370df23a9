import { z } from 'zod'

/** The logical types a column can have. Each dialect maps every one of them (core/dialect). */
export const typeSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('integer'), size: z.enum(['small', 'normal', 'big']) }),
  z.strictObject({ kind: z.literal('decimal'), precision: z.int().min(1).max(38), scale: z.int().min(0).max(38) })
    .refine((t) => t.scale <= t.precision, { error: 'the scale may not be larger than the precision' }),
  z.strictObject({ kind: z.literal('float') }),
  z.strictObject({ kind: z.literal('boolean') }),
  z.strictObject({ kind: z.literal('text'), length: z.int().min(1).max(65_535).optional() }),
  z.strictObject({ kind: z.literal('char'), length: z.int().min(1).max(255) }),
  z.strictObject({ kind: z.literal('date') }),
  z.strictObject({ kind: z.literal('time') }),
  z.strictObject({ kind: z.literal('timestamp'), zone: z.boolean() }),
  z.strictObject({ kind: z.literal('uuid') }),
  z.strictObject({ kind: z.literal('json') }),
  z.strictObject({ kind: z.literal('binary') })
])
export type Type = z.infer<typeof typeSchema>

const INTEGER_WORDS: Record<string, 'small' | 'normal' | 'big'> = { smallint: 'small', integer: 'normal', int: 'normal', bigint: 'big' }
const PLAIN_WORDS = ['float', 'boolean', 'date', 'time', 'uuid', 'json', 'binary'] as const

/** A type as it is written in a sheet: `decimal(8,2)`, `text(120)`, `timestamp zone`. Inverse of {@link parseType}. */
export function typeText(type: Type): string {
  switch (type.kind) {
    case 'integer': return type.size === 'small' ? 'smallint' : type.size === 'big' ? 'bigint' : 'integer'
    case 'decimal': return `decimal(${type.precision},${type.scale})`
    case 'text': return type.length === undefined ? 'text' : `text(${type.length})`
    case 'char': return `char(${type.length})`
    case 'timestamp': return type.zone ? 'timestamp zone' : 'timestamp'
    default: return type.kind
  }
}

export type Parsed<T> = { ok: true; value: T } | { ok: false; message: string }

/**
 * Reads a type as a person types it; spaces and letter case do not matter.
 * Refuses with a sentence that names what was typed and what would do.
 */
export function parseType(text: string): Parsed<Type> {
  const match = /^([a-z]+)\s*(?:\(\s*(-?\d+)\s*(?:,\s*(-?\d+)\s*)?\))?(?:[\s,]+(?:with\s+)?(zone|time zone))?$/.exec(text.trim().toLowerCase())
  if (!match) return { ok: false, message: `“${shorten(text)}” is not a type. Try integer, text(120), decimal(8,2), boolean, date or timestamp.` }
  const [, word = '', first, second, zone] = match
  const found = typeFor(word, first === undefined ? undefined : Number(first), second === undefined ? undefined : Number(second))
  if (!found) return { ok: false, message: `“${shorten(text)}” is not a type. Try integer, text(120), decimal(8,2), boolean, date or timestamp.` }
  if (zone) {
    if (found.kind !== 'timestamp') return { ok: false, message: `Only a timestamp has a zone, ${word} has none.` }
    found.zone = true
  }
  const takesNumbers = found.kind === 'decimal' || found.kind === 'text' || found.kind === 'char'
  if (first !== undefined && !takesNumbers) return { ok: false, message: `${word} takes no length.` }
  if (second !== undefined && found.kind !== 'decimal') return { ok: false, message: `${word} takes one number, its length.` }
  const checked = typeSchema.safeParse(found)
  if (checked.success) return { ok: true, value: checked.data }
  return { ok: false, message: `“${shorten(text)}” cannot be: ${limitsOf(found.kind)}.` }
}

function typeFor(word: string, first?: number, second?: number): Type | undefined {
  const size = Object.hasOwn(INTEGER_WORDS, word) ? INTEGER_WORDS[word] : undefined
  if (size) return { kind: 'integer', size }
  if (word === 'decimal') return { kind: 'decimal', precision: first ?? 10, scale: second ?? (first === undefined ? 2 : 0) }
  if (word === 'text') return first === undefined ? { kind: 'text' } : { kind: 'text', length: first }
  if (word === 'char') return { kind: 'char', length: first ?? 1 }
  if (word === 'timestamp') return { kind: 'timestamp', zone: false }
  const plain = PLAIN_WORDS.find((kind) => kind === word)
  return plain && { kind: plain }
}

function limitsOf(kind: Type['kind']): string {
  if (kind === 'decimal') return 'a decimal has 1 to 38 digits, and no more of them after the point than in all'
  if (kind === 'char') return 'a char is 1 to 255 characters long; use text(n) for more'
  return 'a text with a length is 1 to 65535 characters long; use text for more'
}

/** At most 40 characters of what a person typed, for a message. */
export function shorten(text: string): string {
  return text.length > 40 ? `${text.slice(0, 39)}…` : text
}

/** True where two types are the same in every part. */
export function sameType(a: Type, b: Type): boolean {
  return typeText(a) === typeText(b)
}
