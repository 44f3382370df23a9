import { BINDS, type BinaryOperator, type Divided, type Expression, type NativeCall } from './expression.ts'
import { functionCalled } from './functions.ts'
import { likePattern, likeParts, type LikePart } from './like.ts'

/**
 * How a dialect says what the dialects say differently. Everything that comes out of here is quoted by the
 * dialect.
 */
export interface ExpressionWords {
  column(name: string): string
  text(value: string): string
  boolean(value: boolean): string
  /** A call with its arguments written. */
  call(name: string, args: readonly string[]): string
  concat?(left: string, right: string): string
  /** A quotient and a rest, where the dialect says them otherwise for such numbers; nothing where not. */
  quotient?(left: string, right: string, numbers: Divided): string | undefined
  rest?(left: string, right: string, numbers: Divided): string | undefined
  /** An engine's own function, with how its arguments are written. */
  native?(calls: readonly NativeCall[], write: (argument: Expression) => string): string
  /** What stands behind NOT or nothing for LIKE with a pattern that is known, by its parts. */
  like(parts: readonly LikePart[], escape: string | undefined): string
  /** The same with a pattern that is worked out, where the dialect's own LIKE would read it otherwise. */
  likeOf?(pattern: string): string
  /**
   * Where a truth value is no condition and a condition no value: whether the part is a truth value (a
   * column, say), and what makes it a condition or a condition a value.
   */
  truth?: {
    isValue(part: Expression): boolean
    toCondition(value: string): string
    /** `isSure`: it is true or false, and never cannot be told. */
    toValue(condition: string, isSure: boolean): string
  }
}

/** Something that must not be written as SQL came to a writer: nothing that was judged holds any such. */
export class Unwritable extends Error {}

const CONDITIONS = new Set(['or', 'and', '=', '<>', '<', '<=', '>', '>=', 'like', 'not like'])

function isCondition(part: Expression): boolean {
  return (
    part.kind === 'not' ||
    part.kind === 'isNull' ||
    part.kind === 'in' ||
    part.kind === 'between' ||
    (part.kind === 'binary' && CONDITIONS.has(part.op))
  )
}

/**
 * An expression as text, with no more parentheses than it needs. `as` says what it stands for, where the
 * dialect tells conditions from values.
 */
export function printExpression(
  expression: Expression,
  words: ExpressionWords,
  as: 'condition' | 'value' = 'condition'
): string {
  return new Printer(words).in(expression, 0, as)
}

/** LIKE as the standard has it: the pattern with its escape character, where it has one. */
export function plainLike(parts: readonly LikePart[], escape: string | undefined): string {
  const text = (value: string): string => `'${value.replaceAll("'", "''")}'`
  if (escape === undefined) return `LIKE ${text(likePattern(parts, (said) => said))}`
  const escaped = likePattern(parts, (said) =>
    [...said].map((char) => (char === escape || char === '%' || char === '_' ? escape + char : char)).join('')
  )
  return `LIKE ${text(escaped)} ESCAPE ${text(escape)}`
}

/** LIKE where a backslash makes a wildcard stand for itself, whether anybody says so or not. */
export const backslashLike =
  (quoteText: (text: string) => string) =>
  (parts: readonly LikePart[]): string =>
    `LIKE ${quoteText(likePattern(parts, (said) => said.replaceAll(/[\\%_]/g, '\\$&')))}`

class Printer {
  constructor(private readonly words: ExpressionWords) {}

  in(part: Expression, level: number, as: 'condition' | 'value'): string {
    const { truth } = this.words
    if (truth && as === 'condition' && !isCondition(part) && truth.isValue(part))
      return truth.toCondition(this.write(part, BINDS['=']))
    if (truth && as === 'value' && isCondition(part))
      return truth.toValue(this.write(part, 0), part.kind === 'isNull')
    return this.write(part, level)
  }

  private native({ calls }: Extract<Expression, { kind: 'native' }>): string {
    const { native } = this.words
    if (!native) throw new Unwritable('a function of one engine is written for another')
    return native(calls, (each) => this.in(each, 0, 'value'))
  }

  /** LIKE and its pattern. */
  private like({ right, escape }: Extract<Expression, { kind: 'binary' }>): string {
    const { like, likeOf } = this.words
    const parts = right.kind === 'text' ? likeParts(right.value, escape) : undefined
    if (parts) return like(parts, escape)
    return likeOf ? likeOf(this.in(right, 0, 'value')) : `LIKE ${this.in(right, BINDS.like, 'value')}`
  }

