import { canonicalJson } from '../../design/json.ts'
import type { Type } from '../../design/type.ts'
import { normalValue, type Value } from '../../design/value.ts'
import { NotAnExpression, parseExpression } from '../../sql/parse.ts'
import { meaning } from '../../sql/print.ts'
import type { TypeTable } from '../facts.ts'
import { bytesOr, numberOr, quoteText as quoteStandard, quoteUnless } from '../quote.ts'
import { RESERVED as KEPT_BY_MYSQL } from '../mysql/reserved.ts'
import { RESERVED } from './reserved.ts'

/** What either of the two engines that write names so keeps for itself is quoted in both. */
export const quote = quoteUnless(new Set([...RESERVED, ...KEPT_BY_MYSQL]), '`')

/** A backslash begins an escape unless the server is told otherwise, so it is doubled as well. */
export const quoteText = (text: string): string => quoteStandard(text.replaceAll('\\', '\\\\'))

/** The longest key of InnoDB in bytes; a character of utf8mb4 counts four. */
export const KEY_BYTES = 3072
/**
 * Longer texts are kept beside the row, and held to their length by a check: all columns of a row share
 * 65,535 bytes.
 */
const LONGEST_VARCHAR = 1000

const keyText = (inKey: number): number => Math.floor(KEY_BYTES / 4 / inKey)

/** What is computed is worked out when it is read, and cut then. */
const atMost =
  (length: number) =>
  (computed: string): string =>
    `char_length(${computed}) <= ${length}`

/** `uuids`: whether there is a type for them (MariaDB: from 10.7 on). */
export const typesFor = (title: string, uuids: boolean): TypeTable => ({
  integer: ({ size }) => ({ sql: size === 'small' ? 'smallint' : size === 'big' ? 'bigint' : 'int' }),
  decimal: ({ precision, scale }) => ({ sql: `decimal(${precision},${scale})` }),
  float: () => ({ sql: 'double' }),
  boolean: () => ({
    sql: 'tinyint(1)',
    loss: `${title} has no truth values of its own: they are kept as the numbers 0 and 1.`
  }),
  text: ({ length }, { inKey }) => {
    if (length !== undefined && (length <= LONGEST_VARCHAR || inKey > 0))
      return { sql: `varchar(${length})`, holdsComputed: atMost(length) }
    if (length !== undefined)
      return { sql: 'longtext', holds: (column) => `char_length(${column}) <= ${length}` }
    return inKey > 0
      ? {
          sql: `varchar(${keyText(inKey)})`,
          loss: `${title} needs a length for a text in a key or an index: it gets the longest that fits.`,
          atMost: keyText(inKey)
        }
      : { sql: 'longtext' }
  },
  char: ({ length }) => ({ sql: `char(${length})`, holdsComputed: atMost(length) }),
  date: () => ({ sql: 'date' }),
  time: () => ({ sql: 'time(6)' }),
  timestamp: ({ zone }) => ({
    sql: 'datetime(6)',
    ...(zone && { loss: `${title} keeps no zone with a moment: what is written must be in UTC.` })
  }),
  interval: () => ({
    sql: 'varchar(40)',
    loss: `${title} has no intervals: they are kept as text, in ISO 8601.`
  }),
  uuid: () =>
    uuids
      ? { sql: 'uuid' }
      : {
          sql: 'char(36)',
          loss: `${title} has no uuid: it is kept as text, in small letters.`,
          holds: (column) => `${column} REGEXP '^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$'`
        },
  json: (_, { inKey }) => ({
    sql: inKey > 0 ? `varchar(${keyText(inKey)})` : 'longtext',
    ...(inKey > 0 && { atMost: keyText(inKey) }),
    holds: (column) => `json_valid(${column})`
  }),
  binary: ({ length }, { inKey }) => {
    if (length !== undefined && (length <= LONGEST_VARCHAR || inKey > 0))
      return {
        sql: `varbinary(${length})`,
        holdsComputed: (computed) => `octet_length(${computed}) <= ${length}`
      }
    if (length !== undefined)
      return { sql: 'longblob', holds: (column) => `octet_length(${column}) <= ${length}` }
    return inKey > 0
      ? {
          sql: `varbinary(${keyText(inKey)})`,
          loss: `${title} needs a length for bytes in a key or an index: they get the longest that fits.`,
          atMost: keyText(inKey)
        }
      : { sql: 'longblob' }
  },
  enum: (_, { values }) => ({ sql: `enum(${values.map(quoteText).join(',')})` })
})

export function literal(given: Value, type: Type): string {
  if (given === null) return 'NULL'
  const value = normalValue(given, type)
  switch (type.kind) {
    case 'boolean':
      return value ? '1' : '0'
    // A literal in hexadecimal is printed back as the bytes themselves, whatever they look like.
    case 'binary':
      return bytesOr(quoteText, value, (digits) => `unhex('${digits}')`)
    case 'integer':
    case 'decimal':
    case 'float':
      return numberOr(quoteText, value)
    default:
      return quoteText(String(value))
  }
}

