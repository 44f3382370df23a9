import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { columnsNamed, type BinaryOperator, type Expression } from './expression.ts'
import { NotAnExpression, parseExpression } from './parse.ts'
import { meaning, plainName, plainWords, printExpression } from './print.ts'
import { times } from '../../tests/times.ts'

const OPERATORS: BinaryOperator[] = [
  'or',
  'and',
  '=',
  '<>',
  '<',
  '<=',
  '>',
  '>=',
  'like',
  'not like',
  '||',
  '+',
  '-',
  '*',
  '/',
  '%'
]
const name = fc.constantFrom('weight_g', 'two words', 'a"b', 'select', 'and', 'قنفذ', 'x')

/** Any expression at all, whether it makes sense or not. */
const { any } = fc.letrec<{ any: Expression }>((tie) => ({
  any: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    fc.record({ kind: fc.constant('number' as const), text: fc.constantFrom('0', '1', '1.5', '20', '3e2') }),
    fc.record({
      kind: fc.constant('text' as const),
      value: fc.constantFrom('', "it's", 'a -- b', '; DROP', '"', 'back\\slash')
    }),
    fc.record({ kind: fc.constant('column' as const), name }),
    fc.record({ kind: fc.constant('boolean' as const), value: fc.boolean() }),
    fc.record({ kind: fc.constantFrom('not' as const, 'negative' as const), of: tie('any') }),
    fc.record({ kind: fc.constant('isNull' as const), of: tie('any'), not: fc.boolean() }),
    fc.record({
      kind: fc.constant('binary' as const),
      op: fc.constantFrom(...OPERATORS),
      left: tie('any'),
      right: tie('any')
    }),
    fc.record({
      kind: fc.constant('in' as const),
      of: tie('any'),
      list: fc.array(tie('any'), { minLength: 1, maxLength: 3 }),
      not: fc.boolean()
    }),
    fc.record({
      kind: fc.constant('between' as const),
      of: tie('any'),
      low: tie('any'),
      high: tie('any'),
      not: fc.boolean()
    }),
    fc.record({
      kind: fc.constant('case' as const),
      branches: fc.array(fc.record({ when: tie('any'), then: tie('any') }), { minLength: 1, maxLength: 2 }),
      otherwise: fc.option(tie('any'), { nil: undefined })
    }),
    fc.record({
      kind: fc.constant('call' as const),
      name: fc.constantFrom('lower', 'coalesce', 'now'),
      args: fc.array(tie('any'), { maxLength: 3 })
    }),
    fc.record({
      kind: fc.constant('native' as const),
      calls: fc.uniqueArray(
        fc.record({
          dialect: fc.constantFrom('any', 'postgresql', 'oracle'),
          path: fc.array(
            fc.oneof(
              fc.record({ text: fc.constantFrom('app', 'carer_$1', 'Left'), quoted: fc.constant(false) }),
              fc.record({ text: name, quoted: fc.constant(true) })
            ),
            { minLength: 1, maxLength: 3 }
          ),
          args: fc.array(tie('any'), { maxLength: 2 })
        }),
        { minLength: 1, maxLength: 3, selector: ({ dialect }) => dialect }
      )
    })
  )
}))

const print = (expression: Expression): string => printExpression(expression, plainWords(plainName))

describe('an expression', () => {
  it('is printed so that it reads back as itself, whatever stands in it', () => {
    fc.assert(
      fc.property(any, (expression) => {
        const text = print(expression)
        expect(print(parseExpression(text))).toBe(text)
        expect(meaning(parseExpression(text))).toBe(meaning(expression))
      }),
      { numRuns: times(500) }
    )
  })

  it('that is none is refused with words, and never breaks anything', () => {
    fc.assert(
      fc.property(
        fc.string({
          unit: fc.constantFrom(
            'a',
            '1',
            "'",
            '"',
            '(',
            ')',
            ' ',
            '-',
            '{',
            '}',
            'NOT ',
            ' AND ',
            ' IN ',
            ',',
            '<',
            '=',
            '|',
            '🦔',
            'CASE ',
            'END',
            '::',
            'native(',
            'postgresql: ',
            ';',
            '.'
          )
        }),
        (text) => {
          try {
            parseExpression(text)
          } catch (error) {
            expect(error).toBeInstanceOf(NotAnExpression)
            expect((error as Error).message).toMatch(/\.$/)
          }
        }
      ),
      { numRuns: times(1000) }
    )
    expect(() => parseExpression('('.repeat(500))).toThrow('too deep')
  })

  it.each([
    ['weight_g >', 'Something is missing at the end.'],
    ['weight_g > 0)', '“)” cannot stand there.'],
    ['weight_g between 1 or 2', '“AND” is missing after BETWEEN, before “or”.'],
    ['a in ()', 'A list needs something in it.'],
    ['select 1', '“select” cannot stand there.'],
    ['a; drop table b', '“;” cannot stand there.'],
    ['case end', 'CASE needs at least one WHEN … THEN ….'],
    ['native()', "native needs an engine's own function there"],
    ['native(app.)', "native needs an engine's own function there"],
    ['native(app.carer)', '“(” is missing after the name'],
    ['native(select(1))', "native needs an engine's own function there"],
    ['native(oracle: a(); oracle: b())', 'native says oracle twice.'],
    ["native(a() || 'x')", "“)” is missing after what an engine's own function is called with"]
  ])('says of “%s”: %s', (text, message) => expect(() => parseExpression(text)).toThrow(message))

  it('binds as the standard says, and names its columns once each', () => {
    expect(print(parseExpression('not a = 1 or b + 2 * c > 3 and d is not null'))).toBe(
      'NOT a = 1 OR b + 2 * c > 3 AND d IS NOT NULL'
    )
    expect(print(parseExpression('(a or b) and (c - (d - 1)) = 2'))).toBe('(a OR b) AND c - (d - 1) = 2')
    expect(columnsNamed(parseExpression('a > b and a < {c_x} or "two words" = 1'))).toEqual([
      'a',
      'b',
      'c_x',
      'two words'
    ])
    expect(print(parseExpression('- -1'))).toBe('- -1')
  })

  it.each([
    [
      "((x)::text = ANY ((ARRAY['a'::character varying, 'b'::character varying])::text[]))",
      "x IN ('a', 'b')"
    ],
    ['((a >= 1) AND (a <= 2))', 'a between 1 and 2'],
    ['(NOT (a = 1))', 'a <> 1'],
    ["(b = '-5'::integer)", 'b = -5'],
    ['(NOT ((a = 1) OR (b = 2)))', 'a <> 1 and b <> 2'],
    ["(found_on >= '2020-01-01'::date)", "found_on >= '2020-01-01'"],
    ['(a)::double precision', 'a']
  ])('that an engine printed as %s means %s', (printed, written) => {
    const spelling = { spelling: { brackets: false, backslash: false }, functions: {} }
    expect(meaning(parseExpression(printed, { printed: spelling }))).toBe(meaning(parseExpression(written)))
  })

  it('does not mean what another means', () => {
    const different = [
      'a = 1',
      'a = 2',
      'b = 1',
      'a <> 1',
      'a > 1',
      'a >= 1',
      'a is null',
      'a is not null',
      'a in (1, 2)',
      'a in (2, 1)',
      "a = '1'",
      'a = 1 and b = 1',
      'a = 1 or b = 1',
      'not a'
    ]
    expect(new Set(different.map((text) => meaning(parseExpression(text)))).size).toBe(different.length)
  })
})
