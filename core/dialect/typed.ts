import type { Type } from '../design/type.ts'
import { sortOfType } from '../design/expressions.ts'
import { COMPARISONS, partsOf, type Expression } from '../sql/expression.ts'
import { dateTextParts, type DateTextPart } from '../sql/date-text.ts'
import { functionCalled, type Sort } from '../sql/functions.ts'

/**
 * Expressions with the types of their parts told, so that each dialect can say what it must say otherwise: a
 * text that stands for a date, a moment with a zone beside one without, a quotient of whole numbers. What is
 * meant is the same everywhere: whole numbers divide into a whole one (as the standard leaves open, and most
 * engines do), and a moment with a zone is seen in UTC where it meets one without.
 */
export interface TypedWords {
  /** A value that is said where nothing beside it tells its type, where the engine must be told. */
  said?(literal: string, typeSql: string): string
  /** A moment with a zone as one without, or the other way round, in UTC whatever the session's zone. */
  moment?(sql: string, from: Type, to: Type): string
  /** A text of fixed length without the blanks that it ends with, where LIKE, or whatever works on texts, sees them. */
  unpadded?(sql: string, inLike: boolean): string
  /** A day or a moment without a zone as text, by the parts of a format. */
  dateText(parts: readonly DateTextPart[], sql: string): string
  /** A value as one of the type; asked for where a column cannot be named that is computed. */
  cast?(sql: string, typeSql: string): string
}

export interface TypedInput {
  /** The type of a column by its id or name. */
  typeOf(column: string): Type | undefined
  /** What the whole is to give; left out where it is a condition. */
  wanted: Type | undefined
  /** A value of a type, as the dialect writes it. */
  literal(value: string, type: Type): string
  words: TypedWords
  /** A type as the dialect writes it; nothing where that cannot be told. */
  typeSql(type: Type): string | undefined
  /** The expression that stands for a column, where the dialect lets no column be named that is computed. */
  instead?(column: string): Expression | undefined
}

const WHOLE: Type = { kind: 'integer', size: 'big' }
const DECIMAL: Type = { kind: 'decimal', precision: 38, scale: 10 }
/** What parts are told of: a moment in UTC. */
const PLAIN_MOMENT: Type = { kind: 'timestamp', zone: false }
const FLOAT: Type = { kind: 'float' }
/** A type of each kind that a function may give. */
const GIVEN: Partial<Record<Sort, Type>> = {
  number: WHOLE,
  text: { kind: 'text' },
  boolean: { kind: 'boolean' },
  date: { kind: 'date' },
  timestamp: { kind: 'timestamp', zone: true },
  uuid: { kind: 'uuid' }
}

/** The expression as the dialect can say it; what it is made of stays as it is. */
export function typed(expression: Expression, input: TypedInput): Expression {
  return new Typing(input).write(expression, input.wanted, 'beside')
}

/** The type of an expression, as far as it can be told: a text or NULL by itself has none. */
export function typeOfExpression(
  expression: Expression,
  typeOf: (column: string) => Type | undefined
): Type | undefined {
  const type = (part: Expression): Type | undefined => typeOfExpression(part, typeOf)
  switch (expression.kind) {
    case 'number':
      return /^\d+$/.test(expression.text) ? WHOLE : DECIMAL
    case 'boolean':
    case 'not':
    case 'isNull':
    case 'in':
    case 'between':
      return { kind: 'boolean' }
    case 'column':
      return typeOf(expression.name)
    case 'negative':
      return type(expression.of)
    case 'case':
      return oneType([
        ...expression.branches.map(({ then }) => type(then)),
        ...(expression.otherwise ? [type(expression.otherwise)] : [])
      ])
    case 'call':
      return typeOfCall(expression.name, expression.args.map(type))
    case 'binary':
      return typeOfBinary(expression.op, type(expression.left), type(expression.right))
    default:
      return undefined
  }
}

function typeOfCall(name: string, args: readonly (Type | undefined)[]): Type | undefined {
  const found = functionCalled(name)
  if (!found) return undefined
  if (name === 'abs') return args[0]
  if (name === 'round') return args[0]?.kind === 'decimal' ? DECIMAL : args[0]
  return found.gives === 'first' ? oneType(args) : GIVEN[found.gives]
}

function typeOfBinary(op: string, left: Type | undefined, right: Type | undefined): Type | undefined {
  if (op === '||') return { kind: 'text' }
  return ['+', '-', '*', '/', '%'].includes(op) ? oneType([left, right]) : { kind: 'boolean' }
}

/** What values of several types come to where they stand for each other: the widest number, the plain moment. */
function oneType(types: readonly (Type | undefined)[]): Type | undefined {
  const known = types.filter((type) => type !== undefined)
  const [first] = known
  if (!first) return undefined
  switch (sortOfType(first)) {
    case 'number':
      if (known.some(({ kind }) => kind === 'float')) return FLOAT
      return known.some(({ kind }) => kind === 'decimal') ? DECIMAL : WHOLE
    case 'date':
    case 'timestamp':
      return known.find(isPlainMoment) ?? first
    default:
      return first
  }
}

