import { describe, expect, it } from 'vitest'
import page from '../docs/safety.md?raw'
import { counted } from '../tests/work.ts'
import { BOUNDS } from './bounds.ts'
import { findingsIn } from './check/index.ts'
import { flawOfExpression, readExpression } from './design/expressions.ts'
import { readDesignFile } from './design/file.ts'
import { flawsOf } from './design/integrity.ts'
import { canonicalJson, decodeText, readJson, tooDeepAt } from './design/json.ts'
import {
  designSchema,
  emptyDesign,
  emptyTable,
  type Column,
  type Design,
  type Table
} from './design/model.ts'
import { sizeOf } from './design/size.ts'
import { soundPart } from './design/sound.ts'
import { DIALECTS } from './dialect/index.ts'
import { apply } from './edit/apply.ts'
import { unfoldedSize, type Expression } from './sql/expression.ts'
import { parseExpression } from './sql/parse.ts'
import { meaning } from './sql/print.ts'
import { sortOf } from './sql/sorts.ts'

const nested = (before: string, inside: string, after: string, depth: number): string =>
  before.repeat(depth) + inside + after.repeat(depth)

describe('an expression', () => {
  const shapes: [string, (depth: number) => string][] = [
    ['coalesce', (depth) => nested('coalesce(a, ', 'a', ')', depth)],
    ['coalesce, first', (depth) => nested('coalesce(', 'a', ', a)', depth)],
    ['nullif', (depth) => nested('nullif(', 'a', ', a)', depth)],
    ['in', (depth) => nested('(', 'a', ' in (a, a))', depth)],
    ['case', (depth) => nested('case when a = a then ', 'a', ' else a end', depth)],
    ['a chain', (depth) => `a${' + a'.repeat(depth)}`]
  ]
  it.each(shapes)('of %s is judged in a time that goes with its length', (name, shape) => {
    const visits = (depth: number): number => {
      let count = 0
      // Kinds do not always go together here; what is counted is how often a column is asked for.
      try {
        sortOf(parseExpression(shape(depth)), () => {
          count++
          return { name: 'a', sort: 'any', refuses: () => undefined }
        })
      } catch (error) {
        expect(error).toBeInstanceOf(Error)
      }
      return count
    }
    const columns = (depth: number): number => shape(depth).match(/\ba\b/g)?.length ?? 0
    for (const depth of [5, 20, 40]) expect([name, visits(depth)]).toEqual([name, columns(depth)])
  })

  it('that an engine would unfold without end is refused in words, and the largest that is taken is small', () => {
    const between = (depth: number): string => nested('(', 'TRUE', ' BETWEEN FALSE AND TRUE)', depth)
    const reading = { columns: [], enums: [] }
    expect(readExpression(between(12), reading).ok).toBe(true)
    expect(readExpression(between(40), reading)).toEqual({
      ok: false,
      message: 'BETWEEN within BETWEEN goes too deep here: compare with >= and <= instead.'
    })
    expect(flawOfExpression(between(40), reading)).toContain('too deep')
    let largest = 0
    for (let depth = 1; readExpression(between(depth), reading).ok; depth++)
      largest = meaning(parseExpression(between(depth))).length
    expect(largest).toBeLessThan(20 * BOUNDS.expressionParts)
    expect(unfoldedSize(parseExpression(between(40)))).toBeGreaterThan(2 ** 40)
  })

  it('nests so deep, is so long, and no more', () => {
    expect(() => parseExpression(nested('(', '1', ')', BOUNDS.expressionDepth - 1))).not.toThrow()
    expect(() => parseExpression(nested('(', '1', ')', BOUNDS.expressionDepth))).toThrow('too deep')
    expect(() => parseExpression('('.repeat(BOUNDS.keptExpression))).toThrow('too deep')
    expect(readExpression('1 + '.repeat(600) + '1 > 0', { columns: [], enums: [] })).toMatchObject({
      ok: false,
      message: expect.stringContaining('too long') as string
    })
    // A chain is as deep as it is long; the longest that is kept is gone through without exhausting the
    // stack.
    const chain: Expression = parseExpression(`1${'+1'.repeat(BOUNDS.keptExpression / 2 - 1)}`)
    expect(sortOf(chain, () => undefined)).toBe('number')
    expect(meaning(chain).length).toBeGreaterThan(BOUNDS.keptExpression)
  })
})

