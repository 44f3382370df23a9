import { BOUNDS } from '../bounds.ts'
import { BINDS, type BinaryOperator, type Expression, type NativeCall } from './expression.ts'
import { likeParts } from './like.ts'
import { tokens, type Spelling, type Token } from './lexer.ts'

/** Why a text is not an expression, and where (characters from its start). */
export class NotAnExpression extends Error {
  constructor(
    message: string,
    readonly at: number
  ) {
    super(message)
  }
}

/**
 * How an engine prints what it was given: casts, arrays for lists, and functions under other names.
 * With `printed`, what an engine adds is taken off again.
 */
export interface ParseOptions {
  printed?: { spelling: Spelling; functions: Record<string, string> }
}

/**
 * Reads an expression. Columns are named as they are (`weight_g`, `"two words"`) or, in what a design
 * keeps, by id in braces (`{c_weight}`).
 * @throws NotAnExpression where the text is none, with words for a person.
 */
export function parseExpression(text: string, options: ParseOptions = {}): Expression {
  const parser = new Parser(tokens(text, options.printed?.spelling), text.length, options)
  const found = parser.expression(0)
  parser.end()
  return found
}

const SYMBOLS: Record<string, BinaryOperator> = {
  '=': '=',
  '<>': '<>',
  '!=': '<>',
  '<': '<',
  '<=': '<=',
  '>': '>',
  '>=': '>=',
  '||': '||',
  '+': '+',
  '-': '-',
  '*': '*',
  '/': '/',
  '%': '%',
  '~~': 'like',
  '!~~': 'not like',
  AND: 'and',
  OR: 'or',
  LIKE: 'like'
}
/** Operators as some engine prints them. */
const PRINTED: Record<string, BinaryOperator> = { DIV: '/', MOD: '%' }
const RESERVED = new Set([
  'AND',
  'OR',
  'NOT',
  'IS',
  'IN',
  'BETWEEN',
  'LIKE',
  'ESCAPE',
  'CASE',
  'WHEN',
  'THEN',
  'ELSE',
  'END',
  'NULL',
  'TRUE',
  'FALSE',
  'SELECT',
  'FROM'
])
/** Written without parentheses in standard SQL. */
const BARE: Record<string, string> = {
  CURRENT_USER: 'current_user',
  CURRENT_TIMESTAMP: 'now',
  CURRENT_DATE: 'today'
}

/** As much of a text as a message repeats (characters). */
const some = (text: string): string => (text.length > 40 ? `${text.slice(0, 39)}…` : text)

class Parser {
  private at = 0
  private depth = 0
  private readonly functions: Record<string, string>
  private readonly printed: boolean

  constructor(
    private readonly all: Token[],
    private readonly length: number,
    options: ParseOptions
  ) {
    this.printed = options.printed !== undefined
    this.functions = options.printed?.functions ?? {}
  }

  private get next(): Token | undefined {
    return this.all[this.at]
  }

  private fail(message: string, at = this.next?.at ?? this.length): never {
    throw new NotAnExpression(message, at)
  }

  private is(word: string): boolean {
    return this.next?.word === word && this.next.kind !== 'name' && this.next.kind !== 'string'
  }

  private take(word: string): boolean {
    if (!this.is(word)) return false
    this.at++
    return true
  }

  private need(word: string, after: string): void {
    if (!this.take(word))
      this.fail(
        this.next
          ? `“${word}” is missing after ${after}, before “${some(this.next.text)}”.`
          : `“${word}” is missing at the end, after ${after}.`
      )
  }

  end(): void {
    if (this.next) this.fail(`“${some(this.next.text)}” cannot stand there.`)
  }

  /** Everything that binds tighter than the level. */
  expression(level: number): Expression {
    if (++this.depth > BOUNDS.expressionDepth) this.fail('This goes too deep: use fewer parentheses.')
    let left = this.first()
    for (;;) {
      const test = level < BINDS.test ? this.test(left) : undefined
      if (test) {
        left = test
        continue
      }
      const op =
        this.next && this.next.kind !== 'name' && this.next.kind !== 'string'
          ? (SYMBOLS[this.next.word] ?? (this.printed ? PRINTED[this.next.word] : undefined))
          : undefined
      if (!op || BINDS[op] <= level) break
      this.at++
      left = this.compare(op, left)
    }
    this.depth--
    return left
  }

