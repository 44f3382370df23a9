import type { Design } from '../design/model.ts'
import type { Type } from '../design/type.ts'
import { FreeNames, identifier, type Tongue } from './code-names.ts'
import { madeBy, oneLine } from './made-by.ts'
import { shapeOf, type Entity, type Field, type List } from './shape.ts'

/** Values that have no type of their own in the standard, and what each is. */
const SCALARS: Record<string, string> = {
  Bytes: 'Bytes as text in base 64.',
  Date: 'A day: `2026-05-03`.',
  DateTime: 'A moment: `2026-05-03T07:40:00Z`, or without a zone where the column has none.',
  Decimal: 'A number as the text of its digits, so that none is lost.',
  Duration: 'A length of time (ISO 8601): `PT90M`.',
  Json: 'Any value that JSON has.',
  Long: 'A whole number of 64 bits as the text of its digits.',
  Time: 'A time of day: `07:40:00`.',
  UUID: 'A UUID.'
}

/** How names are written in GraphQL (its specification of October 2021, 2.1.9: letters from A to Z, digits and lines). */
export const GRAPHQL: Tongue = {
  types: 'UpperCamel',
  fields: 'lowerCamel',
  plainLetters: true,
  reserved: new Set([
    ...['Boolean', 'Float', 'ID', 'Int', 'String', 'Query', 'Mutation', 'Subscription'],
    ...Object.keys(SCALARS),
    ...['true', 'false', 'null']
  ])
}

/**
 * The schema of a GraphQL service over a design (SDL): of each table its rows with both ends of their relationships, and
 * what is to be put in; each row can be asked for by its key, and all of a table.
 */
export function toGraphql(design: Design, tongue: Tongue = GRAPHQL, version?: string): string {
  const shape = shapeOf(design, tongue, version)
  const { entities, lists, remarks } = shape
  const isUsed = new Set(entities.flatMap(({ fields, figures }) => [...fields, ...figures].map(scalarOf)))
  const blocks = [
    [...madeBy(shape), ...remarks].map((line) => `# ${oneLine(line)}`),
    ...Object.entries(SCALARS).flatMap(([scalar, says]) =>
      isUsed.has(scalar) ? [[...described(says), `scalar ${scalar}`]] : []
    ),
    ...lists.map(listLines),
    ...entities.map(typeLines),
    ...entities.flatMap((entity) => inputLines(entity)),
    queryLines(entities)
  ]
  return `${blocks.map((lines) => lines.join('\n')).join('\n\n')}\n`
}

/** What stands where a type would have no field: the standard asks for one. */
const NOTHING = ['  "It has nothing of its own."', '  nothing: Boolean']

const described = (text: string | undefined, before = ''): string[] =>
  text ? [`${before}${JSON.stringify(oneLine(text))}`] : []

function scalarOf({ type, list }: { type: Type; list?: string | undefined }): string {
  if (list !== undefined) return list
  if (type.kind === 'integer') return type.size === 'big' ? 'Long' : 'Int'
  return KINDS[type.kind]
}

const KINDS: Record<Exclude<Type['kind'], 'integer'>, string> = {
  decimal: 'Decimal',
  float: 'Float',
  boolean: 'Boolean',
  text: 'String',
  char: 'String',
  date: 'Date',
  time: 'Time',
  timestamp: 'DateTime',
  interval: 'Duration',
  uuid: 'UUID',
  json: 'Json',
  binary: 'Bytes',
  enum: 'String',
  native: 'String'
}

/** A list’s values by names that the standard allows, each with the value that it stands for. */
function listLines({ type, name, values }: List): string[] {
  const free = new FreeNames()
  return [
    ...described(`The list of values ${name}.`),
    `enum ${type} {`,
    ...values.flatMap((value, at) => [
      ...described(`Stands for: ${value}`, '  '),
      `  ${free.give(identifier(value, 'UPPER_SNAKE', GRAPHQL, `value ${at + 1}`))}`
    ]),
    '}'
  ]
}

function typeLines({ type, note, fields, ends, across, figures }: Entity): string[] {
  const lines = [
    ...fields.flatMap((field) => [
      ...described(field.note, '  '),
      `  ${field.name}: ${scalarOf(field)}${field.optional ? '' : '!'}`
    ]),
    ...figures.flatMap((figure) => [
      ...described(figure.says, '  '),
      `  ${figure.name}: ${scalarOf(figure)}`
    ]),
    ...ends.flatMap(({ name, to, many, optional, says }) => [
      ...described(says, '  '),
      `  ${name}: ${many ? `[${to}!]!` : `${to}${optional ? '' : '!'}`}`
    ]),
    ...across.flatMap(({ name, to, through }) => [
      ...described(`By way of ${through}.`, '  '),
      `  ${name}: [${to}!]!`
    ])
  ]
  return [...described(note), `type ${type} {`, ...(lines.length > 0 ? lines : NOTHING), '}']
}

function inputLines({ type, table, fields }: Entity): string[][] {
  const writable = fields.filter(({ given }) => given !== 'computed')
  if (writable.length === 0) return []
  const isNeeded = ({ optional, given }: Field): boolean => !optional && given === undefined
  return [
    [
      ...described(`A row of ${table} that is to be put in.`),
      `input New${type} {`,
      ...writable.map((field) => `  ${field.name}: ${scalarOf(field)}${isNeeded(field) ? '!' : ''}`),
      '}'
    ]
  ]
}

function queryLines(entities: readonly Entity[]): string[] {
  const free = new FreeNames()
  const lines = entities.flatMap(({ one, many, type, key, fields }) => {
    const by = fields.filter(({ name }) => key.includes(name))
    const asked = by.map((field) => `${field.name}: ${scalarOf(field)}!`).join(', ')
    return [
      ...(by.length > 0 ? [`  ${free.give(one)}(${asked}): ${type}`] : []),
      `  ${free.give(many === one ? `all${type}` : many)}: [${type}!]!`
    ]
  })
  return ['type Query {', ...(lines.length > 0 ? lines : NOTHING), '}']
}
