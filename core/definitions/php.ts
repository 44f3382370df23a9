import type { Design } from '../design/model.ts'
import { FreeNames, identifier, type Tongue } from './code-names.ts'
import { madeBy, oneLine, type CodeFile } from './made-by.ts'
import { noteIn } from './nearest.ts'
import { shapeOf, type Entity, type Field, type List } from './shape.ts'

/** What cannot be the name of a class, nor well that of anything else (PHP manual, “List of Keywords” and what follows). */
const KEYWORDS =
  '__halt_compiler abstract and array as bool break callable case catch class clone const continue declare default die do echo else elseif empty enddeclare endfor endforeach endif endswitch endwhile enum eval exit extends false final finally float fn for foreach function global goto if implements include include_once instanceof insteadof int interface isset iterable list match mixed namespace never new null numeric object or parent print private protected public readonly require require_once resource return self static string switch this throw trait true try unset use var void while xor yield'
const upper = (word: string): string => word.charAt(0).toUpperCase() + word.slice(1)

export const PHP_WORDS: ReadonlySet<string> = new Set(KEYWORDS.split(' '))

/** How names are written in PHP: in those of classes small and large letters are the same. */
export const PHP: Tongue = {
  types: 'UpperCamel',
  fields: 'lowerCamel',
  plainLetters: true,
  foldsTypes: true,
  reserved: new Set([...KEYWORDS.split(' '), ...KEYWORDS.split(' ').map(upper), 'KEY', 'TABLE'])
}

/**
 * Plain classes for PHP 8.1 and later, a file for each: typed properties, both ends of each relationship as one object
 * or a list, and what a row is found by. No framework knows of them.
 */
export function toPhp(design: Design, namespace: string, tongue: Tongue = PHP, version?: string): CodeFile[] {
  const shape = shapeOf(design, tongue, version)
  const { entities, lists, remarks } = shape
  const head = [
    '<?php',
    ...[...madeBy(shape), ...remarks].map((line) => `// ${inComment(line)}`),
    'declare(strict_types=1);',
    '',
    `namespace ${namespace};`,
    ''
  ]
  const file = (type: string, lines: string[]): CodeFile => ({
    path: `${type}.php`,
    text: `${[...head, ...lines].join('\n')}\n`
  })
  return [
    ...lists.map((list) => file(list.type, enumLines(list))),
    ...entities.map((entity) => file(entity.type, classLines(entity)))
  ]
}

/** A text as one line of a comment: what ends PHP ends it there too. */
const inComment = (text: string): string => oneLine(text).replaceAll('?>', '? >')
const quoted = (text: string): string => `'${text.replaceAll('\\', '\\\\').replaceAll("'", "\\'")}'`

function enumLines({ type, name, values }: List): string[] {
  const free = new FreeNames()
  const cases = values.map((value, at) => {
    const called = free.give(identifier(value, 'UpperCamel', PHP, `value ${at + 1}`))
    return `    case ${called} = ${quoted(value)};`
  })
  return [`/** The list of values ${inComment(name)}. */`, `enum ${type}: string`, '{', ...cases, '}']
}

function typeOf({ type, list }: Pick<Field, 'type' | 'list'>): string {
  return list ?? KINDS[type.kind]
}

const KINDS: Record<Field['type']['kind'], string> = {
  integer: 'int',
  decimal: 'string',
  float: 'float',
  boolean: 'bool',
  text: 'string',
  char: 'string',
  date: '\\DateTimeImmutable',
  time: 'string',
  timestamp: '\\DateTimeImmutable',
  interval: 'string',
  uuid: 'string',
  json: 'mixed',
  binary: 'string',
  enum: 'string',
  native: 'mixed'
}

function classLines({ type, table, note, key, fields, figures, ends, across }: Entity): string[] {
  const says = (words: string): string => `    /** ${inComment(words)} */`
  const notes = (field: Field): string[] => {
    const note = noteIn(field, typeOf(field) === 'string')
    return note ? [says(note)] : []
  }
  const maybe = (php: string): string => (php === 'mixed' ? 'mixed' : `?${php}`)
  const propertyOf = (field: Field): string[] => [
    ...notes(field),
    field.optional
      ? `    public ${maybe(typeOf(field))} $${field.name} = null;`
      : `    public ${typeOf(field)} $${field.name};`
  ]
  const many = (name: string, to: string, words: string): string[] => [
    `    /** @var list<${to}> ${inComment(words)} */`,
    `    public array $${name} = [];`
  ]
  return [
    `/** ${inComment([`A row of ${table}.`, note ?? ''].join(' '))} */`,
    `final class ${type}`,
    '{',
    `    public const TABLE = ${quoted(table)};`,
    '    /** What a row is found by. */',
    `    public const KEY = [${key.map(quoted).join(', ')}];`,
    '',
    ...fields.flatMap(propertyOf),
    ...figures.flatMap((figure) => [
      says(`${figure.says}; where it is asked for.`),
      `    public ${maybe(typeOf(figure))} $${figure.name} = null;`
    ]),
    ...ends.flatMap((end) =>
      end.many
        ? many(end.name, end.to, end.says)
        : [
            says(end.says),
            end.holds && !end.optional
              ? `    public ${end.to} $${end.name};`
              : `    public ?${end.to} $${end.name} = null;`
          ]
    ),
    ...across.flatMap(({ name, to, through }) => many(name, to, `By way of ${through}.`)),
    '}'
  ]
}
