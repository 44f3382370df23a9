import { canonicalJson } from '../../design/json.ts'
import type { Type } from '../../design/type.ts'
import { normalValue, type Default, type Value } from '../../design/value.ts'
import { quoteText } from '../names.ts'

export function postgresqlType(type: Type): string {
  switch (type.kind) {
    case 'integer': return type.size === 'small' ? 'smallint' : type.size === 'big' ? 'bigint' : 'integer'
    case 'decimal': return `numeric(${type.precision},${type.scale})`
    case 'float': return 'double precision'
    case 'text': return type.length === undefined ? 'text' : `varchar(${type.length})`
    case 'char': return `char(${type.length})`
    case 'timestamp': return type.zone ? 'timestamptz' : 'timestamp'
    case 'json': return 'jsonb'
    case 'binary': return 'bytea'
    default: return type.kind
  }
}

/** The types as format_type() of the engine prints them, where it is not as they are written here. */
const PRINTED: [RegExp, string][] = [
  [/^character varying/, 'varchar'], [/^character\b/, 'char'], [/^timestamp without time zone$/, 'timestamp'],
  [/^timestamp with time zone$/, 'timestamptz'], [/^time without time zone$/, 'time']
]

/** A type as the engine prints it, in the spelling that {@link postgresqlType} writes. */
export function fromPrinted(type: string): string {
  return PRINTED.reduce((text, [pattern, plain]) => text.replace(pattern, plain), type)
}

export function postgresqlLiteral(given: Value, type: Type): string {
  if (given === null) return 'NULL'
  const value = normalValue(given, type)
  switch (type.kind) {
    case 'boolean': return value ? 'true' : 'false'
    case 'binary': return quoteText(`\\x${String(value)}`)
    case 'integer':
    case 'decimal':
    case 'float': return /^-?\d+(\.\d+)?(e[+-]?\d+)?$/i.test(String(value)) ? String(value) : quoteText(String(value))
    case 'timestamp': return quoteText(type.zone ? `${String(value)}+00` : String(value))
    default: return quoteText(String(value))
  }
}

export function postgresqlDefault(value: Default, type: Type): string | undefined {
  if (value.kind === 'generated') return undefined
  if (value.kind === 'value') return postgresqlLiteral(value.value, type)
  if (type.kind === 'date') return 'CURRENT_DATE'
  if (type.kind === 'time') return 'LOCALTIME'
  return type.kind === 'timestamp' && type.zone ? 'CURRENT_TIMESTAMP' : 'LOCALTIMESTAMP'
}

/**
 * A default as the engine prints it, in the spelling that it was written in: the engine adds the type
 * behind a literal (`'oiled'::text`), puts negative numbers in quotes, and prints instants and JSON anew.
 * That is no difference; a default that is missing or another is.
 */
export function fromPrintedDefault(printed: string | null, type: string): string | undefined {
  if (printed === null) return undefined
  const text = printed.replace(/^\((.*)\)$/s, '$1')
  const cast = /^('(?:[^']|'')*')::[a-z][a-z0-9 ]*(?:\(\d+(?:,\s*\d+)?\))?(?:\s+(?:with|without) time zone)?$/s.exec(text)
  const bare = cast?.[1] ?? text.replace(/^(-?\d[\d.]*(?:e[+-]?\d+)?)::[a-z ]+(?:\([\d,]+\))?$/i, '$1')
  return canonicalDefault(bare, type)
}

const NUMERIC = /^(smallint|integer|bigint|numeric|double precision)/

/** One spelling for defaults that mean the same to the engine; applied to what is written and to what is read back. */
export function canonicalDefault(sql: string, type: string): string {
  const inside = /^'((?:[^']|'')*)'$/s.exec(sql)?.[1]
  if (NUMERIC.test(type)) {
    const number = inside ?? sql
    return type === 'double precision' ? String(Number(number)) : number
  }
  if (inside === undefined) return sql
  if (type.startsWith('char(')) return `'${inside.replace(/ +$/, '')}'`
  if (type === 'timestamptz') return `'${inside.replace(/\+00(?::00)?$/, '')}+00'`
  if (type === 'jsonb') return quoteText(canonicalJson(inside.replaceAll("''", "'")))
  return sql
}
