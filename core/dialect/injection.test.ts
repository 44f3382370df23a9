import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { BREAKING, breaks, broken, MARK } from '../../tests/attack.ts'
import { choices, grow, Maker } from '../../tests/designs.ts'
import { times } from '../../tests/times.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { findingsIn } from '../check/index.ts'
import { FORMAT, parseDesignFile } from '../design/file.ts'
import { flawsOf } from '../design/integrity.ts'
import { designSchema, type Design, type Table } from '../design/model.ts'
import { soundPart } from '../design/sound.ts'
import type { Type } from '../design/type.ts'
import { apply } from '../edit/apply.ts'
import { describe as say } from '../edit/describe.ts'
import { operationSchema } from '../edit/all.ts'
import type { Operation } from '../edit/operation.ts'
import { proposeJunction } from '../relate/propose.ts'
import { generatedInstead } from '../restructure/another-key.ts'
import { toJunction } from '../restructure/to-junction.ts'
import { made } from '../../tests/made.ts'
import { tokens } from '../sql/lexer.ts'
import { Unwritable } from '../sql/print.ts'
import { planMigration } from '../version/plan.ts'
import type { Dialect } from './dialect.ts'
import { DIALECTS } from './index.ts'

const ALL: readonly Dialect[] = Object.values(DIALECTS)

/**
 * Everything that is written of a design: definitions in every dialect, and the migration from another to
 * it and back in one that has them.
 */
function written(design: Design, from: Design, which: number): { dialect: Dialect; sql: string }[] {
  findingsIn(design)
  const migrating = ALL[which % ALL.length] as Dialect
  const { up, down } = planMigration(from, design, migrating)
  const migrations = [...up, ...down].map(({ sql }) => ({ dialect: migrating, sql }))
  return [
    ...migrations,
    ...Object.values(DIALECTS).flatMap((dialect) =>
      dialect.create(dialect.catalog(design).catalog).map(({ sql }) => ({ dialect, sql }))
    )
  ]
}

/**
 * What an attack left of itself outside quotes. An engine's own type is words by nature, and judged to be
 * nothing else.
 */
function escaped({ dialect, sql }: { dialect: Dialect; sql: string }): string[] {
  // The tail of a keepsake's name is worked out from everything, and may come out as anything.
  const said = sql.replaceAll(/\b(keepsake_\w+?)_[a-z0-9]{6,7}\b/g, '$1')
  const all = tokens(said, {
    brackets: dialect.quote('"').startsWith('['),
    backslash: dialect.quote('"').startsWith('`')
  })
  return all
    .filter(
      (token) =>
        (token.kind === 'word' || token.kind === 'number') && MARK.test(token.text) && token.text !== 'QZ31'
    )
    .map(() => sql)
}

const small = fernhollow().versions[1]?.design as Design
const whole = fernhollow().design

/** A design after several changes of mind, each of which carries rows. */
function restructured(design: Design): Design {
  const need = (of: Design, id: string): Table => of.tables.find((each) => each.id === id) ?? expect.fail(id)
  const steps: ((of: Design) => Operation)[] = [
    (of) => {
      const [many, one] = [need(of, 't_admission'), need(of, 't_reason')]
      const reference = many.foreignKeys.find((key) => key.table === one.id) ?? expect.fail()
      return made(toJunction(of, many, reference, proposeJunction(of, many, one)))
    },
    (of) => {
      const counted = generatedInstead(of, need(of, 't_reason'))
      return counted.ok ? counted.value : expect.fail(counted.message)
    }
  ]
  return steps.reduce((current, step) => {
    const result = apply(current, step(current))
    return result.ok ? result.design : expect.fail(result.refusal.message)
  }, design)
}

