import { evaluateOperand } from './evaluate.ts'
import { mapExpression, partsOf, type Expression } from './expression.ts'

/**
 * The expression with what stands fast in it worked out beforehand: `upper('b')` is `'B'`. What cannot be
 * worked out without an engine stays as it is.
 */
export function folded(expression: Expression): Expression {
  return mapExpression(expression, (part) => shortened(isFast(part) ? (constantOf(part) ?? part) : part))
}

export const isConstant = ({ kind }: Expression): boolean =>
  kind === 'number' || kind === 'text' || kind === 'boolean' || kind === 'null'

/** A number below zero, which is two parts of an expression. */
const isNegative = (part: Expression): boolean => part.kind === 'negative' && part.of.kind === 'number'

/** Whether all that it is made of is constant. */
function isFast(part: Expression): boolean {
  const parts = partsOf(part)
  return parts.length > 0 && !isNegative(part) && parts.every((each) => isConstant(each) || isNegative(each))
}

function constantOf(part: Expression): Expression | undefined {
  const worked = evaluateOperand(part, () => undefined)
  if (!worked) return undefined
  const { value, isNumber } = worked
  if (value === null) return { kind: 'null' }
  if (typeof value === 'boolean') return { kind: 'boolean', value }
  if (!isNumber) return { kind: 'text', value: String(value) }
  const text = String(value)
  const number: Expression = { kind: 'number', text: text.replace(/^-/, '') }
  return text.startsWith('-') ? { kind: 'negative', of: number } : number
}

/** What a constant decides by itself: the first of COALESCE that is there, a branch of CASE, AND and OR. */
function shortened(part: Expression): Expression {
  if (part.kind === 'call' && part.name === 'coalesce') return withoutIdle(part)
  // Nothing stays nothing, whatever it is compared with, and is compared with to no end.
  if (part.kind === 'call' && part.name === 'nullif')
    return part.args.some(({ kind }) => kind === 'null') ? (part.args[0] ?? part) : part
  if (part.kind === 'case') return withoutDecided(part)
  if (part.kind === 'in') return withoutOthers(part)
  if (part.kind === 'between') return withoutBound(part)
  if (part.kind !== 'binary' || (part.op !== 'and' && part.op !== 'or')) return part
  const decides = part.op === 'or'
  const sides = [part.left, part.right]
  const decided = sides.find((side) => side.kind === 'boolean' && side.value === decides)
  const idle = sides.find((side) => side.kind === 'boolean' && side.value !== decides)
  return decided ?? (idle === part.left ? part.right : idle ? part.left : part)
}

function withoutIdle(part: Extract<Expression, { kind: 'call' }>): Expression {
  const there = part.args.filter(({ kind }) => kind !== 'null')
  const last = there.findIndex((each) => isConstant(each) || isNegative(each))
  const args = last < 0 ? there : there.slice(0, last + 1)
  const [only] = args
  if (!only) return { kind: 'null' }
  return args.length === 1 ? only : { ...part, args }
}

/** A constant among values of which some are constants: it is one of them, or they are left out. */
function withoutOthers(part: Extract<Expression, { kind: 'in' }>): Expression {
  const { of, list, not } = part
  if (!isConstant(of) && !isNegative(of)) return part
  const same = list.map((each) => folded({ kind: 'binary', op: '=', left: of, right: each }))
  if (same.some((each) => each.kind === 'boolean' && each.value)) return { kind: 'boolean', value: !not }
  const open = list.filter((_, at) => same[at]?.kind !== 'boolean')
  return open.length === 0 ? { kind: 'boolean', value: not } : { ...part, list: open }
}

/** A constant between bounds of which one is a constant. */
function withoutBound(part: Extract<Expression, { kind: 'between' }>): Expression {
  const { of, low, high, not } = part
  const isFixed = (each: Expression): boolean => isConstant(each) || isNegative(each)
  if (!isFixed(of) || isFixed(low) === isFixed(high)) return part
  const inside = folded({
    kind: 'binary',
    op: 'and',
    left: { kind: 'binary', op: '>=', left: of, right: low },
    right: { kind: 'binary', op: '<=', left: of, right: high }
  })
  return not ? folded({ kind: 'not', of: inside }) : inside
}

function withoutDecided(part: Extract<Expression, { kind: 'case' }>): Expression {
  const isNever = ({ when }: (typeof part.branches)[number]): boolean =>
    when.kind === 'null' || (when.kind === 'boolean' && !when.value)
  const open = part.branches.filter((branch) => !isNever(branch))
  const sure = open.findIndex(({ when }) => when.kind === 'boolean')
  const branches = sure < 0 ? open : open.slice(0, sure)
  const otherwise = sure < 0 ? part.otherwise : open[sure]?.then
  return branches.length === 0 ? (otherwise ?? { kind: 'null' }) : { ...part, branches, otherwise }
}
