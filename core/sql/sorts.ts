import { COMPARISONS, type Expression } from './expression.ts'
import { FUNCTIONS, type Sort } from './functions.ts'
import { plainName } from './print.ts'

/** What a column is, to an expression: its name for a person, its kind of value, and whether a literal text stands for one of its values. */
export interface ColumnSort { name: string; sort: Sort; /** Why the text is no value of the column, or nothing. */ refuses(text: string): string | undefined }

/** Why an expression makes no sense, in words for a person. */
export class MakesNoSense extends Error {}

const KINDS: Record<Sort, string> = {
  number: 'a number', text: 'a text', boolean: 'true or false', date: 'a date', time: 'a time', timestamp: 'a timestamp', interval: 'an interval', uuid: 'a uuid', json: 'JSON', binary: 'bytes', choice: 'one of a list', any: 'a value'
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
  const fail = (message: string): never => { throw new MakesNoSense(message) }
  const need = (part: Expression): ColumnSort => (part.kind === 'column' ? column(part.name) : undefined) ?? fail(`There is no column called ${part.kind === 'column' ? plainName(part.name) : '?'} here.`)

  const want = (part: Expression, wanted: Sort): void => {
    const found = visit(part)
    if (found === wanted || found === 'any' || wanted === 'any') return
    if (part.kind === 'text' && QUOTED.includes(wanted)) return
    if (wanted === 'timestamp' && found === 'date') return
    fail(`${sayPart(part, column)} is ${KINDS[found]}, and ${KINDS[wanted]} is needed there.`)
  }

  /** Both sides of a comparison are of one kind; a text in quotes is a value of the column that it stands beside. */
  const same = (left: Expression, right: Expression): void => {
    const [a, b] = [visit(left), visit(right)]
    for (const [typed, literal] of [[left, right], [right, left]] as const) {
      if (typed.kind !== 'column' || literal.kind !== 'text') continue
      const why = need(typed).refuses(literal.value)
      if (why) fail(`${why} So it cannot stand beside ${plainName(need(typed).name)}.`)
      return
    }
    const quoted = (literal: Expression, other: Sort): boolean => literal.kind === 'text' && QUOTED.includes(other)
    const moments = (sort: Sort): boolean => sort === 'date' || sort === 'timestamp'
    if (a === b || a === 'any' || b === 'any' || quoted(left, b) || quoted(right, a) || (moments(a) && moments(b))) return
    fail(`${sayPart(left, column)} is ${KINDS[a]} and ${sayPart(right, column)} is ${KINDS[b]}; they cannot be compared.`)
  }

  const visit = (part: Expression): Sort => {
    switch (part.kind) {
      case 'number': return 'number'
      case 'text': return 'text'
      case 'boolean': return 'boolean'
      case 'null': return 'any'
      case 'column': return need(part).sort
      case 'not': want(part.of, 'boolean'); return 'boolean'
      case 'negative': want(part.of, 'number'); return 'number'
      case 'isNull': visit(part.of); return 'boolean'
      case 'in': part.list.forEach((each) => same(part.of, each)); return 'boolean'
      case 'between': same(part.of, part.low); same(part.of, part.high); return 'boolean'
      case 'case': {
        part.branches.forEach(({ when }) => want(when, 'boolean'))
        const kinds = [...part.branches.map(({ then }) => visit(then)), ...(part.otherwise ? [visit(part.otherwise)] : [])].filter((kind) => kind !== 'any')
        if (new Set(kinds).size > 1) fail(`CASE gives ${KINDS[kinds[0] as Sort]} here and ${KINDS[kinds.find((kind) => kind !== kinds[0]) as Sort]} there.`)
        return kinds[0] ?? 'any'
      }
      case 'call': return call(part.name, part.args)
      case 'binary': {
        const { op, left, right } = part
        if (op === 'and' || op === 'or') {
          want(left, 'boolean')
          want(right, 'boolean')
          return 'boolean'
        }
        if ((COMPARISONS as readonly string[]).includes(op)) {
          same(left, right)
          return 'boolean'
        }
        const kind = NUMERIC.has(op) ? 'number' : 'text'
        want(left, kind)
        want(right, kind)
        return op === 'like' || op === 'not like' ? 'boolean' : kind
      }
    }
  }

  const call = (name: string, args: Expression[]): Sort => {
    const found = Object.hasOwn(FUNCTIONS, name) ? FUNCTIONS[name] : undefined
    if (!found) return fail(`There is no function ${name}. There are: ${Object.keys(FUNCTIONS).join(', ')}.`)
    const least = found.takes.length - found.optional
    if (args.length < least || (args.length > found.takes.length && !found.many)) fail(`${name} takes ${least === found.takes.length ? least : `${least} or ${found.takes.length}`}${found.many ? ' or more' : ''} values, not ${args.length}.`)
    args.forEach((each, at) => want(each, found.takes[at] ?? 'any'))
    if (found.gives !== 'first') return found.gives
    const kinds = args.map(visit).filter((kind) => kind !== 'any')
    if (new Set(kinds).size > 1) fail(`${name} needs values of one kind; there are ${KINDS[kinds[0] as Sort]} and ${KINDS[kinds.find((kind) => kind !== kinds[0]) as Sort]}.`)
    return kinds[0] ?? 'any'
  }

  return visit(expression)
}

function sayPart(part: Expression, column: (name: string) => ColumnSort | undefined): string {
  if (part.kind === 'column') return column(part.name)?.name ?? part.name
  if (part.kind === 'text') return `'${part.value.length > 20 ? `${part.value.slice(0, 19)}…` : part.value}'`
  return part.kind === 'number' ? part.text : part.kind === 'call' ? part.name : 'what stands there'
}
