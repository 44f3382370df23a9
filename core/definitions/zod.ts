import type { Design } from '../design/model.ts'
import type { Tongue } from './code-names.ts'
import { madeBy, oneLine } from './made-by.ts'
import { shapeOf, type Entity, type Field } from './shape.ts'
import { quoted } from './typescript.ts'
import { TYPESCRIPT } from './typescript-names.ts'

/** A time of day, its seconds where they are said. */
const TIME = String.raw`([01]\d|2[0-3]):[0-5]\d(:[0-5]\d(\.\d+)?)?`

/** Schemas for Zod: of each table a row as it is read, as it is put in, and as it is changed, with the limits of its types. */
export function toZod(design: Design, tongue: Tongue = TYPESCRIPT, version?: string): string {
  const shape = shapeOf(design, tongue, version)
  const { entities, lists, remarks } = shape
  const schemas = entities.flatMap((entity) => ['', ...schemasOf(entity)])
  const isUsed = (helper: string): boolean => schemas.some((line) => new RegExp(`\\b${helper}\\b`).test(line))
  const lines = [
    ...madeBy(shape).map((line) => `// ${line}`),
    ...remarks.map((line) => `// ${oneLine(line)}`),
    "import { z } from 'zod'",
    ...Object.entries(SHARED).flatMap(([helper, written]) => (isUsed(helper) ? ['', ...written] : [])),
    ...lists.flatMap(({ type, name: list, values }) => [
      '',
      `/** The list of values ${oneLine(list)}. */`,
      `export const ${type}List = z.enum([${values.map(quoted).join(', ')}])`
    ]),
    ...schemas
  ]
  return `${lines.join('\n')}\n`
}

/** What several schemas have in common, by the name that they use it by; only what is used is written. */
const SHARED: Record<string, readonly string[]> = {
  atMost: [
    '/** A text of so many characters at most, counted as engines count them. */',
    'const atMost = (most: number) =>',
    '  z.string().refine((text) => [...text].length <= most, { error: `may have ${most} characters at most` })'
  ],
  digits: [
    '/** A number as the text of its digits, so many before the point and so many behind it. */',
    'const digits = (before: number, behind: number) =>',
    "  z.string().regex(new RegExp(`^-?(?=.*[0-9])0*[0-9]{0,${before}}${behind > 0 ? `([.][0-9]{1,${behind}})?` : ''}$`))"
  ],
  timeOfDay: [`const timeOfDay = z.string().regex(/^${TIME}$/)`],
  moment: [String.raw`const moment = z.string().regex(/^\d{4}-\d\d-\d\d[ T]${TIME}(Z|[+-]\d\d(:?\d\d)?)?$/)`]
}

function schemasOf({ type, one, table, fields }: Entity): string[] {
  const writable = fields.filter(({ given }) => given !== 'computed')
  const read = (field: Field): string => schemaOf(field) + (field.optional ? '.nullable()' : '')
  const written = (field: Field): string =>
    read(field) + (field.optional || field.given !== undefined ? '.optional()' : '')
  return [
    `/** A row of ${oneLine(table)}, as it is read. */`,
    `export const ${one}Row = z.strictObject({`,
    ...fields.map((field) => `  ${field.name}: ${read(field)},`),
    '})',
    `/** A row of ${oneLine(table)} that is to be put in. */`,
    `export const new${type} = z.strictObject({`,
    ...writable.map((field) => `  ${field.name}: ${written(field)},`),
    '})',
    '/** What of a row is to become another. */',
    `export const ${one}Change = new${type}.partial()`
  ]
}

const LARGEST = { small: 2 ** 15, normal: 2 ** 31 } as const

/** Digits of a whole number of 64 bits. */
const LONG = 19

function schemaOf({ type, list }: Field): string {
  switch (type.kind) {
    case 'integer':
      if (type.size === 'big') return `digits(${LONG}, 0)`
      return `z.int().min(${-LARGEST[type.size]}).max(${LARGEST[type.size] - 1})`
    case 'decimal':
      return `digits(${type.precision - type.scale}, ${type.scale})`
    case 'float':
      return 'z.number()'
    case 'boolean':
      return 'z.boolean()'
    case 'text':
    case 'char':
      return type.length === undefined ? 'z.string()' : `atMost(${type.length})`
    case 'date':
      return 'z.iso.date()'
    case 'time':
      return 'timeOfDay'
    case 'timestamp':
      return 'moment'
    case 'interval':
      return 'z.string()'
    case 'uuid':
      return 'z.guid()'
    case 'json':
      return 'z.json()'
    case 'binary':
      return type.length === undefined
        ? 'z.instanceof(Uint8Array)'
        : `z.instanceof(Uint8Array).refine((bytes) => bytes.length <= ${type.length})`
    case 'enum':
      return list === undefined ? 'z.string()' : `${list}List`
    case 'native':
      return 'z.unknown()'
  }
}