  private compare(op: BinaryOperator, left: Expression): Expression {
    // PostgreSQL prints IN as = ANY (ARRAY[…]) and NOT IN as <> ALL (ARRAY[…]).
    if (this.printed && (this.is('ANY') || this.is('ALL'))) {
      this.at++
      return { kind: 'in', of: left, list: this.array(), not: op === '<>' }
    }
    return op === 'like' || op === 'not like'
      ? this.like(op, left)
      : { kind: 'binary', op, left, right: this.expression(BINDS[op]) }
  }

  private like(op: 'like' | 'not like', left: Expression): Expression {
    const right = this.expression(BINDS[op])
    if (!this.take('ESCAPE')) return { kind: 'binary', op, left, right }
    const escape = this.next?.kind === 'string' ? this.next.text : ''
    if ([...escape].length !== 1) this.fail('ESCAPE needs one character in quotes.')
    if (right.kind !== 'text') this.fail('ESCAPE needs a pattern that is written there, in quotes.')
    if (!likeParts(right.value, escape))
      this.fail(`In a pattern ${escape} can stand only before %, _ or another ${escape}.`)
    this.at++
    return { kind: 'binary', op, left, right, escape }
  }

  private array(): Expression[] {
    let open = 0
    while (this.take('(')) open++
    this.need('ARRAY', 'ANY')
    const list = this.list('[', ']')
    for (this.casts({ kind: 'null' }); open > 0; open--) {
      this.need(')', 'a list')
      this.casts({ kind: 'null' })
    }
    return list
  }

  private list(open: string, close: string): Expression[] {
    this.need(open, 'the name')
    const list: Expression[] = []
    if (this.take(close)) return list
    do list.push(this.expression(0))
    while (this.take(','))
    this.need(close, 'the list')
    return list
  }

  /** IS NULL, IN, BETWEEN and their negations. */
  private test(of: Expression): Expression | undefined {
    if (this.take('IS')) {
      const not = this.take('NOT')
      this.need('NULL', not ? 'IS NOT' : 'IS')
      return { kind: 'isNull', of, not }
    }
    const start = this.at
    const not = this.take('NOT')
    if (this.take('IN')) {
      const list = this.list('(', ')')
      if (list.length === 0) this.fail('A list needs something in it.')
      return { kind: 'in', of, list, not }
    }
    if (this.take('BETWEEN')) {
      const low = this.expression(BINDS.test)
      this.need('AND', 'BETWEEN')
      return { kind: 'between', of, low, high: this.expression(BINDS.test), not }
    }
    if (not && this.take('LIKE')) return this.like('not like', of)
    this.at = start
    return undefined
  }

  private first(): Expression {
    const token = this.next
    if (!token) this.fail('Something is missing at the end.')
    if (this.take('NOT') || (this.printed && this.take('!')))
      return {
        kind: 'not',
        of: this.expression(this.printed && token.text === '!' ? BINDS.negative : BINDS.not)
      }
    if (this.take('-')) return negate(this.expression(BINDS.negative))
    if (this.take('+')) return this.expression(BINDS.negative)
    return this.casts(this.primary(token))
  }

  private primary(token: Token): Expression {
    if (this.take('(')) {
      const inner = this.expression(0)
      this.need(')', 'what stands in the parentheses')
      return inner
    }
    if (this.take('{')) {
      const id = this.next?.text ?? ''
      this.at++
      this.need('}', 'a column')
      return { kind: 'column', name: id }
    }
    if (this.take('CASE')) return this.cases()
    this.at++
    switch (token.kind) {
      case 'number':
        return { kind: 'number', text: token.text }
      case 'string':
        return { kind: 'text', value: token.text }
      case 'name':
        return this.named(token)
      case 'word':
        return this.word(token)
      default:
        return this.fail(`“${some(token.text)}” cannot stand there.`, token.at)
    }
  }

  /** A name in quotes is a column's; no function is called by one. */
  private named(token: Token): Expression {
    if (this.is('(')) this.fail(`“${some(token.text)}” is a column's name, and cannot be called.`, token.at)
    return { kind: 'column', name: token.text }
  }

