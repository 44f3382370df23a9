import fc from 'fast-check'
import { nameSchema } from '../core/design/model.ts'

/**
 * What an attack leaves in a design: words that must never stand in SQL outside quotes. No writer would
 * write one by itself.
 */
export const MARK = /QZ\d|(?<![a-z0-9_])qz\d/

/** Texts that try to get out of wherever they are put, in every way in which a dialect quotes. */
export const BREAKING = [
  'QZ1',
  '"QZ1',
  "'QZ1",
  "QZ1'); DROP TABLE QZ2; --",
  '"1)); create table QZ3 (x int); --"(1)',
  "00'); CREATE TABLE QZ4 (x); --",
  ']; DROP TABLE QZ5; --[',
  '`; QZ6; --`',
  "\\'; QZ7; --",
  '*/ QZ8 /*',
  '{c_x} QZ9 (',
  '((("',
  'QZ10(1)',
  'lower(QZ11)',
  "x' || QZ12 || '",
  '$$; QZ13; $$',
  'QZ14\u0000',
  '\ud800QZ15',
  'QZ16\n;\nGO\nQZ17',
  'constructor(1)',
  '1; QZ18',
  '0x00 QZ19',
  '\u2028QZ20\u2029',
  'CASE WHEN QZ21 THEN 1 END',
  'QZ22 IS NOT NULL',
  '__proto__',
  "E'\\'QZ23'",
  "N'QZ24",
  '--QZ25',
  '1e999',
  '{c_nowhere} > 0',
  'not',
  'null',
  "'' = ''",
  '-'.repeat(50),
  '{'.repeat(20),
  "1 in (1, 'QZ26')"
]

/** A place in a tree of JSON where something else could stand. */
interface Place {
  holder: Record<string, unknown>
  key: string
  value: unknown
}

function places(value: unknown, found: Place[] = []): Place[] {
  if (typeof value !== 'object' || value === null) return found
  for (const [key, item] of Object.entries(value)) {
    found.push({ holder: value as Record<string, unknown>, key, value: item })
    places(item, found)
  }
  return found
}

const isId = (text: string): boolean => /^[a-z]{1,4}_[a-z0-9_]{1,40}$/.test(text)

/** Numbers that stand for what is broken, and with what. */
export type Break = [place: number, what: number]
export const breaks: fc.Arbitrary<Break[]> = fc.array(fc.tuple(fc.nat(100_000), fc.nat(100_000)), {
  minLength: 1,
  maxLength: 4
})

/**
 * The value with some of its parts put for others of their kind: ids for ids that mean something else or
 * nothing, texts for texts that break out, values for values of another type. Keys and shapes stay.
 */
export function broken<T>(value: T, taken: readonly Break[]): T {
  const copy = structuredClone(value)
  const all = places(copy)
  const ids = [
    ...all.flatMap(({ value: each }) => (typeof each === 'string' && isId(each) ? [each] : [])),
    'c_nowhere',
    't_nowhere',
    'k_nowhere',
    'x_constructor'
  ]
  const leaves = all.filter(({ value: each }) => typeof each !== 'object' || each === null)
  const structures = all.filter(
    ({ key, value: each }) => key === 'default' || key === 'type' || (Array.isArray(each) && each.length > 0)
  )
  for (const [place, what] of taken) {
    const among = what % 7 === 0 && structures.length > 0 ? structures : leaves
    const at = among[place % among.length]
    if (at) at.holder[at.key] = other(at, what, ids)
  }
  return copy
}

function other({ key, value }: Place, what: number, ids: readonly string[]): unknown {
  const text = BREAKING[what % BREAKING.length] as string
  if (key === 'default')
    return what % 2 === 0 ? { kind: 'expression', expression: text } : { kind: 'value', value: text }
  if (key === 'type') return TYPES[what % TYPES.length]
  if (Array.isArray(value)) return what % 2 === 0 ? [...(value as unknown[]), value[0]] : value.slice(1)
  if (key === 'kind' || key === 'onDelete' || key === 'onUpdate' || key === 'command') return value
  if (key === 'name' || key === 'role')
    return nameSchema.safeParse(text).success ? text : `QZ30 "${what}" '; --`
  if (typeof value === 'string' && isId(value)) return ids[what % ids.length]
  if (typeof value === 'boolean' && what % 3 > 0) return !value
  if (key === 'key' || /^\{/.test(String(value))) return `${String(value)}${text}`
  return text
}

const TYPES = [
  { kind: 'binary' },
  { kind: 'enum', enum: 'e_nowhere' },
  { kind: 'json' },
  { kind: 'integer', size: 'small' },
  { kind: 'native', spelled: { any: 'QZ31 text' } },
  { kind: 'boolean' },
  { kind: 'date' },
  { kind: 'uuid' },
  { kind: 'interval' }
]
