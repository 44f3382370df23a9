import type { Type } from '../../design/type.ts'
import { normalValue, type Value } from '../../design/value.ts'
import { NotAnExpression, parseExpression } from '../../sql/parse.ts'
import { meaning } from '../../sql/print.ts'
import type { TypeTable } from '../facts.ts'
import { bytesOr, numberOr, quoteText, quoteUnless } from '../quote.ts'
import { RESERVED } from './reserved.ts'

export const quote = quoteUnless(RESERVED)

const AS_PUT_IN = 'SQLite has no dates, times or moments: they are kept as the text that is put in.'

/** Digits of a decimal: not more behind the point than are said, and not more before it. */
const holdsDecimal =
  (precision: number, scale: number) =>
  (column: string): string =>
    `abs(${column}) < 1e${precision - scale} AND round(${column}, ${scale}) = ${column}`
/** Of more digits than it keeps it can be said how large a number may be, and that it is one. */
const holdsLarge =
  (precision: number, scale: number) =>
  (column: string): string =>
    `typeof(${column}) <> 'text' AND abs(${column}) < 1e${precision - scale}`
/** No text, no fraction, and none too large. */
const holdsWhole =
  (most: number) =>
  (column: string): string =>
    `typeof(${column}) <> 'text' AND ${column} BETWEEN ${-most - 1} AND ${most}`

/**
 * A declared type holds nothing by itself, so checks hold columns to lengths, digits and sizes. Declared types
 * are those whose affinity keeps each logical type's values as they are (SQLite, "Datatypes in SQLite", 3.1): dates and times stay text because they are no numbers; json, uuid and durations get
 * text affinity by the letters CHAR or TEXT in their names.
 */
export const TYPES: TypeTable = {
  integer: ({ size }) =>
    size === 'big'
      ? { sql: 'BIGINT' }
      : size === 'small'
        ? { sql: 'SMALLINT', holds: holdsWhole(32_767) }
        : { sql: 'INTEGER', holds: holdsWhole(2_147_483_647) },
  decimal: ({ precision, scale }) => ({
    sql: `DECIMAL(${precision},${scale})`,
    ...(precision > 15
      ? {
          loss: 'SQLite keeps decimal numbers to 15 digits.',
          holds: holdsLarge(precision, scale),
          inexact: 15
        }
      : { holds: holdsDecimal(precision, scale) })
  }),
  float: () => ({ sql: 'DOUBLE' }),
  boolean: () => ({ sql: 'BOOLEAN', holds: (column) => `${column} IN (0, 1)` }),
  text: ({ length }) =>
    length === undefined
      ? { sql: 'TEXT' }
      : { sql: `VARCHAR(${length})`, holds: (column) => `length(${column}) <= ${length}` },
  char: ({ length }) => ({ sql: `CHAR(${length})`, holds: (column) => `length(${column}) <= ${length}` }),
  date: () => ({ sql: 'DATE', loss: AS_PUT_IN }),
  time: () => ({ sql: 'TIME', loss: AS_PUT_IN }),
  timestamp: ({ zone }) => ({ sql: zone ? 'TIMESTAMP WITH TIME ZONE' : 'TIMESTAMP', loss: AS_PUT_IN }),
  interval: () => ({
    sql: 'DURATION_TEXT',
    loss: 'SQLite has no intervals: they are kept as text, in ISO 8601.'
  }),
  uuid: () => ({ sql: 'UUID_CHAR' }),
  // What is empty is no document: json_valid(NULL) is 0 before SQLite 3.45 (seen on 3.40), and nothing from then on.
  json: () => ({ sql: 'JSON_TEXT', holds: (column) => `${column} IS NULL OR json_valid(${column})` }),
  binary: ({ length }) =>
    length === undefined
      ? { sql: 'BLOB' }
      : { sql: 'BLOB', holds: (column) => `length(${column}) <= ${length}` },
  enum: (_, { values }) => ({
    sql: `VARCHAR(${Math.max(1, ...values.map((value) => [...value].length))})`,
    holds: (column) => `${column} IN (${values.map(quoteText).join(', ')})`
  })
}

export function literal(given: Value, type: Type): string {
  if (given === null) return 'NULL'
  const value = normalValue(given, type)
  switch (type.kind) {
    case 'boolean':
      return value ? 'TRUE' : 'FALSE'
    case 'binary':
      return bytesOr(quoteText, value, (digits) => `X'${digits}'`)
    case 'integer':
    case 'decimal':
    case 'float':
      return numberOr(quoteText, value)
    default:
      return quoteText(String(value))
  }
}

export function now(type: Type): string {
  return type.kind === 'date' ? 'CURRENT_DATE' : type.kind === 'time' ? 'CURRENT_TIME' : 'CURRENT_TIMESTAMP'
}

const HEX = (bytes: number): string => `lower(hex(randomblob(${bytes})))`

export const CALLS: Record<string, (args: readonly string[]) => string> = {
  substring: (args) => `substr(${args.join(', ')})`,
  now: () => 'CURRENT_TIMESTAMP',
  today: () => 'CURRENT_DATE',
  // The layout of a random uuid (RFC 9562, 5.4).
  new_uuid: () =>
    `(${HEX(4)} || '-' || ${HEX(2)} || '-4' || substr(${HEX(2)}, 2) || '-a' || substr(${HEX(2)}, 2) || '-' || ${HEX(6)})`,
  // Nobody connects to a file as anybody.
  ...Object.fromEntries(
    Object.entries({ year: '%Y', month: '%m', day: '%d', hour: '%H', minute: '%M' }).map(([part, format]) => [
      part,
      ([moment = '']: readonly string[]) => `CAST(strftime('${format}', ${moment}) AS INTEGER)`
    ])
  ),
  // Sunday is 0 there.
  weekday: ([moment = '']) => `((CAST(strftime('%w', ${moment}) AS INTEGER) + 6) % 7 + 1)`,
  whole: ([text = '']) => `CAST(${text} AS INTEGER)`
}

/** SQLite keeps an expression as it was written; what is left are parentheses and letter case. */
export function oneExpression(sql: string): string {
  try {
    return meaning(
      parseExpression(sql, { printed: { spelling: { brackets: true, backslash: false }, functions: {} } })
    )
  } catch (error) {
    if (error instanceof NotAnExpression) return sql
    throw error
  }
}
