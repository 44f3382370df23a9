import type { Design } from '../design/model.ts'
import type { Tongue } from './code-names.ts'
import { madeBy } from './made-by.ts'
import { shapeOf, type Entity, type Field } from './shape.ts'
import { TYPESCRIPT } from './typescript-names.ts'

type Schema = Record<string, unknown>

/**
 * JSON Schema of the rows (draft 2020-12): of each table a row as it is read and one that is to be put in, by the names
 * that these have in code. Digits of decimals and long numbers are texts; bytes are texts in base 64.
 */
export function toJsonSchema(design: Design, tongue: Tongue = TYPESCRIPT, version?: string): string {
  const shape = shapeOf(design, tongue, version)
  const { entities, lists, remarks } = shape
  const definitions = [
    ...lists.map(({ type, values }): [string, Schema] => [type, { enum: values }]),
    ...entities.flatMap((entity): [string, Schema][] => [
      [entity.type, rowSchema(entity, entity.fields, (field) => field.optional)],
      [
        `New${entity.type}`,
        rowSchema(
          entity,
          entity.fields.filter(({ given }) => given !== 'computed'),
          (field) => field.optional || field.given !== undefined
        )
      ]
    ])
  ]
  const schema = {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: shape.design,
    $comment: [...madeBy(shape), ...remarks].join(' '),
    $defs: Object.fromEntries(definitions)
  }
  return `${JSON.stringify(schema, null, 2)}\n`
}

function rowSchema(
  { table, note }: Entity,
  fields: readonly Field[],
  mayBeLeft: (field: Field) => boolean
): Schema {
  const isNeeded = (field: Field): boolean => !mayBeLeft(field)
  return {
    title: table,
    ...(note !== undefined && { description: note }),
    type: 'object',
    properties: Object.fromEntries(fields.map((field) => [field.name, fieldSchema(field)])),
    required: fields.filter(isNeeded).map(({ name }) => name),
    additionalProperties: false
  }
}

function fieldSchema(field: Field): Schema {
  const said = field.note === undefined ? {} : { description: field.note }
  const own = typeSchema(field)
  return field.optional ? { ...said, anyOf: [own, { type: 'null' }] } : { ...said, ...own }
}

const LARGEST = { small: 2 ** 15, normal: 2 ** 31 } as const
const TIME = '([01]\\d|2[0-3]):[0-5]\\d(:[0-5]\\d(\\.\\d+)?)?'
/** Digits of a whole number of 64 bits. */
const LONG = 19

function digits(before: number, behind: number): Schema {
  const rest = behind > 0 ? `(\\.\\d{1,${behind}})?` : ''
  return { type: 'string', pattern: `^-?(?=.*\\d)0*\\d{0,${before}}${rest}$` }
}

function typeSchema({ type, list }: Field): Schema {
  switch (type.kind) {
    case 'integer':
      if (type.size === 'big') return digits(LONG, 0)
      return { type: 'integer', minimum: -LARGEST[type.size], maximum: LARGEST[type.size] - 1 }
    case 'decimal':
      return digits(type.precision - type.scale, type.scale)
    case 'float':
      return { type: 'number' }
    case 'boolean':
      return { type: 'boolean' }
    case 'text':
    case 'char':
      return { type: 'string', ...(type.length !== undefined && { maxLength: type.length }) }
    case 'date':
      return { type: 'string', pattern: '^\\d{4}-\\d\\d-\\d\\d$', format: 'date' }
    case 'time':
      return { type: 'string', pattern: `^${TIME}$` }
    case 'timestamp':
      return { type: 'string', pattern: `^\\d{4}-\\d\\d-\\d\\d[ T]${TIME}(Z|[+-]\\d\\d(:?\\d\\d)?)?$` }
    case 'interval':
      return { type: 'string' }
    case 'uuid':
      return {
        type: 'string',
        format: 'uuid',
        pattern: '^[0-9a-fA-F]{8}(-[0-9a-fA-F]{4}){3}-[0-9a-fA-F]{12}$'
      }
    case 'json':
      return {}
    case 'binary':
      return { type: 'string', contentEncoding: 'base64' }
    case 'enum':
      return list === undefined ? { type: 'string' } : { $ref: `#/$defs/${encodeURIComponent(list)}` }
    case 'native':
      return {}
  }
}
