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
  if (part.kind === 'case') return withoutDecided(part)
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

function withoutDecided(part: Extract<Expression, { kind: 'case' }>): Expression {
  const isNever = ({ when }: (typeof part.branches)[number]): boolean =>
    when.kind === 'null' || (when.kind === 'boolean' && !when.value)
  const open = part.branches.filter((branch) => !isNever(branch))
  const sure = open.findIndex(({ when }) => when.kind === 'boolean')
  const branches = sure < 0 ? open : open.slice(0, sure)
  const otherwise = sure < 0 ? part.otherwise : open[sure]?.then
  return branches.length === 0 ? (otherwise ?? { kind: 'null' }) : { ...part, branches, otherwise }
}
