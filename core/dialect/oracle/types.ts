import type { Type } from '../../design/type.ts'
import { intervalSeconds, normalValue, type Value } from '../../design/value.ts'
import type { TypeTable } from '../facts.ts'
import { bytesOr, numberOr, quoteText, quoteUnless } from '../quote.ts'
import { RESERVED } from './reserved.ts'

/** A name without quotes begins with a letter. */
export const quote = quoteUnless(RESERVED, '"', '"', /^[a-z][a-z0-9_]*$/)

/** The longest varchar2 and raw of a database that was not told to take longer ones. */
const LONGEST = { text: 1000, bytes: 2000 }

/** What is computed is cut where it is made a value of its column. */
const atMost =
  (length: number) =>
  (computed: string): string =>
    `length(${computed}) <= ${length}`

export const TYPES: TypeTable = {
  integer: ({ size }) => ({ sql: `number(${size === 'small' ? 5 : size === 'normal' ? 10 : 19})` }),
  decimal: ({ precision, scale }) => ({ sql: `number(${precision},${scale})` }),
  float: () => ({ sql: 'binary_double' }),
  boolean: () => ({
    sql: 'number(1)',
    loss: 'Oracle before 23 has no truth values: they are kept as the numbers 0 and 1.',
    holds: (column) => `${column} IN (0, 1)`
  }),
  text: ({ length }, { inKey }) => {
    const longest = inKey > 0 ? Math.floor(LONGEST.text / inKey) : LONGEST.text
    if (length === undefined)
      return inKey > 0
        ? {
            sql: `varchar2(${longest} char)`,
            holdsComputed: atMost(longest),
            loss: 'Oracle needs a length for a text in a key or an index.',
            atMost: longest
          }
        : { sql: 'clob' }
    return length <= LONGEST.text
      ? { sql: `varchar2(${length} char)`, holdsComputed: atMost(length) }
      : { sql: 'clob', holds: (column) => `length(${column}) <= ${length}` }
  },
  char: ({ length }) => ({ sql: `char(${length} char)`, holdsComputed: atMost(length) }),
  date: () => ({
    sql: 'date',
    loss: 'A date in Oracle has a time of day as well: midnight, where nothing else is said.'
  }),
  time: () => ({
    sql: 'varchar2(8)',
    loss: 'Oracle has no time of day: it is kept as text, as in 07:40:00.'
  }),
  timestamp: ({ zone }) => ({ sql: zone ? 'timestamp with time zone' : 'timestamp' }),
  interval: () => ({ sql: 'interval day(9) to second' }),
  uuid: () => ({ sql: 'raw(16)', loss: 'Oracle has no uuid: it is kept as sixteen bytes.' }),
  json: (_, { inKey }) => ({
    sql: inKey > 0 ? `varchar2(${Math.floor(LONGEST.text / inKey)} char)` : 'clob',
    ...(inKey > 0 && { atMost: Math.floor(LONGEST.text / inKey) }),
    holds: (column) => `${column} IS JSON`
  }),
  binary: ({ length }, { inKey }) => {
    if (length === undefined)
      return inKey > 0
        ? {
            sql: `raw(${Math.floor(LONGEST.bytes / inKey)})`,
            loss: 'Oracle needs a length for bytes in a key or an index.',
            atMost: Math.floor(LONGEST.bytes / inKey)
          }
        : { sql: 'blob' }
    return length <= LONGEST.bytes
      ? { sql: `raw(${length})` }
      : { sql: 'blob', holds: (column) => `length(${column}) <= ${length}` }
  },
  enum: (_, { values }) => ({
    sql: `varchar2(${Math.max(1, ...values.map((value) => [...value].length))} char)`,
    holds: (column) => `${column} IN (${values.map(quoteText).join(', ')})`
  })
}

export function literal(given: Value, type: Type): string {
  if (given === null) return 'NULL'
  const value = normalValue(given, type)
  switch (type.kind) {
    case 'boolean':
      return value ? '1' : '0'
    case 'binary':
      return bytesOr(quoteText, value, (digits) => `hextoraw('${digits}')`)
    case 'uuid':
      return `hextoraw(${quoteText(String(value).replaceAll('-', ''))})`
    case 'integer':
    case 'decimal':
    case 'float':
      return numberOr(quoteText, value)
    case 'date':
      return `DATE ${quoteText(String(value))}`
    case 'timestamp':
      return `TIMESTAMP ${quoteText(`${String(value)}${type.zone ? ' +00:00' : ''}`)}`
    case 'interval':
      return interval(String(value))
    default:
      return inPieces(String(value))
  }
}

/** The client takes lines of up to 2,499 characters, and the engine texts of up to 4,000 bytes in quotes. */
const PIECE = 500

function inPieces(text: string): string {
  const characters = [...text]
  if (characters.length <= PIECE) return quoteText(text)
  const pieces: string[] = []
  for (let at = 0; at < characters.length; at += PIECE)
    pieces.push(quoteText(characters.slice(at, at + PIECE).join('')))
  const isLarge = characters.length > LONGEST.text
  return `(${pieces.map((piece) => (isLarge ? `to_clob(${piece})` : piece)).join(' ||\n    ')})`
}

/** `INTERVAL '2 03:00:00' DAY(9) TO SECOND`. */
function interval(text: string): string {
  const total = intervalSeconds(text)
  if (total === undefined) return quoteText(text)
  const two = (n: number): string => String(n).padStart(2, '0')
  return `INTERVAL '${Math.floor(total / 86_400)} ${two(Math.floor(total / 3600) % 24)}:${two(Math.floor(total / 60) % 60)}:${two(total % 60)}' DAY(9) TO SECOND`
}

export function now(type: Type): string {
  if (type.kind === 'date') return 'trunc(sysdate)'
  if (type.kind === 'time') return "to_char(sysdate, 'HH24:MI:SS')"
  return type.kind === 'timestamp' && type.zone ? 'systimestamp' : 'localtimestamp'
}

export const CALLS: Record<string, (args: readonly string[]) => string> = {
  substring: (args) => `substr(${args.join(', ')})`,
  now: () => 'systimestamp',
  today: () => 'trunc(sysdate)',
  new_uuid: () => 'sys_guid()',
  current_user: () => 'user',
  ...Object.fromEntries(
    ['year', 'month', 'day', 'hour', 'minute'].map((part) => [
      part,
      // A day has no hours there, but as a moment.
      ([moment = '']: readonly string[]) => `extract(${part} FROM CAST(${moment} AS timestamp))`
    ])
  ),
  // A week of the standard begins with Monday.
  weekday: ([moment = '']) => `(trunc(CAST(${moment} AS date)) - trunc(CAST(${moment} AS date), 'IW') + 1)`,
  // What was set under a name of two words is in a context of the first.
  setting: ([name = '']) =>
    `sys_context(${name
      .split('.')
      .map((word) => `'${word.replaceAll("'", '')}'`)
      .join(', ')})`,
  whole: ([text = '']) => `to_number(${text})`
}
