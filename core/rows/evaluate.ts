import { expressionOf } from '../design/expressions.ts'
import { columnOf } from '../design/directory.ts'
import type { Column, Row, Table } from '../design/model.ts'
import { fits, type Value } from '../design/value.ts'
import type { Expression } from '../sql/expression.ts'

/** Something that cannot be worked out here: a division by nothing, the present moment. */
class Unknown extends Error {}

/**
 * What an expression gives on a row, in the three-valued logic of SQL (ISO/IEC 9075-2, 8): null where it
 * cannot be told because a value is empty; undefined where it cannot be worked out without an engine.
 */
export function evaluate(kept: string, table: Table, row: Row): Value | undefined {
  try {
    return valueOf(expressionOf(kept), table, row)
  } catch (error) {
    if (error instanceof Unknown) return undefined
    throw error
  }
}

/** Whether the row meets each check of its table: a check that is left open (null) is met. */
export function meetsChecks(table: Table, row: Row): boolean {
  return table.checks.every((check) => evaluate(check.condition, table, row) !== false)
}

/** Whether what is computed from the row can stand in its column. */
export function computedFits(table: Table, row: Row): boolean {
  return table.columns.every((column) => {
    if (column.computed === undefined) return true
    const value = evaluate(column.computed, table, row)
    if (value === undefined || value === null) return value === undefined || !column.required
    return fits(asTyped(value, column), column.type)
  })
}

/** A number for a column of a scale is rounded to it; for a whole one to a whole. */
function asTyped(value: Value, { type }: Column): Value {
  if (type.kind === 'decimal') return Number(value).toFixed(type.scale)
  if (type.kind === 'integer') return Math.round(Number(value))
  return type.kind === 'text' || type.kind === 'char' || type.kind === 'enum' ? String(value) : value
}

function valueOf(part: Expression, table: Table, row: Row): Value {
  const value = (of: Expression): Value => valueOf(of, table, row)
  switch (part.kind) {
    case 'number':
      return Number(part.text)
    case 'text':
      return part.value
    case 'boolean':
      return part.value
    case 'null':
      return null
    case 'column':
      return columnValue(part.name, table, row)
    case 'not':
      return negate(truth(value(part.of)))
    case 'negative':
      return arithmetic((a) => -a, value(part.of))
    case 'isNull':
      return (value(part.of) === null) !== part.not
    case 'in': {
      const found = part.list.map((each) => compare('=', value(part.of), value(each)))
      const inside = found.includes(true) ? true : found.includes(null) ? null : false
      return part.not ? negate(inside) : inside
    }
    case 'between': {
      const inside = both(
        compare('>=', value(part.of), value(part.low)),
        compare('<=', value(part.of), value(part.high))
      )
      return part.not ? negate(inside) : inside
    }
    case 'case': {
      const branch = part.branches.find(({ when }) => value(when) === true)
      return branch ? value(branch.then) : part.otherwise ? value(part.otherwise) : null
    }
    case 'call':
      return call(part.name, part.args.map(value))
    case 'binary':
      return binary(part, value)
  }
}

function columnValue(id: string, table: Table, row: Row): Value {
  const column = columnOf(table, id)
  if (column?.computed !== undefined) return valueOf(expressionOf(column.computed), table, row)
  const value = row[id] ?? null
  return value !== null && (column?.type.kind === 'decimal' || column?.type.kind === 'integer')
    ? Number(value)
    : value
}

function binary(
  { op, left, right }: Extract<Expression, { kind: 'binary' }>,
  value: (of: Expression) => Value
): Value {
  const [a, b] = [value(left), value(right)]
  switch (op) {
    case 'and':
      return both(truth(a), truth(b))
    case 'or':
      return negate(both(negate(truth(a)), negate(truth(b))))
    case 'like':
      return like(a, b)
    case 'not like':
      return negate(like(a, b))
    case '||':
      return a === null || b === null ? null : String(a) + String(b)
    case '+':
      return arithmetic((x, y) => x + y, a, b)
    case '-':
      return arithmetic((x, y) => x - y, a, b)
    case '*':
      return arithmetic((x, y) => x * y, a, b)
    // Whether whole numbers divide into a whole one is each engine's own.
    case '/':
      throw new Unknown()
    case '%':
      return arithmetic((x, y) => (y === 0 ? throwUnknown() : x % y), a, b)
    default:
      return compare(op, a, b)
  }
}

const throwUnknown = (): never => {
  throw new Unknown()
}
const truth = (value: Value): boolean | null => (value === null ? null : value === true)
const negate = (value: boolean | null): boolean | null => (value === null ? null : !value)
const both = (a: boolean | null, b: boolean | null): boolean | null =>
  a === false || b === false ? false : a === null || b === null ? null : true

function arithmetic(work: (a: number, b: number) => number, a: Value, b: Value = 0): Value {
  return a === null || b === null ? null : work(Number(a), Number(b))
}

function compare(op: string, a: Value, b: Value): boolean | null {
  if (a === null || b === null) return null
  const [x, y] =
    typeof a === 'number' || typeof b === 'number' ? [Number(a), Number(b)] : [String(a), String(b)]
  switch (op) {
    case '=':
      return x === y
    case '<>':
      return x !== y
    case '<':
      return x < y
    case '<=':
      return x <= y
    case '>':
      return x > y
    default:
      return x >= y
  }
}

function like(text: Value, pattern: Value): boolean | null {
  if (text === null || pattern === null) return null
  const source = [...String(pattern)]
    .map((char) =>
      char === '%' ? '[\\s\\S]*' : char === '_' ? '[\\s\\S]' : char.replace(/[\\^$.*+?()[\]{}|]/, '\\$&')
    )
    .join('')
  return new RegExp(`^${source}$`, 'u').test(String(text))
}

function call(name: string, args: Value[]): Value {
  const [first = null, second = null, third = null] = args
  if (name === 'coalesce') return args.find((value) => value !== null) ?? null
  if (name === 'nullif') return compare('=', first, second) === true ? null : first
  if (args.includes(null)) return null
  switch (name) {
    case 'lower':
      return String(first).toLowerCase()
    case 'upper':
      return String(first).toUpperCase()
    case 'trim':
      return String(first).replace(/^ +| +$/g, '')
    case 'length':
      return [...String(first)].length
    case 'substring':
      return [...String(first)]
        .slice(
          Math.max(0, Number(second) - 1),
          third === null ? undefined : Math.max(0, Number(second) - 1 + Number(third))
        )
        .join('')
    case 'replace':
      return String(first).replaceAll(String(second), String(third))
    case 'abs':
      return Math.abs(Number(first))
    case 'round':
      return Math.round(Number(first))
    default:
      throw new Unknown()
  }
}
