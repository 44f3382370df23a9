import { dateTextParts, digitsOf, momentParts, weekdayOf } from './date-text.ts'
import { likePattern, likeParts } from './like.ts'
import { exact, isExact, plainNumber, type ExactNumber } from './number.ts'
import type { BinaryOperator, Expression } from './expression.ts'

/** A value of an expression: as a design holds it, but for numbers, which are exact. */
type Worked = string | boolean | null | ExactNumber
/** A value as a design holds it (core/design/value.ts). */
export type PlainValue = string | number | boolean | null

/** Something that cannot be worked out here: a division, the present moment. */
class Unknown extends Error {}

/** What stands in a column, and whether it is a number, which as text would compare otherwise. */
export interface Operand {
  value: PlainValue
  isNumber: boolean
}

/**
 * What an expression gives, in the three-valued logic of SQL (ISO/IEC 9075-2, 8): null where it cannot be
 * told because a value is empty; undefined where it cannot be worked out without an engine.
 * @param column what stands in a column, by the id or name in the expression.
 */
export function evaluateExpression(
  expression: Expression,
  column: (name: string) => Operand | undefined
): PlainValue | undefined {
  return evaluateOperand(expression, column)?.value
}

/** The same, and whether what it gives is a number. */
export function evaluateOperand(
  expression: Expression,
  column: (name: string) => Operand | undefined
): Operand | undefined {
  try {
    const worked = valueOf(expression, column)
    return isExact(worked)
      ? { value: plainNumber(worked), isNumber: true }
      : { value: worked, isNumber: false }
  } catch (error) {
    if (error instanceof Unknown) return undefined
    throw error
  }
}

const unknown = (): never => {
  throw new Unknown()
}

function valueOf(part: Expression, column: (name: string) => Operand | undefined): Worked {
  const value = (of: Expression): Worked => valueOf(of, column)
  switch (part.kind) {
    case 'number':
      return numberOf(part.text)
    case 'text':
    case 'boolean':
      return part.value
    case 'null':
      return null
    case 'column':
      return operandValue(column(part.name) ?? unknown())
    case 'not':
      return negate(truth(value(part.of)))
    case 'negative':
      return arithmetic((a) => a.neg(), value(part.of))
    case 'isNull':
      return (value(part.of) === null) !== part.not
    case 'in':
      return isIn(
        value(part.of),
        part.list.map((each) => value(each)),
        part.not
      )
    case 'between': {
      const of = value(part.of)
      const inside = both(compare('>=', of, value(part.low)), compare('<=', of, value(part.high)))
      return part.not ? negate(inside) : inside
    }
    case 'case': {
      const branch = part.branches.find(({ when }) => value(when) === true)
      if (branch) return value(branch.then)
      return part.otherwise ? value(part.otherwise) : null
    }
    case 'call':
      return call(part.name, part.args.map(value))
    case 'native':
    case 'spoken':
      return unknown()
    case 'binary':
      return isLike(part.op)
        ? like(value(part.left), value(part.right), part)
        : binary(part.op, value(part.left), value(part.right))
  }
}

const numberOf = (value: string | number): ExactNumber => exact(value) ?? unknown()

function operandValue({ value, isNumber }: Operand): Worked {
  if (value === null || typeof value === 'boolean') return value
  return isNumber ? numberOf(value) : String(value)
}

function isIn(of: Worked, list: readonly Worked[], not: boolean): boolean | null {
  const found = list.map((each) => compare('=', of, each))
  const inside = found.includes(true) ? true : found.includes(null) ? null : false
  return not ? negate(inside) : inside
}

function binary(op: BinaryOperator, a: Worked, b: Worked): Worked {
  switch (op) {
    case 'and':
      return both(truth(a), truth(b))
    case 'or':
      return negate(both(negate(truth(a)), negate(truth(b))))
    case '||':
      return a === null || b === null ? null : textOf(a) + textOf(b)
    case '+':
      return arithmetic((x, y) => x.plus(y), a, b)
    case '-':
      return arithmetic((x, y) => x.minus(y), a, b)
    case '*':
      return arithmetic((x, y) => x.times(y), a, b)
    // Whether whole numbers divide into a whole one is each engine's own.
    case '/':
      return unknown()
    case '%':
      return arithmetic((x, y) => (y.eq(0) ? unknown() : x.mod(y)), a, b)
    default:
      return compare(op, a, b)
  }
}

