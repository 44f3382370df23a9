import { canonicalJson } from '../../design/json.ts'
import type { Type } from '../../design/type.ts'
import { normalValue, type Value } from '../../design/value.ts'
import { meaning } from '../../sql/print.ts'
import { NotAnExpression, parseExpression } from '../../sql/parse.ts'
import type { TypeTable } from '../facts.ts'
import { bytesOr, numberOr, quoteText, quoteUnless } from '../quote.ts'
import { RESERVED } from './reserved.ts'

export const quote = quoteUnless(RESERVED)

export const TYPES: TypeTable = {
  integer: ({ size }) => ({ sql: size === 'small' ? 'smallint' : size === 'big' ? 'bigint' : 'integer' }),
  decimal: ({ precision, scale }) => ({ sql: `numeric(${precision},${scale})` }),
  float: () => ({ sql: 'double precision' }),
  boolean: () => ({ sql: 'boolean' }),
  text: ({ length }) => ({ sql: length === undefined ? 'text' : `varchar(${length})` }),
  char: ({ length }) => ({ sql: `char(${length})` }),
  date: () => ({ sql: 'date' }),
  time: () => ({ sql: 'time' }),
  timestamp: ({ zone }) => ({ sql: zone ? 'timestamptz' : 'timestamp' }),
  interval: () => ({ sql: 'interval' }),
  uuid: () => ({ sql: 'uuid' }),
  json: () => ({ sql: 'jsonb' }),
  binary: ({ length }) =>
    length === undefined
      ? { sql: 'bytea' }
      : { sql: 'bytea', holds: (column) => `octet_length(${column}) <= ${length}` },
  enum: (_, { listName }) => ({ sql: quote(listName) })
}

/** The types as format_type() of the engine prints them, where it is not as they are written here. */
const PRINTED: [RegExp, string][] = [
  [/^character varying/, 'varchar'],
  [/^character\b/, 'char'],
  [/^timestamp without time zone$/, 'timestamp'],
  [/^timestamp with time zone$/, 'timestamptz'],
  [/^time without time zone$/, 'time']
]

/** The engine's own other names of types (PostgreSQL manual, 8). */
const ALIASES: Record<string, string> = {
  int: 'integer',
  int2: 'smallint',
  int4: 'integer',
  int8: 'bigint',
  bool: 'boolean',
  decimal: 'numeric',
  float8: 'double precision',
  float4: 'real',
  bpchar: 'char'
}

/** A type as a person may have spelled it, in the spelling that {@link TYPES} writes. */
export function oneType(sql: string): string {
  if (sql.startsWith('"')) return sql
  const plain = fromPrinted(sql.toLowerCase())
  return plain.replace(/^\w+/, (word) => ALIASES[word] ?? word)
}

/** A type as the engine prints it, in the spelling that {@link TYPES} writes. */
export function fromPrinted(type: string): string {
  return PRINTED.reduce((text, [pattern, plain]) => text.replace(pattern, plain), type)
}

export function literal(given: Value, type: Type): string {
  if (given === null) return 'NULL'
  const value = normalValue(given, type)
  switch (type.kind) {
    case 'boolean':
      return value ? 'true' : 'false'
    case 'binary':
      return bytesOr(quoteText, value, (digits) => `'\\x${digits}'`)
    case 'integer':
    case 'decimal':
    case 'float':
      return numberOr(quoteText, value)
    case 'timestamp':
      return quoteText(type.zone ? `${String(value)}+00` : String(value))
    default:
      return quoteText(String(value))
  }
}

export function now(type: Type): string {
  if (type.kind === 'date') return 'CURRENT_DATE'
  if (type.kind === 'time') return 'LOCALTIME'
  return type.kind === 'timestamp' && type.zone ? 'CURRENT_TIMESTAMP' : 'LOCALTIMESTAMP'
}

/** The functions of expressions in this dialect; those that are not here are called as they are. */
/** A part of a moment; of a day as of its first moment. */
const partOf =
  (part: string) =>
  ([moment = '']: readonly string[]): string =>
    `date_part('${part}', (${moment})::timestamp)::integer`

