import type { Design } from '../design/model.ts'
import type { Type } from '../design/type.ts'
import { madeBy, oneLine } from './made-by.ts'
import { noteIn } from './nearest.ts'
import { isDigits, shapeOf, type Entity, type Field } from './shape.ts'
import type { Tongue } from './code-names.ts'
import { TYPESCRIPT } from './typescript-names.ts'

/** How names are written, and whether the keys of tables are told apart. */
export interface TypescriptStyle {
  tongue?: Tongue
  keysApart?: boolean
  /** Which state of the design it is, in words. */
  version?: string | undefined
}

/**
 * Types for TypeScript: of each table a row as it is read, as it is put in, and as it is changed; both ends of every
 * relationship; and keys that are not taken for those of another table.
 */
export function toTypescript(
  design: Design,
  { tongue = TYPESCRIPT, keysApart = true, version }: TypescriptStyle = {}
): string {
  const shape = shapeOf(design, tongue, version)
  const lines = [
    ...madeBy(shape).map((line) => `// ${line}`),
    ...shape.remarks.map((line) => `// ${oneLine(line)}`),
    '',
    ...(keysApart ? HEAD : []),
    ...shape.lists.flatMap(({ type, name, values }) => [
      '',
      `/** The list of values ${oneLine(name)}. */`,
      `export const ${type} = [${values.map(quoted).join(', ')}] as const`,
      `export type ${type} = (typeof ${type})[number]`
    ]),
    ...shape.entities.flatMap((entity) => ['', ...entityLines(entity, keysApart)])
  ]
  return `${lines.join('\n')}\n`
}

const HEAD = [
  'declare const of: unique symbol',
  '/** A key’s value, of which table and column: a number or text that nothing else is taken for. */',
  'export type Key<Of extends string, Value> = Value & { readonly [of]: Of }'
]

/** A text as a constant. */
export const quoted = (text: string): string =>
  `'${JSON.stringify(text)
    .slice(1, -1)
    .replaceAll('\\"', '"')
    .replaceAll("'", "\\'")
    .replaceAll(/[\u2028\u2029]/g, (c) => `\\u${c.charCodeAt(0).toString(16)}`)}'`

/** What a value of a type is in TypeScript. Digits come as text, so that none is lost; dates and times as the standard writes them. */
export function plainType({ type, list }: Pick<Field, 'type' | 'list'>): string {
  if (list !== undefined) return list
  if (isDigits(type)) return 'string'
  return PLAIN[type.kind]
}

const PLAIN: Record<Type['kind'], string> = {
  integer: 'number',
  decimal: 'string',
  float: 'number',
  boolean: 'boolean',
  text: 'string',
  char: 'string',
  date: 'string',
  time: 'string',
  timestamp: 'string',
  interval: 'string',
  uuid: 'string',
  json: 'unknown',
  binary: 'Uint8Array',
  enum: 'string',
  native: 'unknown'
}

/** A field's type: of a key, what leads there says so too. */
function typeOf(field: Field): string {
  const plain = plainType(field)
  const { keyOf } = field
  return plain === 'unknown' || !keyOf ? plain : `Key<${quoted(`${keyOf.entity}.${keyOf.field}`)}, ${plain}>`
}

function entityLines(entity: Entity, keysApart: boolean): string[] {
  const { type, fields, key } = entity
  const held = (field: Field): string =>
    (keysApart ? typeOf(field) : plainType(field)) + (field.optional ? ' | null' : '')
  const writable = fields.filter(({ given }) => given !== 'computed')
  const mayBeLeft = (field: Field): boolean => field.optional || field.given !== undefined
  return [
    ...comment([`A row of ${entity.table}, as it is read.`, entity.note]),
    `export interface ${type} {`,
    ...fields.flatMap((field) => [
      ...comment([noteIn(field, plainType(field) === 'string')], '  '),
      `  ${field.name}: ${held(field)}`
    ]),
    ...entity.figures.flatMap(({ name, says, type: figure }) => [
      ...comment([`${says}; where it is asked for.`], '  '),
      `  ${name}?: ${plainType({ type: figure })} | null`
    ]),
    '}',
    `/** A row of ${oneLine(entity.table)} that is to be put in: what may be empty, or is given, may be left out. */`,
    `export interface New${type} {`,
    ...writable.map((field) => `  ${field.name}${mayBeLeft(field) ? '?' : ''}: ${held(field)}`),
    '}',
    `/** What of a row is to become another. */`,
    `export type ${type}Change = Partial<New${type}>`,
    ...(key.length > 0
      ? [
          `/** By what a row is found. */`,
          `export type ${type}Key = Pick<${type}, ${key.map(quoted).join(' | ')}>`
        ]
      : []),
    `/** What a row leads to. */`,
    `export interface ${type}Links {`,
    ...entity.ends.flatMap(({ name, to, many, optional, says }) => [
      ...comment([says], '  '),
      `  ${name}: ${many ? `${to}[]` : `${to}${optional ? ' | null' : ''}`}`
    ]),
    ...entity.across.flatMap(({ name, to, through }) => [
      ...comment([`By way of ${through}.`], '  '),
      `  ${name}: ${to}[]`
    ]),
    '}',
    `/** A row with some of what it leads to: \`${type}With<'…'>\`. */`,
    `export type ${type}With<Link extends keyof ${type}Links> = ${type} & Pick<${type}Links, Link>`
  ]
}

function comment(said: readonly (string | undefined)[], before = ''): string[] {
  const words = said.flatMap((text) => (text ? oneLine(text) : []))
  return words.length > 0 ? [`${before}/** ${words.join(' ')} */`] : []
}