describe('JSON', () => {
  it('is read no further than where it gets too deep, and what stands in quotes opens nothing', () => {
    expect(tooDeepAt('['.repeat(15_000_000))).toBe(BOUNDS.jsonDepth)
    expect(readJson('['.repeat(15_000_000))).toEqual({
      ok: false,
      message: 'it is nested deeper than 64 levels (line 1, column 65)'
    })
    expect(readJson(`${'['.repeat(64)}${']'.repeat(64)}`).ok).toBe(true)
    expect(readJson(`["${'[{'.repeat(1000)}\\"[["]`).ok).toBe(true)
    expect(readJson(`{"a":1,\n"b":${'['.repeat(70)}`)).toEqual({
      ok: false,
      message: 'it is nested deeper than 64 levels (line 2, column 68)'
    })
    expect(readJson('x'.repeat(101), 100)).toMatchObject({
      ok: false,
      message: 'it is longer than 100 characters'
    })
    expect(readDesignFile('['.repeat(100_000))).toMatchObject({
      ok: false,
      message: 'This is not a design file: it is nested deeper than 64 levels (line 1, column 65).'
    })
    const deep = nested('[', '', ']', 100_000)
    expect(canonicalJson(deep)).toBe(deep)
  })

  it('is text in UTF-8, with or without a mark before it', () => {
    expect(decodeText(new TextEncoder().encode('\ufeff{"a": "🦔"}'))).toEqual({
      ok: true,
      value: '{"a": "🦔"}'
    })
    expect(decodeText(Uint8Array.of(0x7b, 0xff, 0x7d))).toEqual({
      ok: false,
      message: 'it is not text in UTF-8: byte 2 cannot stand there'
    })
    expect(decodeText(Uint8Array.of(0x22, 0xe2, 0x82))).toMatchObject({ ok: false })
  })
})

const column = (id: string, more: Partial<Column> = {}): Column => ({
  id: `c_${id}`,
  name: id,
  type: { kind: 'integer', size: 'normal' },
  required: false,
  ...more
})
const listOf = <T>(n: number, make: (at: number) => T): T[] => Array.from({ length: n }, (_, at) => make(at))
const table = (name: string, more: Partial<Table> = {}): Table => ({
  ...emptyTable(name, `t_${name}`),
  columns: [column(`${name}_id`, { required: true })],
  primaryKey: { id: `k_${name}`, columns: [`c_${name}_id`] },
  ...more
})
const design = (...tables: Table[]): Design => ({ ...emptyDesign('Large', 'd_large'), tables })

