import type { Type } from '../../design/type.ts'
import { normalValue, type Default, type Value } from '../../design/value.ts'
import { quoteText } from '../names.ts'

/**
 * Declared types whose affinity keeps each logical type's values as they are (SQLite, "Datatypes in
 * SQLite", 3.1): dates and times stay text because they are no numbers; json and uuid get text affinity
 * by the letters CHAR or TEXT in their names. SQLite holds no value to a length.
 */
export function sqliteType(type: Type): string {
  switch (type.kind) {
    case 'integer': return type.size === 'small' ? 'SMALLINT' : type.size === 'big' ? 'BIGINT' : 'INTEGER'
    case 'decimal': return `DECIMAL(${type.precision},${type.scale})`
    case 'float': return 'DOUBLE'
    case 'boolean': return 'BOOLEAN'
    case 'text': return type.length === undefined ? 'TEXT' : `VARCHAR(${type.length})`
    case 'char': return `CHAR(${type.length})`
    case 'date': return 'DATE'
    case 'time': return 'TIME'
    case 'timestamp': return type.zone ? 'TIMESTAMP WITH TIME ZONE' : 'TIMESTAMP'
    case 'uuid': return 'UUID_CHAR'
    case 'json': return 'JSON_TEXT'
    case 'binary': return 'BLOB'
  }
}

export function sqliteLiteral(given: Value, type: Type): string {
  if (given === null) return 'NULL'
  const value = normalValue(given, type)
  switch (type.kind) {
    case 'boolean': return value ? 'TRUE' : 'FALSE'
    case 'binary': return `X'${String(value)}'`
    case 'integer':
    case 'decimal':
    case 'float': return plainNumber(value)
    default: return quoteText(String(value))
  }
}

/** A number without quotes; whatever else is there is quoted, so that it can never be read as SQL. */
function plainNumber(value: Value): string {
  const text = String(value)
  return /^-?\d+(\.\d+)?(e[+-]?\d+)?$/i.test(text) ? text : quoteText(text)
}

export function sqliteDefault(value: Default, type: Type): string | undefined {
  if (value.kind === 'generated') return undefined
  if (value.kind === 'value') return sqliteLiteral(value.value, type)
  return type.kind === 'date' ? 'CURRENT_DATE' : type.kind === 'time' ? 'CURRENT_TIME' : 'CURRENT_TIMESTAMP'
}
