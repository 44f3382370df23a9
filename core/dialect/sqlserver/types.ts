import type { Type } from '../../design/type.ts'
import { normalValue, type Value } from '../../design/value.ts'
import type { TypeTable } from '../facts.ts'
import { bytesOr, numberOr, quoteText as quoteStandard, quoteUnless } from '../quote.ts'
import { RESERVED } from './reserved.ts'

export const quote = quoteUnless(RESERVED, '[', ']')

/** A line that the client takes for the end of a batch, wherever it stands. */
const BATCH = /^[ \t]*GO[ \t]*\d*[ \t]*$/im
export const endsBatch = (text: string): boolean => text.includes('\n') && BATCH.test(text)

/** A text in any script; its lines are put together where one would end a batch. */
export function quoteText(text: string): string {
  const plain = (part: string): string => `N${quoteStandard(part)}`
  return endsBatch(text) ? `(${text.split('\n').map(plain).join(' + nchar(10) + ')})` : plain(text)
}

/** A key in a nonclustered index has at most 1,700 bytes; a character of nvarchar has two. */
const keyText = (inKey: number): number => Math.floor(850 / Math.max(inKey, 1))
const LONGEST = { text: 4000, bytes: 8000 }

/** What is computed is cut where it is made a value of its column; blanks at the end count. */
const atMost =
  (length: number) =>
  (computed: string): string =>
    `len(${computed} + N'.') - 1 <= ${length}`

export const TYPES: TypeTable = {
  integer: ({ size }) => ({ sql: size === 'small' ? 'smallint' : size === 'big' ? 'bigint' : 'int' }),
  decimal: ({ precision, scale }) => ({ sql: `decimal(${precision},${scale})` }),
  float: () => ({ sql: 'float(53)' }),
  boolean: () => ({
    sql: 'bit',
    loss: 'SQL Server has no truth values of its own: they are kept as the bits 0 and 1.'
  }),
  text: ({ length }, { inKey }) => {
    if (length === undefined)
      return inKey > 0
        ? {
            sql: `nvarchar(${keyText(inKey)})`,
            loss: 'SQL Server needs a length for a text in a key or an index: it gets the longest that fits.',
            atMost: keyText(inKey),
            holdsComputed: atMost(keyText(inKey))
          }
        : { sql: 'nvarchar(max)' }
    return length <= LONGEST.text
      ? { sql: `nvarchar(${length})`, holdsComputed: atMost(length) }
      : { sql: 'nvarchar(max)', holds: (column) => `len(${column}) <= ${length}` }
  },
  char: ({ length }) => ({ sql: `nchar(${length})`, holdsComputed: atMost(length) }),
  date: () => ({ sql: 'date' }),
  time: () => ({ sql: 'time' }),
  timestamp: ({ zone }) => ({ sql: zone ? 'datetimeoffset' : 'datetime2' }),
  interval: () => ({
    sql: 'nvarchar(40)',
    loss: 'SQL Server has no intervals: they are kept as text, in ISO 8601.'
  }),
  uuid: () => ({ sql: 'uniqueidentifier' }),
  json: (_, { inKey }) => ({
    sql: inKey > 0 ? `nvarchar(${keyText(inKey)})` : 'nvarchar(max)',
    ...(inKey > 0 && { atMost: keyText(inKey) }),
    holds: (column) => `isjson(${column}) = 1`
  }),
  binary: ({ length }, { inKey }) => {
    if (length === undefined)
      return inKey > 0
        ? {
            sql: `varbinary(${keyText(inKey)})`,
            loss: 'SQL Server needs a length for bytes in a key or an index: they get the longest that fits.',
            atMost: keyText(inKey)
          }
        : { sql: 'varbinary(max)' }
    return length <= LONGEST.bytes
      ? { sql: `varbinary(${length})` }
      : { sql: 'varbinary(max)', holds: (column) => `datalength(${column}) <= ${length}` }
  },
  enum: (_, { values }) => ({
    // Lengths are in UTF-16 units.
    sql: `nvarchar(${Math.max(1, ...values.map((value) => value.length))})`,
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
      return bytesOr(quoteText, value, (digits) => `0x${digits}`)
    case 'integer':
    case 'decimal':
    case 'float':
      return numberOr(quoteText, value)
    case 'date':
    case 'time':
    case 'uuid':
      return quoteStandard(String(value))
    case 'timestamp':
      return quoteStandard(`${String(value).replace(' ', 'T')}${type.zone ? '+00:00' : ''}`)
    default:
      return quoteText(String(value))
  }
}

export function now(type: Type): string {
  if (type.kind === 'date') return 'CAST(sysdatetime() AS date)'
  if (type.kind === 'time') return 'CAST(sysdatetime() AS time)'
  return type.kind === 'timestamp' && type.zone ? 'sysdatetimeoffset()' : 'sysdatetime()'
}

export const CALLS: Record<string, (args: readonly string[]) => string> = {
  // The function leaves out blanks at the end.
  length: ([text = '']) => `(len(${text} + N'.') - 1)`,
  substring: (args) =>
    `substring(${args.length === 2 ? [...args, String(LONGEST.bytes)].join(', ') : args.join(', ')})`,
  round: ([number = '']) => `round(${number}, 0)`,
  now: () => 'sysdatetimeoffset()',
  today: () => 'CAST(sysdatetime() AS date)',
  new_uuid: () => 'newid()',
  current_user: () => 'CURRENT_USER',
  ...Object.fromEntries(
    ['year', 'month', 'day', 'hour', 'minute'].map((part) => [
      part,
      ([moment = '']: readonly string[]) => `datepart(${part}, ${moment})`
    ])
  ),
  // With which day a week begins is the session's choice; the first day of 1900 was a Monday.
  weekday: ([moment = '']) => `((datediff(day, datefromparts(1900, 1, 1), ${moment}) % 7 + 7) % 7 + 1)`,
  setting: ([name = '']) => `CAST(session_context(${name}) AS nvarchar(4000))`,
  whole: ([text = '']) => `CAST(${text} AS bigint)`
}

/**
 * Dates and moments in what is computed and kept must be the same whoever reads them (Msg 4936): they are put
 * together of numbers, since what a text means hangs on the session.
 */
export function computedLiteral(given: Value, type: Type): string {
  if (given === null) return literal(given, type)
  const numbers = String(normalValue(given, type)).match(/\d+/g)?.map(Number) ?? []
  const [fraction = 0, digits = 0] = numbers.length > 6 ? [numbers[6], String(numbers[6]).length] : []
  if (numbers.length < 3) return literal(given, type)
  const list = (count: number, ...more: number[]): string => [...numbers.slice(0, count), ...more].join(', ')
  if (type.kind === 'date') return `datefromparts(${list(3)})`
  if (type.kind === 'time') return `timefromparts(${list(3, 0, 0)})`
  if (type.kind !== 'timestamp' || numbers.length < 6) return literal(given, type)
  return type.zone
    ? `datetimeoffsetfromparts(${list(6, fraction, 0, 0, digits)})`
    : `datetime2fromparts(${list(6, fraction, digits)})`
}