const isMoment = ({ kind }: Type): boolean => kind === 'timestamp' || kind === 'date'
const isZoned = (type: Type): boolean => type.kind === 'timestamp' && type.zone
const isPlainMoment = (type: Type): boolean => isMoment(type) && !isZoned(type)
/** A day that is written where a moment is asked for is its first; not every engine takes it so. */
const wholeMoment = (part: Expression): Expression =>
  part.kind === 'text' && /^\d{4}-\d\d-\d\d$/.test(part.value)
    ? { ...part, value: `${part.value} 00:00:00` }
    : part

/** Where a text stands: beside something that tells its type, or by itself. */
type Place = 'beside' | 'alone'

class Typing {
  constructor(private readonly input: TypedInput) {}

  private typeOf(part: Expression): Type | undefined {
    return typeOfExpression(part, (column) => this.input.typeOf(column))
  }

  /** The part as it is written where a value of the type is wanted. */
  write(part: Expression, wanted: Type | undefined, place: Place): Expression {
    switch (part.kind) {
      case 'text':
        return this.text(part, wanted, place)
      case 'null':
        return this.nothing(part, wanted, place)
      case 'column':
        return this.moment(this.column(part), this.typeOf(part), wanted)
      case 'case':
        return {
          ...part,
          branches: part.branches.map(({ when, then }) => ({
            when: this.write(when, undefined, 'alone'),
            then: this.write(then, wanted ?? this.typeOf(part), 'alone')
          })),
          otherwise: part.otherwise && this.write(part.otherwise, wanted ?? this.typeOf(part), 'alone')
        }
      case 'call':
        return this.call(part, wanted)
      case 'native':
        return {
          ...part,
          calls: part.calls.map((call) => ({
            ...call,
            args: call.args.map((each) => this.write(each, undefined, 'alone'))
          }))
        }
      case 'binary':
        return this.binary(part)
      case 'in': {
        const one = oneType([part.of, ...part.list].map((each) => this.typeOf(each)))
        const list = part.list.map((each) => this.write(each, one, 'beside'))
        return { ...part, of: this.write(part.of, one, 'beside'), list }
      }
      case 'between': {
        const { of, low, high } = part
        const one = oneType([of, low, high].map((each) => this.typeOf(each)))
        const write = (each: Expression): Expression => this.write(each, one, 'beside')
        return { ...part, of: write(of), low: write(low), high: write(high) }
      }
      case 'not':
      case 'negative':
      case 'isNull':
        return { ...part, of: this.write(part.of, undefined, 'alone') }
      default:
        return part
    }
  }

  /** A text that stands for a value of another type is written as the dialect writes such values. */
  private text(
    part: Extract<Expression, { kind: 'text' }>,
    wanted: Type | undefined,
    place: Place
  ): Expression {
    if (!wanted || sortOfType(wanted) === 'text') return part
    const { literal, words, typeSql } = this.input
    const plain = literal(part.value, wanted)
    const type = place === 'alone' && words.said ? typeSql(wanted) : undefined
    return { ...part, written: type && words.said ? words.said(plain, type) : plain }
  }

  /** Nothing, of a type where the engine must be told. */
  private nothing(part: Expression, wanted: Type | undefined, place: Place): Expression {
    const { words, typeSql } = this.input
    const type = wanted && place === 'alone' && words.said ? typeSql(wanted) : undefined
    const sql = type && words.said?.('NULL', type)
    return sql === undefined ? part : { kind: 'spoken', of: [], isTruth: false, say: () => sql }
  }

  /** The column, or what it is computed from, as a value of the type that it is kept in. */
  private column(part: Extract<Expression, { kind: 'column' }>): Expression {
    const { instead, typeOf, typeSql, words } = this.input
    const [computed, type] = [instead?.(part.name), typeOf(part.name)]
    if (!computed || !type) return part
    const sql = typeSql(type)
    const say = (inner: string): string => (sql && words.cast ? words.cast(inner, sql) : `(${inner})`)
    const written = this.write(computed, type, 'alone')
    return {
      kind: 'spoken',
      of: [written],
      isTruth: type.kind === 'boolean',
      say: ([inner = '']) => say(inner)
    }
  }

  private unpadded(part: Expression, inLike: boolean): Expression {
    const written = this.write(part, undefined, 'alone')
    const { unpadded } = this.input.words
    if (!unpadded || part.kind !== 'column' || this.typeOf(part)?.kind !== 'char') return written
    return { kind: 'spoken', of: [written], isTruth: false, say: ([sql = '']) => unpadded(sql, inLike) }
  }

  /** A moment where one with, or without, a zone is wanted. */
  private moment(written: Expression, type: Type | undefined, wanted: Type | undefined): Expression {
    const { moment } = this.input.words
    if (!moment || !type || !wanted || !isMoment(type) || !isMoment(wanted)) return written
    if (isZoned(type) === isZoned(wanted)) return written
    return { kind: 'spoken', of: [written], isTruth: false, say: ([sql = '']) => moment(sql, type, wanted) }
  }

