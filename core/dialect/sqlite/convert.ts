import type { Type } from '../../design/type.ts'
import type { CatalogType } from '../catalog.ts'

/**
 * SQLite turns nothing into another type where a column's type changes: any value stays in any column
 * (SQLite, "Datatypes in SQLite"). What others do is said here, and what they refuse is refused.
 */

type Kind = Type['kind']

const NUMBERS: readonly (Kind | undefined)[] = ['integer', 'decimal', 'float']
const TEXTS: readonly (Kind | undefined)[] = ['text', 'char']

/** What a value of one type is as a value of another. */
export function converted(sql: string, { type: from }: CatalogType, { type: to }: CatalogType): string {
  const [was, is] = [from?.kind, to?.kind]
  if (was === undefined || is === undefined) return sql
  if (to?.kind === 'decimal' && was !== 'boolean')
    return inDigits(NUMBERS.includes(was) ? sql : `${sql} + 0`, to)
  if (to && 'length' in to && to.length !== undefined && TEXTS.includes(is) && was !== 'boolean')
    return withoutBlanks(TEXTS.includes(was) ? sql : `CAST(${sql} AS TEXT)`, to.length)
  if (was === is) return sql
  if (was === 'boolean' && TEXTS.includes(is)) return `CASE ${sql} WHEN 1 THEN 'true' WHEN 0 THEN 'false' END`
  if (was === 'boolean') return sql
  if (TEXTS.includes(is)) return `CAST(${sql} AS TEXT)`
  if (is === 'boolean')
    return `CASE WHEN lower(${sql}) IN ('true', 't', '1') THEN 1 WHEN lower(${sql}) IN ('false', 'f', '0') THEN 0 ELSE ${sql} END`
  if (is === 'integer')
    return was === 'float' || was === 'decimal' ? `CAST(round(${sql}) AS INTEGER)` : `${sql} + 0`
  if (NUMBERS.includes(is) && !NUMBERS.includes(was)) return `${sql} + 0`
  if (is === 'date') return `date(${sql})`
  if (is === 'timestamp' && was === 'date') return `${sql} || ' 00:00:00'`
  return sql
}

/** As many digits behind the point as the type has; of more than floating point holds, those that are there. */
export function inDigits(sql: string, { precision, scale }: Extract<Type, { kind: 'decimal' }>): string {
  return precision > 15 ? sql : `round(${sql}, ${scale})`
}

/** Blanks at the end are no part of what is too long. */
const withoutBlanks = (sql: string, most: number): string =>
  `CASE WHEN length(${sql}) > ${most} THEN rtrim(${sql}) ELSE ${sql} END`

/** The condition under which a value can be one of another type; nothing where every value can. */
export function holdsValue(
  sql: string,
  { type: from }: CatalogType,
  { type: to }: CatalogType
): string | undefined {
  const [was, is] = [from?.kind, to?.kind]
  if (!from || !to || was === undefined || is === undefined) return undefined
  if (to.kind === 'text' || to.kind === 'char') return longest(sql, from, to)
  if (was === is) return to.kind === 'integer' ? inRange(sql, from, to) : undefined
  const empty = `${sql} IS NULL`
  if (is === 'boolean') return `${empty} OR lower(${sql}) IN ('true', 't', '1', 'false', 'f', '0')`
  if (NUMBERS.includes(is)) {
    if (NUMBERS.includes(was) || was === 'boolean') return undefined
    return `${empty} OR (trim(${sql}) <> '' AND CAST(CAST(${sql} AS NUMERIC) AS TEXT) = trim(${sql}))`
  }
  if (is === 'date' || is === 'timestamp') return `${empty} OR date(${sql}) IS NOT NULL`
  if (is === 'time') return `${empty} OR time(${sql}) IS NOT NULL`
  if (is === 'json') return `${empty} OR json_valid(${sql})`
  return undefined
}

/** A text is not cut. */
function longest(sql: string, from: Type, to: Type): string | undefined {
  const length = (type: Type): number =>
    'length' in type && typeof type.length === 'number' ? type.length : Infinity
  const most = length(to)
  const isShorter = from.kind === 'text' || from.kind === 'char' ? most < length(from) : most < 40
  return isShorter ? `${sql} IS NULL OR length(rtrim(CAST(${sql} AS TEXT))) <= ${most}` : undefined
}

const LIMITS = { small: '32767', normal: '2147483647', big: '9223372036854775807' }

function inRange(sql: string, from: Type, to: Type): string | undefined {
  if (from.kind !== 'integer' || to.kind !== 'integer' || from.size === to.size || to.size === 'big')
    return undefined
  const most = LIMITS[to.size]
  return `${sql} IS NULL OR ${sql} BETWEEN -${most} - 1 AND ${most}`
}
