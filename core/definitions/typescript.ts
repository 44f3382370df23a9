import type { Design } from '../design/model.ts'
import type { Type } from '../design/type.ts'
import { madeBy, oneLine } from './made-by.ts'
import { isDigits, shapeOf, type Entity, type Field, type Shape } from './shape.ts'
import { TYPESCRIPT } from './typescript-names.ts'

/**
 * Types for TypeScript: of each table a row as it is read, as it is put in, and as it is changed; both ends of every
 * relationship; and keys that are not taken for those of another table.
 */
export function toTypescript(design: Design): string {
  const shape = shapeOf(design, TYPESCRIPT)
  const keys = new Keys(shape)
  const lines = [
    ...madeBy(shape.design).map((line) => `// ${line}`),
    ...shape.remarks.map((line) => `// ${oneLine(line)}`),
    '',
    ...HEAD,
    ...shape.lists.flatMap(({ type, name, values }) => [
      '',
      `/** The list of values ${oneLine(name)}. */`,
      `export const ${type} = [${values.map(quoted).join(', ')}] as const`,
      `export type ${type} = (typeof ${type})[number]`
    ]),
    ...shape.entities.flatMap((entity) => ['', ...entityLines(entity, keys)])
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
function plainType({ type, list }: Pick<Field, 'type' | 'list'>): string {
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

/** Which fields hold a key's values, and of which table these are in the end. */
class Keys {
  private readonly byType: ReadonlyMap<string, Entity>
  private readonly referredTo = new Set<string>()

  constructor({ entities }: Shape) {
    this.byType = new Map(entities.map((entity) => [entity.type, entity]))
    for (const entity of entities)
      for (const { name, refersTo } of entity.fields) {
        if (refersTo) this.referredTo.add(`${refersTo.entity}.${refersTo.field}`)
        if (entity.key.length === 1 && entity.key.includes(name))
          this.referredTo.add(`${entity.type}.${name}`)
      }
  }

  /** A field's type: of a key, what leads there says so too. */
  typeOf(entity: Entity, field: Field): string {
    const plain = plainType(field)
    const place = this.placeOf(entity, field)
    return plain === 'unknown' || !this.referredTo.has(place) ? plain : `Key<${quoted(place)}, ${plain}>`
  }

  /** Where the values of a field come from in the end, along the references. */
  private placeOf(entity: Entity, field: Field): string {
    const seen = new Set<string>()
    let [at, from] = [entity, field]
    for (;;) {
      const place = `${at.type}.${from.name}`
      const next = from.refersTo && this.byType.get(from.refersTo.entity)
      const its = next?.fields.find(({ name }) => name === from.refersTo?.field)
      if (!next || !its || seen.has(place)) return place
      seen.add(place)
      ;[at, from] = [next, its]
    }
  }
}

function entityLines(entity: Entity, keys: Keys): string[] {
  const { type, fields, key } = entity
  const typeOf = (field: Field): string => keys.typeOf(entity, field) + (field.optional ? ' | null' : '')
  const writable = fields.filter(({ given }) => given !== 'computed')
  const mayBeLeft = (field: Field): boolean => field.optional || field.given !== undefined
  return [
    ...comment([`A row of ${entity.table}, as it is read.`, entity.note]),
    `export interface ${type} {`,
    ...fields.flatMap((field) => [...comment([field.note], '  '), `  ${field.name}: ${typeOf(field)}`]),
    ...entity.figures.flatMap(({ name, says, type: figure }) => [
      ...comment([`${says}; where it is asked for.`], '  '),
      `  ${name}?: ${plainType({ type: figure })} | null`
    ]),
    '}',
    `/** A row of ${oneLine(entity.table)} that is to be put in: what may be empty, or is given, may be left out. */`,
    `export interface New${type} {`,
    ...writable.map((field) => `  ${field.name}${mayBeLeft(field) ? '?' : ''}: ${typeOf(field)}`),
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
