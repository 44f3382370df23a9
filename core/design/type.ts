import { z } from 'zod'
import { ownWords } from './spellings.ts'

/** The logical types a column can have. Each dialect maps every one of them (core/dialect). */
export const typeSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('integer'), size: z.enum(['small', 'normal', 'big']) }),
  z
    .strictObject({
      kind: z.literal('decimal'),
      precision: z.int().min(1).max(38),
      scale: z.int().min(0).max(38)
    })
    .refine((t) => t.scale <= t.precision, { error: 'the scale may not be larger than the precision' }),
  z.strictObject({ kind: z.literal('float') }),
  z.strictObject({ kind: z.literal('boolean') }),
  z.strictObject({ kind: z.literal('text'), length: z.int().min(1).max(65_535).optional() }),
  z.strictObject({ kind: z.literal('char'), length: z.int().min(1).max(255) }),
  z.strictObject({ kind: z.literal('date') }),
  z.strictObject({ kind: z.literal('time') }),
  z.strictObject({ kind: z.literal('timestamp'), zone: z.boolean() }),
  z.strictObject({ kind: z.literal('interval') }),
  z.strictObject({ kind: z.literal('uuid') }),
  z.strictObject({ kind: z.literal('json') }),
  z.strictObject({ kind: z.literal('binary'), length: z.int().min(1).max(65_535).optional() }),
  /** One of a list of values that has a name of its own and is shared by columns; by the list's id. */
  z.strictObject({ kind: z.literal('enum'), enum: z.string().regex(/^[a-z]{1,4}_[a-z0-9_]{1,40}$/) }),
  /** As an engine spells it, by the dialect's name; `any` is for all that have no word of their own. */
  z.strictObject({
    kind: z.literal('native'),
    spelled: z.record(
      z.string().regex(/^[a-z]{1,20}$/),
      z.string().refine((text) => nativeFlaw(text) === undefined, { error: 'is not the name of a type' })
    )
  })
])
export type Type = z.infer<typeof typeSchema>

/** Whether the values of a type are numbers. */
export const isNumeric = ({ kind }: Type): boolean =>
  kind === 'integer' || kind === 'decimal' || kind === 'float'

/** A list of values with a name, as far as writing a type needs it. */
export interface NamedValues {
  id: string
  name: string
  values: readonly string[]
}

const SENSE = new Set([
  'not',
  'null',
  'default',
  'primary',
  'key',
  'unique',
  'check',
  'references',
  'generated',
  'constraint',
  'as',
  'identity',
  'autoincrement',
  'auto_increment',
  'comment',
  'on',
  'collate'
])

/**
 * Why a text cannot stand as an engine's own type: it is words and lengths, and nothing that could end the
 * type and begin something else.
 */
export function nativeFlaw(text: string): string | undefined {
  if (
    text.length > 80 ||
    !/^[a-z_][\w ]*(?:\(\s*(?:\d+|max)\s*(?:,\s*\d+\s*)?\))?[\w ]*(?:\[\d*\])*$/i.test(text)
  )
    return 'an engine\u2019s own type is words and lengths, such as tsvector or varchar(20)'
  const other = text
    .toLowerCase()
    .split(/\W+/)
    .find((word) => SENSE.has(word))
  return other && `${other} is no part of a type`
}

const INTEGER_WORDS: Record<string, 'small' | 'normal' | 'big'> = {
  smallint: 'small',
  integer: 'normal',
  int: 'normal',
  bigint: 'big'
}
const PLAIN_WORDS = ['float', 'boolean', 'date', 'time', 'interval', 'uuid', 'json'] as const
const NOT_A_TYPE = 'is not a type. Try integer, text(120), decimal(8,2), boolean, date or timestamp.'

/**
 * A type as it is written in a sheet: `decimal(8,2)`, `text(120)`, `timestamp zone`, `enum housing`.
 * Inverse of {@link parseType}.
 */
export function typeText(type: Type, enums: readonly NamedValues[] = []): string {
  switch (type.kind) {
    case 'integer':
      return type.size === 'small' ? 'smallint' : type.size === 'big' ? 'bigint' : 'integer'
    case 'decimal':
      return `decimal(${type.precision},${type.scale})`
    case 'text':
      return type.length === undefined ? 'text' : `text(${type.length})`
    case 'char':
      return `char(${type.length})`
    case 'binary':
      return type.length === undefined ? 'binary' : `binary(${type.length})`
    case 'timestamp':
      return type.zone ? 'timestamp zone' : 'timestamp'
    case 'enum':
      return `enum ${enums.find((each) => each.id === type.enum)?.name ?? type.enum}`
    case 'native':
      return `native ${nativeText(type.spelled)}`
    default:
      return type.kind
  }
}

function nativeText(spelled: Readonly<Record<string, string>>): string {
  const words = Object.entries(spelled)
  const [only] = words
  return words.length === 1 && only?.[0] === 'any'
    ? only[1]
    : words.map(([dialect, text]) => (dialect === 'any' ? text : `${dialect}: ${text}`)).join('; ')
}

export type Parsed<T> = { ok: true; value: T } | { ok: false; message: string }

