import type { Design } from '../design/model.ts'
import { FreeNames, identifier, type Tongue } from './code-names.ts'
import { madeBy, oneLine } from './made-by.ts'
import { noteIn } from './nearest.ts'
import { shapeOf, type Entity, type Field, type List } from './shape.ts'

/** Keywords (Python language reference, 2.3.1), and what the file itself uses. */
const WORDS =
  'False None True and as assert async await break class continue def del elif else except finally for from global if import in is lambda nonlocal not or pass raise return try while with yield'
const USED =
  'Optional bool bytes dataclass dataclasses datetime decimal enum field float int list object str typing uuid self mro'

/** How names are written in Python. */
export const PYTHON: Tongue = {
  types: 'UpperCamel',
  fields: 'lower_snake',
  plainLetters: true,
  reserved: new Set([...WORDS.split(' '), ...USED.split(' ')])
}

/**
 * Data classes for Python 3.10 and later: typed fields, both ends of each relationship as one object or a list, and what
 * a row is found by. No framework knows of them.
 */
export function toPython(design: Design, tongue: Tongue = PYTHON, version?: string): string {
  const shape = shapeOf(design, tongue, version)
  const { entities, lists, remarks } = shape
  const lines = [
    ...[...madeBy(shape), ...remarks].map((line) => `# ${oneLine(line)}`),
    'from __future__ import annotations',
    '',
    'import dataclasses',
    'import datetime',
    'import decimal',
    'import enum',
    'import typing',
    'import uuid',
    ...lists.flatMap((list) => ['', '', ...enumLines(list)]),
    ...entities.flatMap((entity) => ['', '', ...classLines(entity)])
  ]
  return `${lines.join('\n')}\n`
}

/** A text as a constant: what JSON escapes, Python escapes so too. */
const quoted = (text: string): string => JSON.stringify(text)
const comment = (text: string): string => quoted(oneLine(text))

function enumLines({ type, name, values }: List): string[] {
  const free = new FreeNames()
  const members = values.map((value, at) => {
    const called = free.give(identifier(value, 'UPPER_SNAKE', PYTHON, `value ${at + 1}`))
    // Names between two lines are Python's own.
    return `    ${called.startsWith('_') ? `VALUE${called}` : called} = ${quoted(value)}`
  })
  return [`class ${type}(enum.Enum):`, `    ${comment(`The list of values ${name}.`)}`, '', ...members]
}

const typeOf = ({ type, list }: Pick<Field, 'type' | 'list'>): string => list ?? KINDS[type.kind]

const KINDS: Record<Field['type']['kind'], string> = {
  integer: 'int',
  decimal: 'decimal.Decimal',
  float: 'float',
  boolean: 'bool',
  text: 'str',
  char: 'str',
  date: 'datetime.date',
  time: 'datetime.time',
  timestamp: 'datetime.datetime',
  interval: 'str',
  uuid: 'uuid.UUID',
  json: 'typing.Any',
  binary: 'bytes',
  enum: 'str',
  native: 'typing.Any'
}

function classLines({ type, table, note, key, fields, figures, ends, across }: Entity): string[] {
  const says = (words: string | undefined): string[] => (words ? [`    # ${oneLine(words)}`] : [])
  const empty = (name: string, python: string): string => `    ${name}: typing.Optional[${python}] = None`
  const many = (name: string, to: string): string =>
    `    ${name}: list[${to}] = dataclasses.field(default_factory=list, repr=False)`
  return [
    // What leads to other rows is no part of whether two rows are the same.
    '@dataclasses.dataclass(kw_only=True, eq=False)',
    `class ${type}:`,
    `    ${comment([`A row of ${table}.`, note ?? ''].join(' ').trim())}`,
    '',
    `    TABLE: typing.ClassVar[str] = ${quoted(table)}`,
    '    # What a row is found by.',
    `    KEY: typing.ClassVar[tuple[str, ...]] = (${key.map((name) => `${quoted(name)},`).join(' ')})`,
    '',
    ...fields.flatMap((field) => [
      ...says(noteIn(field, typeOf(field) === 'str')),
      field.optional || field.given !== undefined
        ? empty(field.name, typeOf(field))
        : `    ${field.name}: ${typeOf(field)}`
    ]),
    ...figures.flatMap((figure) => [
      ...says(`${figure.says}; where it is asked for.`),
      empty(figure.name, typeOf(figure))
    ]),
    ...ends.flatMap((end) => [
      ...says(end.says),
      end.many
        ? many(end.name, end.to)
        : `    ${end.name}: typing.Optional[${end.to}] = dataclasses.field(default=None, repr=False)`
    ]),
    ...across.flatMap(({ name, to, through }) => [...says(`By way of ${through}.`), many(name, to)])
  ]
}