  private word(token: Token): Expression {
    if (token.word === 'TRUE' || token.word === 'FALSE')
      return { kind: 'boolean', value: token.word === 'TRUE' }
    if (token.word === 'NULL') return { kind: 'null' }
    if (RESERVED.has(token.word)) this.fail(`“${some(token.text)}” cannot stand there.`, token.at)
    // MariaDB says before a string in which character set it is.
    if (this.printed && token.text.startsWith('_') && this.next?.kind === 'string')
      return this.primary(this.next)
    if (this.is('(')) return token.word === 'NATIVE' && !this.printed ? this.native() : this.call(token)
    const bare = BARE[token.word]
    return bare ? { kind: 'call', name: bare, args: [] } : { kind: 'column', name: token.text }
  }

  /** `native(app.carer())`, or for each dialect `native(postgresql: app.carer(); oracle: carer())`. */
  private native(): Expression {
    this.need('(', 'native')
    const calls: NativeCall[] = []
    do calls.push(this.nativeCall())
    while (this.take(';'))
    this.need(')', "what an engine's own function is called with")
    const twice = calls.find(({ dialect }, at) => calls.findIndex((each) => each.dialect === dialect) < at)
    if (twice) this.fail(`native says ${twice.dialect} twice.`)
    return { kind: 'native', calls }
  }

  private nativeCall(): NativeCall {
    const [first, second] = [this.next, this.all[this.at + 1]]
    const isNamed = first?.kind === 'word' && second?.word === ':'
    if (isNamed) this.at += 2
    const path = [this.nativeName()]
    while (this.take('.')) path.push(this.nativeName())
    return { dialect: isNamed ? first.text.toLowerCase() : 'any', path, args: this.list('(', ')') }
  }

  private nativeName(): NativeCall['path'][number] {
    const token = this.next
    const isName = token?.kind === 'name' || (token?.kind === 'word' && !RESERVED.has(token.word))
    if (!token || !isName)
      this.fail("native needs an engine's own function there, with its arguments: native(app.carer()).")
    this.at++
    return { text: token.text, quoted: token.kind === 'name' }
  }

  private call(token: Token): Expression {
    const said = token.text.toLowerCase()
    const name = Object.hasOwn(this.functions, said) ? (this.functions[said] as string) : said
    const args = this.list('(', ')')
    return name === '||'
      ? args.reduce((left, right) => ({ kind: 'binary', op: '||', left, right }))
      : { kind: 'call', name, args }
  }

  private cases(): Expression {
    const branches: { when: Expression; then: Expression }[] = []
    while (this.take('WHEN')) {
      const when = this.expression(0)
      this.need('THEN', 'a condition of CASE')
      branches.push({ when, then: this.expression(0) })
    }
    if (branches.length === 0) this.fail('CASE needs at least one WHEN … THEN ….')
    const otherwise = this.take('ELSE') ? this.expression(0) : undefined
    this.need('END', 'CASE')
    return { kind: 'case', branches, otherwise }
  }

  /** Casts that an engine prints are taken off; a number that it put in quotes is a number again. */
  private casts(of: Expression): Expression {
    let found = of
    while (this.printed && this.take('::')) {
      const type: string[] = []
      while (this.next?.kind === 'word' && !RESERVED.has(this.next.word))
        type.push((this.all[this.at++] as Token).word)
      if (this.next?.kind === 'name' && type.length === 0) this.at++
      if (this.is('.')) {
        this.at += 2
      }
      if (this.is('(')) this.list('(', ')')
      while (['WITH', 'WITHOUT', 'TIME', 'ZONE'].includes(this.next?.word ?? '')) this.at++
      while (this.take('[')) this.need(']', 'a type')
      if (found.kind === 'text' && /^(SMALLINT|INTEGER|BIGINT|NUMERIC|DOUBLE|REAL)/.test(type[0] ?? ''))
        found = negate({ kind: 'number', text: found.value.replace(/^-/, '') }, found.value.startsWith('-'))
    }
    return found
  }
}

const negate = (of: Expression, really = true): Expression => (really ? { kind: 'negative', of } : of)
