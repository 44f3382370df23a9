import fc from 'fast-check'
import { nameSchema } from '../core/design/model.ts'

/**
 * What an attack leaves in a design: words that must never stand in SQL outside quotes. No writer would
 * write one by itself.
 */
export const MARK = /qzvqz\d/i

/** Texts that try to get out of wherever they are put, in every way in which a dialect quotes. */
export const BREAKING = [
  'QZVQZ1',
  '"QZVQZ1',
  "'QZVQZ1",
  "QZVQZ1'); DROP TABLE QZVQZ2; --",
  '"1)); create table QZVQZ3 (x int); --"(1)',
  "00'); CREATE TABLE QZVQZ4 (x); --",
  ']; DROP TABLE QZVQZ5; --[',
  '`; QZVQZ6; --`',
  "\\'; QZVQZ7; --",
  '*/ QZVQZ8 /*',
  '{c_x} QZVQZ9 (',
  '((("',
  'QZVQZ10(1)',
  'lower(QZVQZ11)',
  "x' || QZVQZ12 || '",
  '$$; QZVQZ13; $$',
  'QZVQZ14\u0000',
  '\ud800QZVQZ15',
  'QZVQZ16\n;\nGO\nQZVQZ17',
  'constructor(1)',
  '1; QZVQZ18',
  '0x00 QZVQZ19',
  '\u2028QZVQZ20\u2029',
  'CASE WHEN QZVQZ21 THEN 1 END',
  'QZVQZ22 IS NOT NULL',
  '__proto__',
  "E'\\'QZVQZ23'",
  "N'QZVQZ24",
  '--QZVQZ25',
  '1e999',
  '{c_nowhere} > 0',
  'not',
  'null',
  "'' = ''",
  '-'.repeat(50),
  '{'.repeat(20),
  "1 in (1, 'QZVQZ26')"
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
    return nameSchema.safeParse(text).success ? text : `QZVQZ30 "${what}" '; --`
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
  { kind: 'native', spelled: { any: 'QZVQZ31 text' } },
  { kind: 'boolean' },
  { kind: 'date' },
  { kind: 'uuid' },
  { kind: 'interval' }
]