export const CALLS: Record<string, (args: readonly string[]) => string> = {
  trim: ([text = '']) => `btrim(${text})`,
  length: ([text = '']) => `char_length(${text})`,
  substring: (args) => `substr(${args.join(', ')})`,
  now: () => 'CURRENT_TIMESTAMP',
  today: () => 'CURRENT_DATE',
  new_uuid: () => 'gen_random_uuid()',
  current_user: () => 'CURRENT_USER',
  ...Object.fromEntries(['year', 'month', 'day', 'hour', 'minute'].map((part) => [part, partOf(part)])),
  weekday: partOf('isodow'),
  // Empty, and no error, where it was not set (PostgreSQL manual, 9.27).
  setting: ([name = '']) => `current_setting(${name}, true)`,
  whole: ([text = '']) => `(${text})::bigint`
}

/**
 * An expression in one spelling, whether it was written here or printed by the engine; what cannot be read
 * stays as it is.
 */
export function oneExpression(sql: string): string {
  try {
    return meaning(
      parseExpression(sql, { printed: { spelling: { brackets: false, backslash: false }, functions: {} } })
    )
  } catch (error) {
    if (error instanceof NotAnExpression) return sql
    throw error
  }
}

/**
 * A default as the engine prints it, in the spelling that it was written in: the engine adds the type
 * behind a literal (`'oiled'::text`), puts negative numbers in quotes, and prints instants and JSON anew.
 * That is no difference; a default that is missing or another is.
 */
export function fromPrintedDefault(printed: string | null, type: string): string | undefined {
  if (printed === null) return undefined
  const text = printed.replace(/^\((.*)\)$/s, '$1')
  const cast =
    /^('(?:[^']|'')*')::(?:[\p{L}_][\p{L}\p{N}_$ ]*|"(?:[^"]|"")*")(?:\(\d+(?:,\s*\d+)?\))?(?:\s+(?:with|without) time zone)?$/su.exec(
      text
    )
  const bare = cast?.[1] ?? text.replace(/^(-?\d[\d.]*(?:e[+-]?\d+)?)::[a-z ]+(?:\([\d,]+\))?$/i, '$1')
  // What is worked out stays as the engine printed it until it is compared.
  return /^(?:'|-?[\d.]+(?:e[-+]?\d+)?$)/i.test(bare) ? canonicalDefault(bare, type) : bare
}

const NUMERIC = /^(smallint|integer|bigint|numeric|double precision)/

/**
 * One spelling for defaults that mean the same to the engine; applied to what is written and to what is
 * read back.
 */
export function canonicalDefault(sql: string, type: string): string {
  const inside = /^'((?:[^']|'')*)'$/s.exec(sql)?.[1]
  if (NUMERIC.test(type) && (inside !== undefined || /^-?[\d.]+(e[+-]?\d+)?$/i.test(sql))) {
    const number = inside ?? sql
    return type === 'double precision' ? String(Number(number)) : number
  }
  if (inside === undefined) return oneExpression(sql)
  if (type.startsWith('char(')) return `'${inside.replace(/ +$/, '')}'`
  if (type === 'timestamptz') return `'${inside.replace(/\+00(?::00)?$/, '')}+00'`
  if (type === 'jsonb') return quoteText(canonicalJson(inside.replaceAll("''", "'")))
  return sql
}

/** A conversion between any two types: straight where the engine has a cast, else by way of text. */
export function cast(expression: string, from: string, to: string): string {
  const number = /^(smallint|integer|bigint|numeric|double precision)/
  const text = /^(text|varchar|char)/
  // A cast to a shorter text would cut it without a word; what is assigned is refused.
  if (text.test(to)) return `${expression}::text`
  if ((number.test(from) && number.test(to)) || (/^timestamp/.test(from) && /^(timestamp|date)/.test(to)))
    return `${expression}::${to}`
  if (from === 'boolean' && number.test(to)) return `${expression}::integer::${to}`
  return `${expression}::text::${to}`
}
