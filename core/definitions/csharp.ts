import type { Design } from '../design/model.ts'
import { FreeNames, identifier, type Tongue } from './code-names.ts'
import { madeBy, oneLine } from './made-by.ts'
import { noteIn } from './nearest.ts'
import { shapeOf, type Entity, type Field, type List } from './shape.ts'

/** Keywords (ECMA-334, 6.4.4). */
const KEYWORDS =
  'abstract as base bool break byte case catch char checked class const continue decimal default delegate do double else enum event explicit extern false finally fixed float for foreach goto if implicit in int interface internal is lock long namespace new null object operator out override params private protected public readonly ref return sbyte sealed short sizeof stackalloc static string struct switch this throw true try typeof uint ulong unchecked unsafe ushort using virtual void volatile while'
export const CSHARP_WORDS: ReadonlySet<string> = new Set(KEYWORDS.split(' '))

/** What every object has already, and what the file itself uses: no member may be called so. */
const OWN =
  'Equals Finalize GetHashCode GetType MemberwiseClone ReferenceEquals ToString DateTime DateTimeOffset EnumMember Guid IList List Object String System TimeSpan KeyNames TableName'

/** How names are written in C#; its own words are in small letters, and these begin with a large one. */
export const CSHARP: Tongue = {
  types: 'UpperCamel',
  fields: 'UpperCamel',
  plainLetters: true,
  membersNotAsType: true,
  reserved: new Set(OWN.split(' '))
}

/**
 * Plain classes for C#: typed properties, both ends of each relationship as one object or a list, and what a row is
 * found by. No framework knows of them. References may be null where it is said, which C# before 8 cannot say in types.
 */
export function toCsharp(design: Design, namespace: string, version?: string): string {
  const shape = shapeOf(design, CSHARP, version)
  const { entities, lists, remarks } = shape
  const lines = [
    ...[...madeBy(shape), ...remarks].map((line) => `// ${oneLine(line)}`),
    'using System;',
    'using System.Collections.Generic;',
    'using System.Runtime.Serialization;',
    '',
    `namespace ${namespace}`,
    '{',
    ...[...lists.map(enumLines), ...entities.map(classLines)].flatMap((block, at) => [
      ...(at > 0 ? [''] : []),
      ...block.map((line) => (line === '' ? '' : `    ${line}`))
    ]),
    '}'
  ]
  return `${lines.join('\n')}\n`
}

const quoted = (text: string): string => JSON.stringify(text)
/** Words over what is declared, as its documentation has them. */
const summary = (text: string | undefined, before = ''): string[] =>
  text
    ? [
        `${before}/// <summary>${oneLine(text).replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;')}</summary>`
      ]
    : []

function enumLines({ type, name, values }: List): string[] {
  const free = new FreeNames()
  const members = values.map((value, at) => {
    const called = free.give(identifier(value, 'UpperCamel', CSHARP, `value ${at + 1}`))
    return `    [EnumMember(Value = ${quoted(value)})] ${called},`
  })
  return [...summary(`The list of values ${name}.`), `public enum ${type}`, '{', ...members, '}']
}

const KINDS: Record<Field['type']['kind'], string> = {
  integer: 'int',
  decimal: 'decimal',
  float: 'double',
  boolean: 'bool',
  text: 'string',
  char: 'string',
  date: 'DateTime',
  time: 'TimeSpan',
  timestamp: 'DateTime',
  interval: 'string',
  uuid: 'Guid',
  json: 'string',
  binary: 'byte[]',
  enum: 'string',
  native: 'object'
}
/** What is null by itself where it is empty. */
const REFERENCES = new Set(['string', 'byte[]', 'object'])

function typeOf({ type, list }: Pick<Field, 'type' | 'list'>): string {
  if (list !== undefined) return list
  if (type.kind === 'integer') return { small: 'short', normal: 'int', big: 'long' }[type.size]
  if (type.kind === 'timestamp' && type.zone) return 'DateTimeOffset'
  return KINDS[type.kind]
}

function classLines({ type, table, note, key, fields, figures, ends, across }: Entity): string[] {
  const property = (csharp: string, name: string): string => `    public ${csharp} ${name} { get; set; }`
  const many = (name: string, to: string): string =>
    `    public IList<${to}> ${name} { get; set; } = new List<${to}>();`
  const maybe = (csharp: string): string => (REFERENCES.has(csharp) ? csharp : `${csharp}?`)
  const orNull = (words: string | undefined, csharp: string): string | undefined =>
    REFERENCES.has(csharp) ? [words, 'It may be null.'].filter(Boolean).join(' ') : words
  const noted = (field: Field): string | undefined => {
    const note = noteIn(field, typeOf(field) === 'string')
    return field.optional ? orNull(note, typeOf(field)) : note
  }
  return [
    ...summary([`A row of ${table}.`, note ?? ''].join(' ').trim()),
    `public class ${type}`,
    '{',
    `    public const string TableName = ${quoted(table)};`,
    ...summary('What a row is found by.', '    '),
    `    public static readonly string[] KeyNames = { ${key.map(quoted).join(', ')} };`,
    '',
    ...fields.flatMap((field) => [
      ...summary(noted(field), '    '),
      property(field.optional ? maybe(typeOf(field)) : typeOf(field), field.name)
    ]),
    ...figures.flatMap((figure) => [
      ...summary(`${figure.says}; where it is asked for.`, '    '),
      property(maybe(typeOf(figure)), figure.name)
    ]),
    ...ends.flatMap((end) => [
      ...summary(end.says, '    '),
      end.many ? many(end.name, end.to) : property(end.to, end.name)
    ]),
    ...across.flatMap(({ name, to, through }) => [
      ...summary(`By way of ${through}.`, '    '),
      many(name, to)
    ]),
    '}'
  ]
}