/**
 * Reads a type as a person types it; spaces and letter case do not matter. A list of values is named
 * with or without `enum` before it; an engine's own type stands behind `native`, for all dialects or,
 * with semicolons between, for each (`native tsvector`, `native mariadb: longtext; text`). What an engine
 * calls one of the design's types is known as that (`varchar(20)`, `int(11)`).
 * Refuses with a sentence that names what was typed and what would do.
 */
export function parseType(text: string, enums: readonly NamedValues[] = []): Parsed<Type> {
  const parsed = parseOwn(text, enums)
  const own = parsed.ok ? undefined : ownWords(text)
  return own === undefined ? parsed : parseOwn(own, enums)
}

function parseOwn(text: string, enums: readonly NamedValues[]): Parsed<Type> {
  const trimmed = text.trim()
  const native = /^native\b\s*(.*)$/is.exec(trimmed)
  if (native) return parseNative(native[1] ?? '')
  const named = enums.find(
    (each) => each.name.toLowerCase() === trimmed.toLowerCase().replace(/^enum\s+/, '')
  )
  const match =
    /^([a-z]+)\s*(?:\(\s*(-?\d+)\s*(?:,\s*(-?\d+)\s*)?\))?(?:[\s,]+(?:with\s+)?(zone|time zone))?$/.exec(
      trimmed.toLowerCase().replaceAll(/\s+/g, ' ')
    )
  const [, word = '', first, second, zone] = match ?? []
  const found =
    match &&
    typeFor(
      word,
      first === undefined ? undefined : Number(first),
      second === undefined ? undefined : Number(second)
    )
  if (named && !found) return { ok: true, value: { kind: 'enum', enum: named.id } }
  if (/^enum\b/i.test(trimmed))
    return {
      ok: false,
      message: `There is no list of values called ${shorten(trimmed.slice(4).trim())}. To make one, type its values: one of calm, wary, fierce.`
    }
  if (!found) return { ok: false, message: `“${shorten(text)}” ${NOT_A_TYPE}` }
  if (zone) {
    if (found.kind !== 'timestamp')
      return { ok: false, message: `Only a timestamp has a zone, ${word} has none.` }
    found.zone = true
  }
  const takesNumbers =
    found.kind === 'decimal' || found.kind === 'text' || found.kind === 'char' || found.kind === 'binary'
  if (first !== undefined && !takesNumbers) return { ok: false, message: `${word} takes no length.` }
  if (second !== undefined && found.kind !== 'decimal')
    return { ok: false, message: `${word} takes one number, its length.` }
  const checked = typeSchema.safeParse(found)
  if (checked.success) return { ok: true, value: checked.data }
  return { ok: false, message: `“${shorten(text)}” cannot be: ${limitsOf(found.kind)}.` }
}

function parseNative(text: string): Parsed<Type> {
  const spelled: Record<string, string> = {}
  for (const part of text.split(';')) {
    const [, dialect = 'any', word = ''] = /^\s*(?:([a-z]+)\s*:)?\s*(.*?)\s*$/is.exec(part) ?? []
    const flaw = nativeFlaw(word)
    if (flaw) return { ok: false, message: `“${shorten(word)}” cannot be: ${flaw}.` }
    spelled[dialect.toLowerCase()] = word
  }
  return { ok: true, value: { kind: 'native', spelled } }
}

function typeFor(word: string, first?: number, second?: number): Type | undefined {
  const size = Object.hasOwn(INTEGER_WORDS, word) ? INTEGER_WORDS[word] : undefined
  if (size) return { kind: 'integer', size }
  if (word === 'decimal')
    return { kind: 'decimal', precision: first ?? 10, scale: second ?? (first === undefined ? 2 : 0) }
  if (word === 'text') return first === undefined ? { kind: 'text' } : { kind: 'text', length: first }
  if (word === 'char') return { kind: 'char', length: first ?? 1 }
  if (word === 'binary') return first === undefined ? { kind: 'binary' } : { kind: 'binary', length: first }
  if (word === 'timestamp') return { kind: 'timestamp', zone: false }
  const plain = PLAIN_WORDS.find((kind) => kind === word)
  return plain && { kind: plain }
}

function limitsOf(kind: Type['kind']): string {
  if (kind === 'decimal')
    return 'a decimal has 1 to 38 digits, and no more of them after the point than in all'
  if (kind === 'char') return 'a char is 1 to 255 characters long; use text(n) for more'
  if (kind === 'binary') return 'bytes with a length are 1 to 65535; use binary for more'
  return 'a text with a length is 1 to 65535 characters long; use text for more'
}

/**
 * At most so many characters of what a person typed, or a file said, for a message: what no screen shows
 * is left out.
 */
export function shorten(text: string, most = 40): string {
  const some = text.length > most ? `${text.slice(0, most - 1)}…` : text
  return some.toWellFormed().replaceAll(UNSEEN, '\ufffd')
}
// eslint-disable-next-line no-control-regex
const UNSEEN = /[\u0000-\u001f\u007f-\u009f\u2028\u2029\u202a-\u202e\u2066-\u2069]/g

/** True where two types are the same in every part. */
export function sameType(a: Type, b: Type): boolean {
  return a === b || typeText(a) === typeText(b)
}