  private write(part: Expression, level: number): string {
    const value = (of: Expression, inside: number): string => this.in(of, inside, 'value')
    const wrap = (binds: number, text: string): string => (binds <= level ? `(${text})` : text)
    const not = (on: boolean): string => (on ? 'NOT ' : '')
    switch (part.kind) {
      case 'number':
        return number(part.text)
      case 'text':
        return part.written ?? this.words.text(part.value)
      case 'boolean':
        return this.words.boolean(part.value)
      case 'null':
        return 'NULL'
      case 'column':
        return this.words.column(part.name)
      case 'call':
        return this.words.call(
          known(part.name),
          part.args.map((each) => value(each, 0))
        )
      case 'native':
        return this.native(part)
      case 'not':
        return wrap(BINDS.not, `NOT ${this.in(part.of, BINDS.not, 'condition')}`)
      // A space, so that a minus before a minus never begins a comment.
      case 'negative':
        return wrap(
          BINDS.negative,
          `-${part.of.kind === 'negative' ? ' ' : ''}${value(part.of, BINDS.negative - 1)}`
        )
      case 'isNull':
        return wrap(BINDS.test, `${value(part.of, BINDS.test)} IS ${not(part.not)}NULL`)
      case 'in':
        return wrap(
          BINDS.test,
          `${value(part.of, BINDS.test)} ${not(part.not)}IN (${part.list.map((each) => value(each, 0)).join(', ')})`
        )
      case 'between':
        return wrap(
          BINDS.test,
          `${value(part.of, BINDS.test)} ${not(part.not)}BETWEEN ${value(part.low, BINDS.test)} AND ${value(part.high, BINDS.test)}`
        )
      case 'case': {
        const branches = part.branches.map(
          ({ when, then }) => `WHEN ${this.in(when, 0, 'condition')} THEN ${value(then, 0)}`
        )
        return `CASE ${branches.join(' ')}${part.otherwise ? ` ELSE ${value(part.otherwise, 0)}` : ''} END`
      }
      case 'spoken':
        return part.say(part.of.map((each) => value(each, 0)))
      case 'binary': {
        const { op } = part
        if (op === '||' && this.words.concat)
          return this.words.concat(value(part.left, 0), value(part.right, 0))
        const divided = op === '/' ? this.words.quotient : op === '%' ? this.words.rest : undefined
        const said = divided?.(
          value(part.left, BINDS['%']),
          value(part.right, BINDS['%']),
          part.numbers ?? 'exact'
        )
        if (said !== undefined) return wrap(BINDS['%'], said)
        if (op === 'like' || op === 'not like')
          return wrap(BINDS[op], `${value(part.left, BINDS[op])} ${not(op === 'not like')}${this.like(part)}`)
        const as = op === 'and' || op === 'or' ? 'condition' : 'value'
        const [left, right] =
          op === '||' ||
          op === '+' ||
          op === '*' ||
          op === 'and' ||
          op === 'or' ||
          op === '-' ||
          op === '/' ||
          op === '%'
            ? [BINDS[op] - 1, BINDS[op]]
            : [BINDS[op], BINDS[op]]
        return wrap(
          BINDS[op],
          `${this.in(part.left, left, as)} ${op.toUpperCase()} ${this.in(part.right, right, as)}`
        )
      }
    }
  }
}

/** The name of a function that there is; it stands in SQL without quotes. */
function known(name: string): string {
  if (!functionCalled(name)) throw new Unwritable(`there is no function ${name.slice(0, 40)}`)
  return name
}

function number(text: string): string {
  if (!/^\d+(?:\.\d+)?(?:e[+-]?\d+)?$/i.test(text)) throw new Unwritable(`${text.slice(0, 40)} is no number`)
  return text
}

/** The spelling in which a person reads and writes an expression; {@link parseExpression} reads it back. */
export function plainWords(column: (name: string) => string): ExpressionWords {
  return {
    column,
    text: (value) => `'${value.replaceAll("'", "''")}'`,
    boolean: (value) => (value ? 'TRUE' : 'FALSE'),
    call: (name, args) => `${name}(${args.join(', ')})`,
    native: (calls, write) => {
      const said = calls.map(({ dialect, path, args }) => {
        const name = path
          .map(({ text, quoted }) => (quoted ? `"${text.replaceAll('"', '""')}"` : text))
          .join('.')
        return `${dialect === 'any' ? '' : `${dialect}: `}${name}(${args.map(write).join(', ')})`
      })
      return `native(${said.join('; ')})`
    },
    like: plainLike
  }
}

const WORDS =
  /^(?:and|or|not|is|in|between|like|escape|case|when|then|else|end|null|true|false|select|from|current_user|current_timestamp|current_date)$/i

/** A column's name in an expression, in double quotes unless it is a plain word. */
export const plainName = (name: string): string =>
  /^[\p{L}_][\p{L}\p{N}_]*$/u.test(name) && !WORDS.test(name) ? name : `"${name.replaceAll('"', '""')}"`

/**
 * One spelling for expressions that engines print differently and mean the same: between as two
 * comparisons, a list of one as an equality, negations at the front, truth values as 1 and 0.
 */
