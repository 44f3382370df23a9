import type { Column } from '../../design/model.ts'
import { columnsNamed, partsOf, type Expression } from '../../sql/expression.ts'

/**
 * The condition of an index as SQL Server takes it: comparisons of a column with a constant, IN and IS NULL, one
 * and the other (Transact-SQL, "CREATE INDEX", filter_predicate). What means the same is written so; nothing
 * where there is no such, or where a column is computed (Msg 10609).
 */
export function filterOf(
  condition: Expression,
  column: (id: string) => Column | undefined
): Expression | undefined {
  const isComputed = (id: string): boolean => column(id)?.computed !== undefined
  if (columnsNamed(condition).some(isComputed)) return undefined
  const said = plain(condition)
  return said && isOfColumnsTypes(said, column) ? said : undefined
}

/** A whole number is compared with whole ones alone: one with a fraction would turn the column (Msg 10611). */
function isOfColumnsTypes(said: Expression, column: (id: string) => Column | undefined): boolean {
  if (said.kind === 'binary' && said.op === 'and')
    return isOfColumnsTypes(said.left, column) && isOfColumnsTypes(said.right, column)
  const [first, ...values] = partsOf(said)
  const isWhole = first?.kind === 'column' && column(first.name)?.type.kind === 'integer'
  return !isWhole || !values.some(hasFraction)
}

const hasFraction = (part: Expression): boolean =>
  part.kind === 'number' ? !/^\d+$/.test(part.text) : partsOf(part).some(hasFraction)

function plain(part: Expression): Expression | undefined {
  switch (part.kind) {
    case 'column':
      return { kind: 'binary', op: '=', left: part, right: { kind: 'boolean', value: true } }
    case 'not':
      return negated(part.of)
    case 'isNull':
      return part.of.kind === 'column' ? part : undefined
    case 'in':
      return !part.not && part.of.kind === 'column' && part.list.every(isConstant) ? part : undefined
    case 'between': {
      const { of, low, high, not } = part
      return not ? undefined : both(compared('>=', of, low), compared('<=', of, high))
    }
    case 'binary':
      if (part.op === 'and') return both(plain(part.left), plain(part.right))
      if (part.op === 'or') return oneOf(plain(part.left), plain(part.right))
      return compared(part.op, part.left, part.right)
    default:
      return undefined
  }
}

type Operator = Extract<Expression, { kind: 'binary' }>['op']
const TURNED: Partial<Record<Operator, Operator>> = {
  '=': '=',
  '<>': '<>',
  '<': '>',
  '<=': '>=',
  '>': '<',
  '>=': '<='
}
const OPPOSITE: Partial<Record<Operator, Operator>> = {
  '=': '<>',
  '<>': '=',
  '<': '>=',
  '<=': '>',
  '>': '<=',
  '>=': '<'
}

const isConstant = (part: Expression): boolean =>
  part.kind === 'number' ||
  part.kind === 'text' ||
  part.kind === 'boolean' ||
  (part.kind === 'negative' && part.of.kind === 'number')

function compared(op: Operator, left: Expression, right: Expression): Expression | undefined {
  const turned = TURNED[op]
  if (!turned) return undefined
  if (left.kind === 'column' && isConstant(right)) return { kind: 'binary', op, left, right }
  return right.kind === 'column' && isConstant(left)
    ? { kind: 'binary', op: turned, left: right, right: left }
    : undefined
}

function negated(part: Expression): Expression | undefined {
  if (part.kind === 'not') return plain(part.of)
  if (part.kind === 'column')
    return { kind: 'binary', op: '=', left: part, right: { kind: 'boolean', value: false } }
  if (part.kind === 'isNull' || part.kind === 'in' || part.kind === 'between')
    return plain({ ...part, not: !part.not })
  if (part.kind !== 'binary') return undefined
  if (part.op === 'or') return both(negated(part.left), negated(part.right))
  const op = OPPOSITE[part.op]
  return op && compared(op, part.left, part.right)
}

const both = (left: Expression | undefined, right: Expression | undefined): Expression | undefined =>
  left && right && { kind: 'binary', op: 'and', left, right }

/** Values of one column, one or the other. */
function oneOf(left: Expression | undefined, right: Expression | undefined): Expression | undefined {
  const [one, other] = [valuesOf(left), valuesOf(right)]
  if (!one || !other || one.column !== other.column) return undefined
  const list = [...one.values, ...other.values]
  return { kind: 'in', of: { kind: 'column', name: one.column }, list, not: false }
}

function valuesOf(part: Expression | undefined): { column: string; values: Expression[] } | undefined {
  if (part?.kind === 'in' && part.of.kind === 'column') return { column: part.of.name, values: part.list }
  const isValue = part?.kind === 'binary' && part.op === '=' && part.left.kind === 'column'
  return isValue && part.left.kind === 'column' ? { column: part.left.name, values: [part.right] } : undefined
}