/** Designs that grow in the ways in which a stranger could make them large. */
const SHAPES: [string, (n: number) => Design][] = [
  [
    'columns each computed from the one before',
    (n) =>
      design(
        table('a', {
          columns: [
            column('a_id', { required: true }),
            ...listOf(n, (at) =>
              column(`x${at}`, { computed: at === 0 ? '{c_a_id} + 1' : `{c_x${at - 1}} + 1` })
            )
          ]
        })
      )
  ],
  [
    'columns computed in one great circle',
    (n) =>
      design(
        table('a', {
          columns: [
            column('a_id', { required: true }),
            ...listOf(n, (at) => column(`x${at}`, { computed: `{c_x${(at + 1) % n}} + 1` }))
          ]
        })
      )
  ],
  [
    'checks on many columns',
    (n) =>
      design(
        table('a', {
          columns: [column('a_id', { required: true }), ...listOf(n, (at) => column(`x${at}`))],
          checks: listOf(n / 2, (at) => ({ id: `x_${at}`, condition: `{c_x${at}} > 0` }))
        })
      )
  ],
  [
    'wide keys that many refer to',
    (n) =>
      design(
        table('a', {
          columns: [
            column('a_id', { required: true }),
            ...listOf(n, (at) => column(`x${at}`, { required: true }))
          ],
          primaryKey: { id: 'k_a', columns: listOf(n, (at) => `c_x${at}`) }
        }),
        table('b', {
          columns: [
            column('b_id', { required: true }),
            ...listOf(n, (at) => column(`y${at}`, { required: true }))
          ],
          foreignKeys: [
            {
              id: 'f_b',
              table: 't_a',
              key: 'k_a',
              pairs: listOf(n, (at) => ({ column: `c_y${at}`, refersTo: `c_x${at}` })),
              onDelete: 'CASCADE',
              onUpdate: 'CASCADE'
            }
          ]
        })
      )
  ],
  [
    'tables that all refer to one',
    (n) =>
      design(
        table('hub'),
        ...listOf(n, (at) =>
          table(`a${at}`, {
            columns: [column(`a${at}_id`, { required: true })],
            foreignKeys: [
              {
                id: `f_${at}`,
                table: 't_hub',
                key: 'k_hub',
                pairs: [{ column: `c_a${at}_id`, refersTo: 'c_hub_id' }],
                onDelete: 'CASCADE',
                onUpdate: 'CASCADE'
              }
            ]
          })
        )
      )
  ],
  [
    'tables each in a schema of its own',
    (n) => ({
      ...design(...listOf(n, (at) => table(`a${at}`, { schema: `s_${at}` }))),
      schemas: listOf(n, (at) => ({ id: `s_${at}`, name: `s${at}` }))
    })
  ],
  [
    'columns each with a list of values of its own',
    (n) => ({
      ...design(
        table('a', {
          columns: [
            column('a_id', { required: true }),
            ...listOf(n, (at) =>
              column(`x${at}`, {
                type: { kind: 'enum', enum: `e_${at}` },
                default: { kind: 'value', value: 'v' }
              })
            )
          ],
          rows: [Object.fromEntries(listOf(n, (at) => [`c_x${at}`, 'v']))]
        })
      ),
      enums: listOf(n, (at) => ({ id: `e_${at}`, name: `e${at}`, values: ['v'] }))
    })
  ],
  ['rows', (n) => design(table('a', { rows: listOf(n, (at) => ({ c_a_id: at })) }))],
  ['values that are wrong, each', (n) => design(table('a', { rows: listOf(n, () => ({ c_a_id: 'x' })) }))]
]

describe('a design that a stranger made large', () => {
  it.each(SHAPES)(
    'by %s is judged, mended, checked and written with work that grows as it does',
    (_, shape) => {
      const work = (n: number): { judge: number; write: number } => {
        const judged = counted(shape(n))
        const wrong = flawsOf(judged.value)
        const sound = wrong.length > 0 ? soundPart(shape(n))?.design : shape(n)
        if (!sound) throw new Error('nothing of it is sound')
        expect(flawsOf(sound)).toEqual([])
        const written = counted(sound)
        findingsIn(written.value)
        for (const dialect of Object.values(DIALECTS)) dialect.create(dialect.catalog(written.value).catalog)
        return { judge: judged.reads(), write: written.reads() }
      }
      const [small, large] = [work(100), work(400)]
      // Four times as large: four times the work, and not sixteen.
      expect(large.judge / small.judge).toBeLessThan(5)
      expect(large.write / small.write).toBeLessThan(5)
    }
  )

  it('by more than is taken is refused with its place', () => {
    const wide = design(table('a', { columns: listOf(BOUNDS.columns + 1, (at) => column(`x${at}`)) }))
    expect(designSchema.safeParse(wide).error?.issues[0]?.path).toEqual(['tables', 0, 'columns'])
  })

  it('by one value in very many rows, which is held once and written as often, is refused', () => {
    const before = design(table('a', { rows: listOf(200, (at) => ({ c_a_id: at })) }))
    const wide = (length: number): ReturnType<typeof apply> =>
      apply(before, {
        kind: 'column.add',
        table: 't_a',
        column: column('note', {
          type: { kind: 'text' },
          default: { kind: 'value', value: 'x'.repeat(length) }
        })
      })
    expect(wide(1000).ok).toBe(true)
    const refused = wide(BOUNDS.value)
    expect(refused).toMatchObject({
      ok: false,
      refusal: { message: expect.stringContaining('more than is read.') as string }
    })
    const grown = wide(1000)
    if (grown.ok)
      expect(Math.abs(sizeOf(grown.design) / JSON.stringify(grown.design).length - 1)).toBeLessThan(0.1)
  })
})

describe('the page about safety', () => {
  it('has every bound as it is', () => {
    for (const [name, bound] of Object.entries(BOUNDS))
      expect([name, page.includes(`| ${name} | ${bound.toLocaleString('en-GB')} |`)]).toEqual([name, true])
  })
})
