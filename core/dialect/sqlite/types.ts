import type { Type } from '../../design/type.ts'
import { normalValue, type Value } from '../../design/value.ts'
import { NotAnExpression, parseExpression } from '../../sql/parse.ts'
import { meaning } from '../../sql/print.ts'
import type { TypeTable } from '../facts.ts'
import { bytesOr, numberOr, quoteText, quoteUnless } from '../quote.ts'
import { RESERVED } from './reserved.ts'

export const quote = quoteUnless(RESERVED)

const NO_LENGTH = 'SQLite holds no text to its length.'

/**
 * Declared types whose affinity keeps each logical type's values as they are (SQLite, "Datatypes in
 * SQLite", 3.1): dates and times stay text because they are no numbers; json, uuid and durations get
 * text affinity by the letters CHAR or TEXT in their names.
 */
export const TYPES: TypeTable = {
  integer: ({ size }) => ({ sql: size === 'small' ? 'SMALLINT' : size === 'big' ? 'BIGINT' : 'INTEGER' }),
  decimal: ({ precision, scale }) => ({
    sql: `DECIMAL(${precision},${scale})`,
    ...(precision > 15 && { loss: 'SQLite keeps decimal numbers to 15 digits.' })
  }),
  float: () => ({ sql: 'DOUBLE' }),
  boolean: () => ({ sql: 'BOOLEAN' }),
  text: ({ length }) =>
    length === undefined ? { sql: 'TEXT' } : { sql: `VARCHAR(${length})`, loss: NO_LENGTH },
  char: ({ length }) => ({ sql: `CHAR(${length})`, loss: NO_LENGTH }),
  date: () => ({ sql: 'DATE' }),
  time: () => ({ sql: 'TIME' }),
  timestamp: ({ zone }) => ({ sql: zone ? 'TIMESTAMP WITH TIME ZONE' : 'TIMESTAMP' }),
  interval: () => ({
    sql: 'DURATION_TEXT',
    loss: 'SQLite has no intervals: they are kept as text, in ISO 8601.'
  }),
  uuid: () => ({ sql: 'UUID_CHAR' }),
  json: () => ({ sql: 'JSON_TEXT' }),
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
  current_user: () => "''"
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