const truth = (value: Worked): boolean | null => (value === null ? null : value === true)
const negate = (value: boolean | null): boolean | null => (value === null ? null : !value)
const textOf = (value: Worked): string => (isExact(value) ? value.toFixed() : String(value))

function both(a: boolean | null, b: boolean | null): boolean | null {
  if (a === false || b === false) return false
  return a === null || b === null ? null : true
}

function arithmetic(
  work: (a: ExactNumber, b: ExactNumber) => ExactNumber,
  a: Worked,
  b: Worked = numberOf(0)
): Worked {
  if (a === null || b === null) return null
  return work(asNumber(a), asNumber(b))
}

const asNumber = (value: Worked): ExactNumber => (isExact(value) ? value : numberOf(String(value)))

function compare(op: string, a: Worked, b: Worked): boolean | null {
  if (a === null || b === null) return null
  const order = isExact(a) || isExact(b) ? asNumber(a).cmp(asNumber(b)) : compareTexts(String(a), String(b))
  switch (op) {
    case '=':
      return order === 0
    case '<>':
      return order !== 0
    case '<':
      return order < 0
    case '<=':
      return order <= 0
    case '>':
      return order > 0
    default:
      return order >= 0
  }
}

/** Texts in the order of their code points: below zero where the first comes first. */
export function compareTexts(a: string, b: string): number {
  const shorter = Math.min(a.length, b.length)
  let at = 0
  while (at < shorter && a.charCodeAt(at) === b.charCodeAt(at)) at++
  return at < shorter ? (a.codePointAt(at) ?? 0) - (b.codePointAt(at) ?? 0) : a.length - b.length
}

const isLike = (op: BinaryOperator): boolean => op === 'like' || op === 'not like'

function like(
  text: Worked,
  pattern: Worked,
  { op, escape }: { op: BinaryOperator; escape?: string }
): boolean | null {
  if (text === null || pattern === null) return null
  const parts = likeParts(textOf(pattern), escape) ?? unknown()
  const plain = (said: string): string => said.replaceAll(/[\\^$.*+?()[\]{}|]/g, '\\$&')
  const source = likePattern(parts, plain, ['[\\s\\S]*', '[\\s\\S]'])
  return new RegExp(`^${source}$`, 'u').test(textOf(text)) === (op === 'like')
}

function call(name: string, args: Worked[]): Worked {
  const [first = null, second = null, third = null] = args
  if (name === 'coalesce') return args.find((value) => value !== null) ?? null
  if (name === 'nullif') return compare('=', first, second) === true ? null : first
  if (args.includes(null)) return null
  switch (name) {
    case 'lower':
      return textOf(first).toLowerCase()
    case 'upper':
      return textOf(first).toUpperCase()
    case 'trim':
      return textOf(first).replace(/^ +| +$/g, '')
    case 'length':
      return numberOf([...textOf(first)].length)
    case 'substring':
      return substring(
        textOf(first),
        Number(textOf(second)),
        third === null ? undefined : Number(textOf(third))
      )
    case 'replace':
      return textOf(first).replaceAll(textOf(second), textOf(third))
    case 'date_text':
      return dateText(textOf(first), textOf(second))
    case 'weekday':
      return numberOf(weekdayOf(momentParts(textOf(first)) ?? unknown()))
    case 'year':
    case 'month':
    case 'day':
    case 'hour':
    case 'minute':
      return numberOf((momentParts(textOf(first)) ?? unknown())[name])
    case 'abs':
      return asNumber(first).abs()
    case 'round':
      return asNumber(first).round(0)
    default:
      return unknown()
  }
}

function dateText(moment: string, format: string): string {
  const [found, parts] = [momentParts(moment), dateTextParts(format)]
  if (!found || !parts) return unknown()
  return parts
    .map((each) => ('text' in each ? each.text : String(found[each.part]).padStart(digitsOf(each.part), '0')))
    .join('')
}

/** Characters from a place on, counted from 1; what would stand before the first is passed over. */
function substring(text: string, from: number, length: number | undefined): string {
  const start = Math.max(0, from - 1)
  const end = length === undefined ? undefined : Math.max(0, from - 1 + length)
  return [...text].slice(start, end).join('')
}