export function now(type: Type): string {
  if (type.kind === 'date') return '(curdate())'
  if (type.kind === 'time') return '(curtime(6))'
  return type.kind === 'timestamp' && type.zone ? '(utc_timestamp(6))' : 'current_timestamp(6)'
}

export const CALLS: Record<string, (args: readonly string[]) => string> = {
  length: ([text = '']) => `char_length(${text})`,
  substring: (args) => `substr(${args.join(', ')})`,
  // Where there is nothing to replace, the engine does not see that what is to be put there is empty.
  replace: ([text = '', part = '', by = '']) =>
    by.startsWith("'")
      ? `replace(${text}, ${part}, ${by})`
      : `CASE WHEN ${by} IS NULL THEN NULL ELSE replace(${text}, ${part}, ${by}) END`,
  now: () => 'utc_timestamp(6)',
  today: () => 'curdate()',
  new_uuid: () => 'uuid()',
  current_user: () => 'current_user()',
  day: ([moment = '']) => `dayofmonth(${moment})`,
  weekday: ([moment = '']) => `weekday(${moment}) + 1`,
  whole: ([text = '']) => `CAST(${text} AS SIGNED)`
}

/** An expression in one spelling, whether it was written here or printed by the engine. */
export function oneExpression(sql: string): string {
  try {
    return meaning(
      parseExpression(sql, {
        printed: {
          spelling: { brackets: false, backslash: true },
          functions: {
            concat: '||',
            curdate: 'today',
            current_date: 'today',
            lcase: 'lower',
            ucase: 'upper',
            octet_length: 'octet_length',
            rtrim: 'rtrim'
          }
        }
      })
    )
  } catch (error) {
    if (error instanceof NotAnExpression) return plainSpelling(sql)
    throw error
  }
}

/** What is none of a design's expressions: names without quotes where they need none, words in small letters. */
const plainSpelling = (sql: string): string =>
  sql.replaceAll(/'(?:[^'\\]|''|\\.)*'|`(\w+)`|[A-Z]+/g, (part, name?: string) =>
    part.startsWith("'") ? part : (name ?? part.toLowerCase())
  )

/**
 * The catalog keeps characters outside the Basic Multilingual Plane, and prints a question mark, or four,
 * for each other.
 */
export const asPrinted = (text: string): string =>
  text.replaceAll(/[\u{10000}-\u{10ffff}]/gu, '?').replaceAll(/\?+/g, '?')

/**
 * One spelling for defaults: numbers without the zeros that the engine adds, JSON in order, the rest as it
 * stands.
 */
export function oneDefault(sql: string, type: string): string {
  const bare = sql.replace(/^\((.*)\)$/s, '$1')
  const inside = /^'((?:[^'\\]|''|\\[\s\S])*)'$/s.exec(bare)?.[1]
  if (
    /^(?:smallint|int|bigint|decimal|double|tinyint)/.test(type) &&
    (inside ?? bare).trim() !== '' &&
    Number.isFinite(Number(inside ?? bare))
  )
    return plain(inside ?? bare, type)
  if (inside === undefined) return oneExpression(bare)
  const text = inside.replaceAll(/''|\\([\s\S])/g, (_, char: string | undefined) =>
    char === undefined ? "'" : char === 'n' ? '\n' : char
  )
  if (type.startsWith('enum')) return asPrinted(text)
  if (type.startsWith('datetime') || type.startsWith('time')) return text.replace(/\.0+$/, '')
  return type.startsWith('longtext') || type.startsWith('varchar')
    ? asPrinted(canonicalJson(text))
    : type.startsWith('char(')
      ? asPrinted(text.trimEnd())
      : asPrinted(text)
}

/** The engine's own other names of types (MariaDB, "Data Types"). */
const ALIASES: Record<string, string> = {
  integer: 'int',
  bool: 'tinyint(1)',
  boolean: 'tinyint(1)',
  numeric: 'decimal'
}

/** A type as a person may have spelled it; the values of a list stay as they are. */
export function oneType(sql: string): string {
  const [, word = '', rest = ''] = /^(\w+)(.*)$/s.exec(sql) ?? []
  const kind = word.toLowerCase()
  return (ALIASES[kind] ?? kind) + (kind === 'enum' || kind === 'set' ? rest : rest.toLowerCase())
}

function plain(number: string, type: string): string {
  if (type.startsWith('double')) return String(Number(number))
  const [whole = '', fraction = ''] = number.split('.')
  const rest = fraction.replace(/0+$/, '')
  return whole + (rest && `.${rest}`)
}