describe('a design file from a stranger', () => {
  it('that fits the schema and means something else never gets a word of its own into SQL, stops nothing, and is refused or sound', () => {
    const seen = { refused: 0, taken: 0, marked: 0, statements: 0 }
    const bases = [
      small,
      whole,
      ...[3, 5, 8].map((n) => grow(fc.sample(choices(28, 24), { seed: n, numRuns: 1 })[0] ?? []))
    ]
    fc.assert(
      fc.property(fc.nat(), breaks, (which, taken) => {
        // The demo as a whole is large; most runs go to the small ones.
        const base = bases[which % 40 === 0 ? 1 : ([0, 2, 3, 4][which % 4] as number)] as Design
        const attack = broken(base, taken)
        if (!designSchema.safeParse(attack).success) return fc.pre(false)
        const file = parseDesignFile({ format: FORMAT, design: attack, versions: [] })
        if (file.ok) seen.taken++
        else {
          seen.refused++
          expect(file.message).toMatch(/\.$/)
          expect(file.message.length).toBeLessThan(600)
        }
        const design = file.ok ? file.value.design : soundPart(attack)?.design
        if (!design) throw new Error('nothing of it was sound')
        expect(flawsOf(design)).toEqual([])
        if (MARK.test(JSON.stringify(design))) seen.marked++
        const all = written(design, base, which)
        seen.statements += all.length
        expect(all.flatMap(escaped)).toEqual([])
        // The work done for it is measured by what came out: never far more than what went in.
        const size = JSON.stringify(design).length + JSON.stringify(base).length
        expect(all.reduce((sum, { sql }) => sum + sql.length, 0)).toBeLessThan(40 * size)
      }),
      { numRuns: times(1000) }
    )
    expect(Object.values(seen).every((count) => count > 200)).toBe(true)
  })

  it('whose carries mean something else moves nothing that is not there, and says what it leaves out', () => {
    const seen = { taken: 0, left: 0, moved: 0 }
    const base = restructured(small)
    // In files of an earlier time carries did not say what they read.
    const earlier = base.carries.map((carry) => ({ ...carry, reads: undefined }))
    fc.assert(
      fc.property(fc.nat(), breaks, (which, taken) => {
        const attack = { ...base, carries: broken(which % 3 ? earlier : base.carries, taken) }
        if (!designSchema.safeParse(attack).success) return fc.pre(false)
        const file = parseDesignFile({ format: FORMAT, design: attack, versions: [] })
        if (!file.ok) return
        seen.taken++
        const design = file.value.design
        expect(written(design, small, which).flatMap(escaped)).toEqual([])
        const { warnings, moves } = planMigration(small, design, ALL[which % ALL.length] as Dialect)
        if (moves.up.flow.fills.length + moves.up.flow.adds.length > 0) seen.moved++
        for (const { why } of moves.up.flow.left) {
          seen.left++
          expect(warnings.up.some(({ message, effect }) => effect === 'lost' && message.includes(why))).toBe(
            true
          )
        }
      }),
      { numRuns: times(450) }
    )
    expect(Object.values(seen).every((count) => count > 40)).toBe(true)
  })

  it.each<[string, Partial<Table['columns'][number]>]>([
    [
      'a quoted name called as a function',
      { default: { kind: 'expression', expression: '"1)); create table pwned (x int); --"(1)' } }
    ],
    [
      'bytes that are none',
      { type: { kind: 'binary' }, default: { kind: 'value', value: "00'); CREATE TABLE pwned (x); --" } }
    ],
    ['half an expression', { default: { kind: 'expression', expression: '(((' } }],
    [
      'a function that objects have by nature',
      { default: { kind: 'expression', expression: 'constructor(1)' } }
    ],
    ['a computed column that is none', { computed: '"x"(1)' }],
    ['a note with a zero byte', { note: 'a\u0000b' }],
    ['a note with half a character', { note: '\ud800' }]
  ])('with %s is refused by file and by operation alike', (_, part) => {
    const columns = [
      { id: 'c_pwn', name: 'pwn', type: { kind: 'text' } satisfies Type, required: false, ...part }
    ]
    const table: Table = {
      id: 't_pwn',
      name: 'pwn',
      columns,
      uniques: [],
      foreignKeys: [],
      checks: [],
      indexes: [],
      rowPolicies: [],
      rows: []
    }
    const file = parseDesignFile({
      format: FORMAT,
      design: { ...small, tables: [...small.tables, table] },
      versions: []
    })
    expect(file).toMatchObject({
      ok: false,
      message: expect.stringContaining('does not hold together') as string
    })
    const operation: Operation = { kind: 'table.add', table }
    expect(operationSchema.safeParse(operation).success).toBe(true)
    expect(apply(small, operation)).toMatchObject({ ok: false, refusal: { code: 'invalid' } })
    const [column] = columns
    expect(
      apply(small, { kind: 'column.add', table: 't_patient', column: column as Table['columns'][number] }).ok
    ).toBe(false)
  })

  it('with rows that are none is refused by file and by operation alike', () => {
    const bytes = "00'); CREATE TABLE pwned (x); --"
    const table: Table = {
      id: 't_pwn',
      name: 'pwn',
      columns: [{ id: 'c_pwn', name: 'pwn', type: { kind: 'binary' }, required: false }],
      uniques: [],
      foreignKeys: [],
      checks: [],
      indexes: [],
      rowPolicies: [],
      rows: [{ c_pwn: bytes }]
    }
    expect(
      parseDesignFile({
        format: FORMAT,
        design: { ...small, tables: [...small.tables, table] },
        versions: []
      }).ok
    ).toBe(false)
    expect(apply(small, { kind: 'table.add', table }).ok).toBe(false)
    const carried = { id: 'y_pwn', source: 't_patient', target: 't_nowhere', where: [], columns: [] }
    expect(
      parseDesignFile({ format: FORMAT, design: { ...small, carries: [carried] }, versions: [] }).ok
    ).toBe(false)
    expect(apply(small, { kind: 'carry.add', carry: carried }).ok).toBe(false)
  })
})