  private call(part: Extract<Expression, { kind: 'call' }>, wanted: Type | undefined): Expression {
    const of = this.typeOf(part)
    // What is whole is rounded; some engines would give it back as something else.
    const [first] = part.args
    if (part.name === 'round' && first && this.typeOf(first)?.kind === 'integer')
      return this.write(first, wanted, 'alone')
    if (functionCalled(part.name)?.takes[0] === 'timestamp') return this.ofMoment(part)
    const takesOneKind = functionCalled(part.name)?.gives === 'first'
    if (!takesOneKind) {
      const args = part.args.map((each) => this.unpadded(each, false))
      return this.moment({ ...part, args }, of, wanted)
    }
    // What is compared by NULLIF is of one type, whatever the result is put into.
    const one = oneType(part.args.map((each) => this.typeOf(each)))
    const fits = part.name === 'coalesce' && of && wanted && sortOfType(of) === sortOfType(wanted)
    const type = fits ? wanted : (one ?? wanted)
    const args = part.args.map((each) => this.write(each, type, 'alone'))
    return this.moment({ ...part, args }, type, wanted)
  }

  /** A part of a moment, or a format of it. */
  private ofMoment(part: Extract<Expression, { kind: 'call' }>): Expression {
    const [moment, format] = part.args
    const written = moment && this.write(wholeMoment(moment), PLAIN_MOMENT, 'alone')
    if (!written) return part
    const parts = format?.kind === 'text' ? dateTextParts(format.value) : undefined
    if (!parts) return { ...part, args: [written] }
    const { dateText } = this.input.words
    return { kind: 'spoken', of: [written], isTruth: false, say: ([sql = '']) => dateText(parts, sql) }
  }

  private binary(part: Extract<Expression, { kind: 'binary' }>): Expression {
    const { op, left, right } = part
    if ((COMPARISONS as readonly string[]).includes(op)) {
      const one = oneType([this.typeOf(left), this.typeOf(right)])
      return { ...part, left: this.write(left, one, 'beside'), right: this.write(right, one, 'beside') }
    }
    const isText = op === '||' || op === 'like' || op === 'not like'
    const side = (each: Expression): Expression =>
      isText ? this.unpadded(each, op !== '||') : this.write(each, undefined, 'alone')
    const written = { ...part, left: side(left), right: side(right) }
    if (op !== '/' && op !== '%') return written
    const kind = this.typeOf(part)?.kind
    return { ...written, numbers: kind === 'integer' ? 'whole' : kind === 'float' ? 'float' : 'exact' }
  }
}

/** What stands for each other in an expression: the types that are known, and the texts that stand for values. */
export interface Meeting {
  types: Type[]
  texts: string[]
}

/** Everything in an expression that is compared or put in for something else, the parts of parts included. */
export function typesThatMeet(
  expression: Expression,
  typeOf: (column: string) => Type | undefined,
  wanted: Type | undefined
): Meeting[] {
  const met = (parts: readonly Expression[], type?: Type): Meeting => {
    const all = parts.flatMap(alternatives)
    const types = all.flatMap((part) => typeOfExpression(part, typeOf) ?? [])
    const texts = all.flatMap((part) => (part.kind === 'text' ? [part.value] : []))
    return { types: type ? [type, ...types] : types, texts }
  }
  const within = (part: Expression): Meeting[] => {
    const comparands = comparandsOf(part)
    return [...(comparands.length > 0 ? [met(comparands)] : []), ...partsOf(part).flatMap(within)]
  }
  return [...(wanted ? [met([expression], wanted)] : []), ...within(expression)]
}

/** What an expression may give: itself, or where it chooses, what it chooses from. */
function alternatives(part: Expression): Expression[] {
  if (part.kind === 'case')
    return [...part.branches.map(({ then }) => then), ...(part.otherwise ? [part.otherwise] : [])].flatMap(
      alternatives
    )
  const chooses = part.kind === 'call' && functionCalled(part.name)?.gives === 'first'
  return chooses ? part.args.flatMap(alternatives) : [part]
}

/** The parts of an expression that must be of one type. */
function comparandsOf(part: Expression): Expression[] {
  switch (part.kind) {
    case 'binary':
      return (COMPARISONS as readonly string[]).includes(part.op) ? [part.left, part.right] : []
    case 'in':
      return [part.of, ...part.list]
    case 'between':
      return [part.of, part.low, part.high]
    case 'case':
    case 'call':
      return alternatives(part).length > 1 ? alternatives(part) : []
    default:
      return []
  }
}

/** Everything in an expression that is compared with something. */
export function comparedIn(expression: Expression): Expression[] {
  const isComparison =
    expression.kind === 'in' || expression.kind === 'between' || expression.kind === 'binary'
  return [
    ...(isComparison ? comparandsOf(expression).flatMap(alternatives) : []),
    ...partsOf(expression).flatMap(comparedIn)
  ]
}
