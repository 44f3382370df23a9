import { COMPARISONS, type Expression } from './expression.ts'
import { functionCalled, FUNCTIONS, type Sort } from './functions.ts'
import { plainName } from './print.ts'

/**
 * What a column is, to an expression: its name for a person, its kind of value, and whether a literal text
 * stands for one of its values.
 */
export interface ColumnSort {
  name: string
  sort: Sort
  /** Why the text is no value of the column, or nothing. */
  refuses(text: string): string | undefined
}

/** Why an expression makes no sense, in words for a person. */
export class MakesNoSense extends Error {}

const KINDS: Record<Sort, string> = {
  number: 'a number',
  text: 'a text',
  boolean: 'true or false',
  date: 'a date',
  time: 'a time',
  timestamp: 'a timestamp',
  interval: 'an interval',
  uuid: 'a uuid',
  json: 'JSON',
  binary: 'bytes',
  choice: 'one of a list',
  any: 'a value'
}

/** Kinds whose values are written as a text between quotes. */
const QUOTED: readonly Sort[] = ['date', 'time', 'timestamp', 'interval', 'uuid', 'json', 'binary', 'choice']
const NUMERIC = new Set(['+', '-', '*', '/', '%'])

/**
 * The kind of value that an expression has.
 * @param column what a column is, by the name or id in the expression; nothing where there is none.
 * @throws MakesNoSense where kinds do not go together or a name is not known.
 */