describe('a writer', () => {
  const types: Type[] = [
    { kind: 'binary' },
    { kind: 'integer', size: 'big' },
    { kind: 'decimal', precision: 8, scale: 2 },
    { kind: 'float' },
    { kind: 'date' },
    { kind: 'time' },
    { kind: 'timestamp', zone: true },
    { kind: 'uuid' },
    { kind: 'json' },
    { kind: 'interval' },
    { kind: 'text' },
    { kind: 'boolean' },
    { kind: 'enum', enum: 'e_x' }
  ]
  it('quotes whatever it is handed as a value, though nobody judged it', () => {
    let quoted = 0
    for (const dialect of Object.values(DIALECTS)) {
      for (const type of types) {
        for (const text of BREAKING) {
          const sql = dialect.literal(text, type)
          expect(escaped({ dialect, sql })).toEqual([])
          if (MARK.test(sql)) quoted++
        }
      }
    }
    expect(quoted).toBeGreaterThan(1000)
  })

  it('refuses an expression that nobody judged, or writes what of it is one', () => {
    let refused = 0
    for (const dialect of Object.values(DIALECTS)) {
      for (const text of BREAKING) {
        try {
          const sql = dialect.default({ kind: 'expression', expression: text }, { kind: 'text' }) ?? ''
          expect(escaped({ dialect, sql })).toEqual([])
        } catch (error) {
          expect(error instanceof Unwritable || (error as Error).constructor.name === 'NotAnExpression').toBe(
            true
          )
          refused++
        }
      }
    }
    expect(refused).toBeGreaterThan(100)
  })
})

describe('an operation from a stranger', () => {
  it('is refused in words or leaves a design without a flaw, in which no word of its own stands outside quotes', () => {
    const seen = { done: 0, refused: 0, marked: 0 }
    fc.assert(
      fc.property(choices(1, 1), breaks, fc.nat(), (taken, how, which) => {
        const base =
          which % 3 === 0
            ? small
            : grow(fc.sample(choices(28, 24), { seed: which % 50, numRuns: 1 })[0] ?? [])
        const operation = broken(new Maker().operation(base, taken[0] as never), how)
        if (!operationSchema.safeParse(operation).success) return fc.pre(false)
        expect(say(base, operation)).not.toBe('')
        const result = apply(base, operation)
        if (!result.ok) {
          seen.refused++
          expect(result.refusal.message).toMatch(/\.$/)
          return
        }
        seen.done++
        expect(flawsOf(result.design)).toEqual(flawsOf(base))
        if (MARK.test(JSON.stringify(result.design))) seen.marked++
        expect(written(result.design, base, which).flatMap(escaped)).toEqual([])
      }),
      { numRuns: times(900) }
    )
    expect(Object.values(seen).every((count) => count > 40)).toBe(true)
  })
})