export function meaning(expression: Expression): string {
  return said(expression)
}

function said(part: Expression): string {
  switch (part.kind) {
    case 'number':
      return plainNumber(part.text)
    case 'text':
      return JSON.stringify(part.value.trimEnd())
    case 'boolean':
      return part.value ? '1' : '0'
    case 'null':
      return 'null'
    case 'column':
      return `[${part.name}]`
    case 'call': {
      // To round is to round to no digits behind the point, said or not.
      const [, digits] = part.args
      const plain = part.name === 'round' && digits?.kind === 'number' && Number(digits.text) === 0
      return `${part.name}(${(plain ? part.args.slice(0, 1) : part.args).map(said).join(',')})`
    }
    case 'native':
      return part.calls
        .map(
          ({ path, args }) =>
            `${path.map(({ text }) => text.toLowerCase()).join('.')}(${args.map(said).join(',')})`
        )
        .join(';')
    case 'not':
      return negated(part.of)
    case 'negative':
      return part.of.kind === 'number' ? `-${said(part.of)}` : `-(${said(part.of)})`
    case 'isNull':
      return part.not ? `not(null?(${said(part.of)}))` : `null?(${said(part.of)})`
    case 'in': {
      const list = part.list.map(said)
      const inside =
        list.length === 1
          ? `(${said(part.of)}=${list[0] as string})`
          : `in(${said(part.of)};${list.join(',')})`
      return part.not
        ? list.length === 1
          ? `(${said(part.of)}<>${list[0] as string})`
          : `not(${inside})`
        : inside
    }
    case 'between': {
      const [low, high] = [`(${said(part.of)}>=${said(part.low)})`, `(${said(part.of)}<=${said(part.high)})`]
      return part.not
        ? `or((${said(part.of)}<${said(part.low)}),(${said(part.of)}>${said(part.high)}))`
        : `and(${low},${high})`
    }
    case 'case':
      return `case(${part.branches.map(({ when, then }) => `${said(when)}:${said(then)}`).join(';')};${part.otherwise && part.otherwise.kind !== 'null' ? said(part.otherwise) : ''})`
    case 'spoken':
      return part.say(part.of.map(said))
    case 'binary': {
      if (part.op === 'and' || part.op === 'or') return `${part.op}(${chain(part, part.op).join(',')})`
      if (part.op === '||') return `||(${chain(part, '||').join(',')})`
      if (part.op === 'not like')
        return `not((${said(part.left)}like${said(part.right)}${part.escape ?? ''}))`
      return `(${said(part.left)}${part.op}${said(part.right)}${part.escape ?? ''})`
    }
  }
}

const OPPOSITE: Partial<Record<BinaryOperator, BinaryOperator>> = {
  '=': '<>',
  '<>': '=',
  '<': '>=',
  '>=': '<',
  '>': '<=',
  '<=': '>',
  like: 'not like',
  'not like': 'like'
}

/** A negation carried inwards as far as it goes, as some engines do; the same in three-valued logic. */
function negated(part: Expression): string {
  if (part.kind === 'not') return said(part.of)
  if (part.kind === 'isNull' || part.kind === 'in' || part.kind === 'between')
    return said({ ...part, not: !part.not })
  if (part.kind === 'binary') {
    const opposite = OPPOSITE[part.op]
    if (opposite) return said({ ...part, op: opposite })
    if (part.op === 'and' || part.op === 'or')
      return said({
        ...part,
        op: part.op === 'and' ? 'or' : 'and',
        left: { kind: 'not', of: part.left },
        right: { kind: 'not', of: part.right }
      })
  }
  return `not(${said(part)})`
}

/** The members of `a and b and c`, however they were grouped. */
function chain(part: Expression, op: 'and' | 'or' | '||'): string[] {
  if (
    part.kind === 'not' &&
    part.of.kind === 'binary' &&
    part.of.op === (op === 'and' ? 'or' : 'and') &&
    op !== '||'
  )
    return [...chain({ kind: 'not', of: part.of.left }, op), ...chain({ kind: 'not', of: part.of.right }, op)]
  if (part.kind === 'between' && part.not && op === 'or')
    return [`(${said(part.of)}<${said(part.low)})`, `(${said(part.of)}>${said(part.high)})`]
  if (part.kind === 'binary' && part.op === op) return [...chain(part.left, op), ...chain(part.right, op)]
  if (op === 'and' && part.kind === 'between' && !part.not)
    return [`(${said(part.of)}>=${said(part.low)})`, `(${said(part.of)}<=${said(part.high)})`]
  return [said(part)]
}

function plainNumber(text: string): string {
  if (/e/i.test(text)) return String(Number(text))
  const [whole = '0', fraction = ''] = text.split('.')
  const rest = fraction.replace(/0+$/, '')
  return `${whole.replace(/^0+(?=\d)/, '')}${rest && `.${rest}`}`
}
