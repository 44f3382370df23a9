/**
 * Expressions: what a check, a computed column, a default or the condition of an index or a row policy
 * says. A small common part of SQL (ISO/IEC 9075-2, 6 and 8), written down once and printed for each
 * dialect; nothing that a person types reaches an engine but through this tree.
 */
export type Expression =
  | { kind: 'number'; text: string }
  /** `written`: as a dialect writes it, where the text stands for a value of another type. */
  | { kind: 'text'; value: string; written?: string }
  | { kind: 'boolean'; value: boolean }
  | { kind: 'null' }
  /** A column by its name or, in what a design keeps, by its id. */
  | { kind: 'column'; name: string }
  | { kind: 'call'; name: string; args: Expression[] }
  /** An engine's own function, as each dialect that has it says it; `any` where none is named. */
  | { kind: 'native'; calls: NativeCall[] }
  | { kind: 'not' | 'negative'; of: Expression }
  /**
   * `escape`: what makes a wildcard of LIKE stand for itself. `numbers`: what kind of numbers are divided,
   * told where it is written for a dialect.
   */
  | {
      kind: 'binary'
      op: BinaryOperator
      left: Expression
      right: Expression
      escape?: string
      numbers?: Divided
    }
  | { kind: 'isNull'; of: Expression; not: boolean }
  | { kind: 'in'; of: Expression; list: Expression[]; not: boolean }
  | { kind: 'between'; of: Expression; low: Expression; high: Expression; not: boolean }
  | { kind: 'case'; branches: { when: Expression; then: Expression }[]; otherwise: Expression | undefined }
  /** Parts with a dialect's own words around them; only writers make it, nothing that is read holds any. */
  | { kind: 'spoken'; of: Expression[]; isTruth: boolean; say(parts: readonly string[]): string }

/** A function by its name, with its schema where it has one, for a dialect. */
export interface NativeCall {
  dialect: string
  path: { text: string; quoted: boolean }[]
  args: Expression[]
}

/** What kind of numbers are divided: whole ones, exact ones with a fraction, or floating point. */
export type Divided = 'whole' | 'exact' | 'float'

export const COMPARISONS = ['=', '<>', '<', '<=', '>', '>='] as const
export type BinaryOperator =
  'or' | 'and' | (typeof COMPARISONS)[number] | 'like' | 'not like' | '||' | '+' | '-' | '*' | '/' | '%'

/** How tightly an operator binds; from loose to tight. */
export const BINDS: Record<BinaryOperator | 'not' | 'test' | 'negative', number> = {
  or: 1,
  and: 2,
  not: 3,
  '=': 4,
  '<>': 4,
  '<': 4,
  '<=': 4,
  '>': 4,
  '>=': 4,
  like: 4,
  'not like': 4,
  test: 4,
  '||': 5,
  '+': 6,
  '-': 6,
  '*': 7,
  '/': 7,
  '%': 7,
  negative: 8
}

/** The expressions that stand directly in one. */
export function partsOf(expression: Expression): Expression[] {
  switch (expression.kind) {
    case 'call':
      return expression.args
    case 'native':
      return expression.calls.flatMap(({ args }) => args)
    case 'not':
    case 'negative':
    case 'isNull':
      return [expression.of]
    case 'binary':
      return [expression.left, expression.right]
    case 'spoken':
      return expression.of
    case 'in':
      return [expression.of, ...expression.list]
    case 'between':
      return [expression.of, expression.low, expression.high]
    case 'case':
      return [
        ...expression.branches.flatMap(({ when, then }) => [when, then]),
        ...(expression.otherwise ? [expression.otherwise] : [])
      ]
    default:
      return []
  }
}

/** The expression with each part changed, from the inside out. */
export function mapExpression(expression: Expression, change: (part: Expression) => Expression): Expression {
  const map = (part: Expression): Expression => mapExpression(part, change)
  switch (expression.kind) {
    case 'call':
      return change({ ...expression, args: expression.args.map(map) })
    case 'native':
      return change({
        ...expression,
        calls: expression.calls.map((call) => ({ ...call, args: call.args.map(map) }))
      })
    case 'not':
    case 'negative':
    case 'isNull':
      return change({ ...expression, of: map(expression.of) })
    case 'spoken':
      return change({ ...expression, of: expression.of.map(map) })
    case 'binary':
      return change({ ...expression, left: map(expression.left), right: map(expression.right) })
    case 'in':
      return change({ ...expression, of: map(expression.of), list: expression.list.map(map) })
    case 'between':
      return change({
        ...expression,
        of: map(expression.of),
        low: map(expression.low),
        high: map(expression.high)
      })
    case 'case':
      return change({
        ...expression,
        branches: expression.branches.map(({ when, then }) => ({ when: map(when), then: map(then) })),
        otherwise: expression.otherwise && map(expression.otherwise)
      })
    default:
      return change(expression)
  }
}

/** The columns that an expression names, each once, in the order in which they come. */
export function columnsNamed(expression: Expression): string[] {
  const found = new Set<string>()
  const visit = (part: Expression): void => {
    if (part.kind === 'column') found.add(part.name)
    partsOf(part).forEach(visit)
  }
  visit(expression)
  return [...found]
}

/** The functions that an expression calls. */
export function callsIn(expression: Expression): string[] {
  const calls: string[] = []
  const visit = (part: Expression): void => {
    if (part.kind === 'call') calls.push(part.name)
    partsOf(part).forEach(visit)
  }
  visit(expression)
  return calls
}

/**
 * How many parts an engine makes of an expression. Some write what is tested by BETWEEN twice, once for
 * each bound, and some a condition that is used as a value, so that one within another within a third grows
 * without end.
 */
export function unfoldedSize(expression: Expression): number {
  const sizes = partsOf(expression).map(unfoldedSize)
  const [tested = 0] = sizes
  const own = sizes.reduce((sum, size) => sum + size, 1)
  if (expression.kind === 'between') return own + tested
  return expression.kind === 'isNull' || isComparison(expression) ? own + sumOfConditions(expression) : own
}

const isComparison = (part: Expression): boolean =>
  part.kind === 'binary' && (COMPARISONS as readonly string[]).includes(part.op)

/** The sizes of the parts that are conditions themselves. */
function sumOfConditions(part: Expression): number {
  const conditions = partsOf(part).filter(
    (each) => isComparison(each) || each.kind === 'not' || each.kind === 'in' || each.kind === 'between'
  )
  return conditions.reduce((sum, each) => sum + unfoldedSize(each), 0)
}