export function sortOf(expression: Expression, column: (name: string) => ColumnSort | undefined): Sort {
  const fail = (message: string): never => {
    throw new MakesNoSense(message)
  }
  const need = (part: Expression): ColumnSort =>
    (part.kind === 'column' ? column(part.name) : undefined) ??
    fail(
      `There is no column called ${part.kind === 'column' ? plainName(part.name.slice(0, 140)) : '?'} here.`
    )

  const want = (part: Expression, wanted: Sort): Sort => {
    const found = visit(part)
    const readAs =
      found === 'any' ||
      wanted === 'any' ||
      (part.kind === 'text' && QUOTED.includes(wanted)) ||
      (wanted === 'timestamp' && found === 'date')
    if (found !== wanted && !readAs)
      fail(`${sayPart(part, column)} is ${KINDS[found]}, and ${KINDS[wanted]} is needed there.`)
    return found
  }

  /**
   * Both sides of a comparison are of one kind; a text in quotes is a value of the column that it stands
   * beside.
   */
  const same = (left: Judged, right: Judged): void => {
    for (const [typed, literal] of [
      [left.part, right.part],
      [right.part, left.part]
    ] as const) {
      if (typed.kind !== 'column' || literal.kind !== 'text') continue
      const why = need(typed).refuses(literal.value)
      if (why) fail(`${why} So it cannot stand beside ${plainName(need(typed).name)}.`)
      return
    }
    const [a, b] = [left.sort, right.sort]
    const quoted = ({ part }: Judged, other: Sort): boolean => part.kind === 'text' && QUOTED.includes(other)
    const moments = isMoment(a) && isMoment(b)
    if (a === b || a === 'any' || b === 'any' || quoted(left, b) || quoted(right, a) || moments) return
    fail(
      `${sayPart(left.part, column)} is ${KINDS[a]} and ${sayPart(right.part, column)} is ${KINDS[b]}; they cannot be compared.`
    )
  }

  /** The one kind of several, or what they are, said, where they are not of one. */
  const oneOf = (judged: readonly Judged[], say: (one: string, other: string) => string): Sort => {
    const known = judged.filter(({ sort }) => sort !== 'any')
    // A text in quotes is a value of what stands beside it.
    const isQuoted = ({ part, sort }: Judged): boolean =>
      part.kind === 'text' && known.some((each) => each.sort !== sort && QUOTED.includes(each.sort))
    const [first, ...others] = known.filter((each) => !isQuoted(each)).map(({ sort }) => sort)
    if (first === undefined) return 'any'
    if ([first, ...others].every(isMoment)) return others.includes('timestamp') ? 'timestamp' : first
    const other = others.find((sort) => sort !== first)
    return other === undefined ? first : fail(say(KINDS[first], KINDS[other]))
  }

  // Each part is visited once, however deep it stands: what is found of it is handed on.
  const judge = (part: Expression): Judged => ({ part, sort: visit(part) })

  const visit = (part: Expression): Sort => {
    switch (part.kind) {
      case 'number':
        return 'number'
      case 'text':
        return 'text'
      case 'boolean':
        return 'boolean'
      case 'null':
        return 'any'
      case 'column':
        return need(part).sort
      case 'not':
        want(part.of, 'boolean')
        return 'boolean'
      case 'negative':
        want(part.of, 'number')
        return 'number'
      case 'isNull':
        visit(part.of)
        return 'boolean'
      case 'in': {
        const of = judge(part.of)
        for (const each of part.list) same(of, judge(each))
        return 'boolean'
      }
      case 'between': {
        const of = judge(part.of)
        same(of, judge(part.low))
        same(of, judge(part.high))
        return 'boolean'
      }
      case 'case': {
        part.branches.forEach(({ when }) => want(when, 'boolean'))
        const given = [...part.branches.map(({ then }) => then), ...(part.otherwise ? [part.otherwise] : [])]
        return oneOf(given.map(judge), (one, other) => `CASE gives ${one} here and ${other} there.`)
      }
      case 'call':
        return call(part.name, part.args)
      case 'binary':
        return binary(part)
      case 'native':
        part.calls.forEach(({ args }) => args.forEach(visit))
        return 'any'
      case 'spoken':
        return 'any'
    }
  }

  const binary = ({ op, left, right }: Extract<Expression, { kind: 'binary' }>): Sort => {
    if (op === 'and' || op === 'or') {
      want(left, 'boolean')
      want(right, 'boolean')
      return 'boolean'
    }
    if ((COMPARISONS as readonly string[]).includes(op)) {
      same(judge(left), judge(right))
      return 'boolean'
    }
    const kind = NUMERIC.has(op) ? 'number' : 'text'
    want(left, kind)
    want(right, kind)
    return op === 'like' || op === 'not like' ? 'boolean' : kind
  }

  const call = (name: string, args: Expression[]): Sort => {
    const found = functionCalled(name)
    if (!found)
      return fail(
        `There is no function ${name.slice(0, 40)}. There are: ${Object.keys(FUNCTIONS).join(', ')}.`
      )
    const least = found.takes.length - found.optional
    if (args.length < least || (args.length > found.takes.length && !found.many))
      fail(
        `${name} takes ${least === found.takes.length ? least : `${least} or ${found.takes.length}`}${found.many ? ' or more' : ''} values, not ${args.length}.`
      )
    const judged = args.map((each, at) => ({ part: each, sort: want(each, found.takes[at] ?? 'any') }))
    const flaw = found.refuses?.(args)
    if (flaw !== undefined) fail(flaw)
    if (found.gives !== 'first') return found.gives
    return oneOf(judged, (one, other) => `${name} needs values of one kind; there are ${one} and ${other}.`)
  }

  return visit(expression)
}

/** A part of an expression with the kind of value that it has. */
interface Judged {
  part: Expression
  sort: Sort
}

const isMoment = (sort: Sort): boolean => sort === 'date' || sort === 'timestamp'

function sayPart(part: Expression, column: (name: string) => ColumnSort | undefined): string {
  if (part.kind === 'column') return column(part.name)?.name ?? part.name
  if (part.kind === 'text') return `'${part.value.length > 20 ? `${part.value.slice(0, 19)}…` : part.value}'`
  return part.kind === 'number' ? part.text : part.kind === 'call' ? part.name : 'what stands there'
}
