import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findingsOn } from '../../core/check/index.ts'
import { offendersQuery } from '../../core/definitions/offenders.ts'
import { tableOf } from '../../core/design/directory.ts'
import type { Design, Minimum } from '../../core/design/model.ts'
import { violations } from '../../core/design/violations.ts'
import { DIALECTS, PROVABLE } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { planMigration } from '../../core/version/plan.ts'
import { proveDesign, proveMigration, sayTrouble } from '../../core/version/proof.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { PostgresqlServer } from '../../tests/postgresql.ts'
import { testEngine } from '../../tests/engines.ts'
import type { Engine } from './engine.ts'

/** Each ward has at least one pen: what no key holds. */

const whole = fernhollow().versions[3]?.design as Design
const start: Design = {
  ...whole,
  carries: [],
  tables: whole.tables.filter(({ name }) => ['ward', 'pen', 'person', 'volunteer'].includes(name))
}
function after(design: Design, ...operations: Operation[]): Design {
  const result = apply(design, { kind: 'batch', operations })
  return result.ok ? result.design : expect.fail(result.refusal.message)
}
const least = (minimum: Minimum | null): Operation => ({
  kind: 'foreignKey.setMinimum',
  table: 't_pen',
  foreignKey: 'f_pen_ward_code',
  minimum
})
const held = after(start, least('held'))

describe('a minimum', () => {
  it('is refused with the rows that have none, and holds those that come', () => {
    const wards = tableOf(start, 't_ward')?.rows ?? []
    const bare = after(start, {
      kind: 'table.setRows',
      table: 't_ward',
      rows: [...wards, { c_ward_ward_code: 'NEW', c_ward_name: 'New', c_ward_housing: 'pen' }]
    })
    const result = apply(bare, least('held'))
    expect(result.ok ? '' : result.refusal.message).toBe(
      `Row ${wards.length + 1} of ward has no pen, and each is to have at least one.`
    )
    expect(apply(bare, least('said')).ok).toBe(true)
    expect(apply(held, { kind: 'table.setRows', table: 't_pen', rows: [] }).ok).toBe(false)
    expect(violations(held)).toEqual([])
  })

  it('is told of where nothing holds it, and mended by saying it only', () => {
    const told = (design: Design): string[] =>
      findingsOn(design, 't_pen')
        .filter(({ rule }) => rule === 'minimum that nothing holds')
        .map(({ message }) => message)
    expect(told(held)).toEqual([
      expect.stringMatching(/nothing there holds that each ward has at least one pen/)
    ])
    expect(told(after(start, least('said')))).toEqual([])
    expect(told({ ...held, dialects: ['postgresql'] })).toEqual([])
  })
})

describe.each(PROVABLE.map((dialect) => [dialect.title, dialect] as const))('on %s', (_, dialect) => {
  let engine: Engine
  beforeAll(async () => {
    engine = await testEngine(dialect)
  })
  afterAll(() => engine.close())

  const rename: Operation[] = [
    { kind: 'table.rename', table: 't_ward', name: 'wing' },
    { kind: 'column.rename', table: 't_pen', column: 'c_pen_ward_code', name: 'wing_code' }
  ]
  it.each<[string, Design, Design]>([
    ['comes', start, held],
    ['is said only', held, after(held, least('said'))],
    ['stands while its tables and columns are called otherwise', held, after(held, ...rename)],
    [
      'stands while its key becomes another type',
      held,
      after(held, {
        kind: 'column.retype',
        table: 't_ward',
        column: 'c_ward_ward_code',
        type: { kind: 'char', length: 5 }
      })
    ],
    ['goes with its table', held, after(held, { kind: 'table.remove', table: 't_pen' })],
    [
      'goes with its reference',
      held,
      after(held, { kind: 'foreignKey.remove', table: 't_pen', foreignKey: 'f_pen_ward_code' })
    ]
  ])('%s, up and down', async (_what, from, to) => {
    const proof = await proveMigration(from, to, dialect, engine.query)
    expect(sayTrouble(proof)).toEqual([])
    expect(proof.good).toBe(true)
  })

  it('that is only said finds those that fall short by its query', async () => {
    const bare = after(start, least('said'), {
      kind: 'table.setRows',
      table: 't_ward',
      rows: [
        ...(tableOf(start, 't_ward')?.rows ?? []),
        { c_ward_ward_code: 'NEW', c_ward_name: 'New', c_ward_housing: 'pen' }
      ]
    })
    expect(sayTrouble(await proveDesign(bare, dialect, engine.query))).toEqual([])
    const query = offendersQuery(bare, 't_pen', 'f_pen_ward_code', dialect) ?? expect.fail('no query')
    expect((await engine.query(query)).map((row) => row.ward_code)).toEqual(['NEW'])
  })

  it('holds whatever its tables and columns are called', async () => {
    const odd = after(
      held,
      { kind: 'table.rename', table: 't_ward', name: 'one "o\'clock" $$' },
      { kind: 'table.rename', table: 't_pen', name: 'other' },
      { kind: 'column.rename', table: 't_ward', column: 'c_ward_ward_code', name: 'place_1' },
      { kind: 'column.rename', table: 't_pen', column: 'c_pen_ward_code', name: 'held' }
    )
    const proof = await proveMigration(held, odd, dialect, engine.query)
    expect(sayTrouble(proof)).toEqual([])
    if (dialect.name !== 'postgresql') return
    // The first row that has nobody is refused, by what the trigger says and not by a slip of its own.
    const bare = engine.query(`DELETE FROM other WHERE held = (SELECT min(held) FROM other)`)
    await expect(bare).rejects.toThrow(/has at least one other/)
  })

  it('is a step of its own and nothing else', () => {
    const plan = planMigration(start, held, dialect)
    const made = plan.up.filter(({ sql }) => sql.includes('CREATE CONSTRAINT TRIGGER'))
    expect(made).toHaveLength(dialect.name === 'postgresql' ? 2 : 0)
  })
})

describe('on PostgreSQL, at the end of a transaction', () => {
  let server: PostgresqlServer
  let [one, other]: Engine[] = []
  beforeAll(async () => {
    server = await PostgresqlServer.start()
    one = await server.database('minimum')
    other = await server.database('minimum')
    const proof = await proveDesign(held, DIALECTS.postgresql, one.query)
    expect(sayTrouble(proof)).toEqual([])
  })
  afterAll(async () => {
    await one?.close()
    await other?.close()
    server.stop()
  })
  async function does(...statements: string[]): Promise<string> {
    const query = one?.query ?? expect.fail()
    try {
      for (const sql of ['BEGIN', ...statements, 'COMMIT']) await query(sql)
      return ''
    } catch (error) {
      await query('ROLLBACK')
      return error instanceof Error ? error.message : String(error)
    }
  }
  const refused = 'each ward has at least one pen'
  const ward = (code: string): string =>
    `INSERT INTO ward (ward_code, name, housing) VALUES ('${code}', 'Ward ${code}', 'pen')`
  const pen = (code: string, no = 1): string =>
    `INSERT INTO pen (ward_code, pen_no) VALUES ('${code}', ${no})`

  it('refuses what leaves a row without one, and takes both together in any order', async () => {
    expect(await does(ward('AAA'))).toContain(refused)
    expect(await does(ward('AAA'), pen('AAA'), pen('AAA', 2))).toBe('')
    expect(await does("DELETE FROM pen WHERE ward_code = 'AAA'")).toContain(refused)
    expect(await does("DELETE FROM pen WHERE ward_code = 'AAA' AND pen_no = 1")).toBe('')
    expect(await does("DELETE FROM pen WHERE ward_code = 'AAA'", pen('AAA', 3))).toBe('')
    expect(await does(ward('BBB'), pen('BBB'))).toBe('')
    expect(await does("UPDATE pen SET ward_code = 'AAA', pen_no = 9 WHERE ward_code = 'BBB'")).toContain(
      refused
    )
    expect(await does("UPDATE ward SET ward_code = 'CCC' WHERE ward_code = 'BBB'")).toBe('')
    expect(await does("DELETE FROM ward WHERE ward_code = 'CCC'")).toBe('')
  })

  it('sees what another transaction has just done, so that two cannot each take one of the last two', async () => {
    expect(await does(ward('DDD'), pen('DDD'), pen('DDD', 2))).toBe('')
    const take = (no: number): string => `DELETE FROM pen WHERE ward_code = 'DDD' AND pen_no = ${no}`
    const [first, second] = [one?.query ?? expect.fail(), other?.query ?? expect.fail()]
    for (const [query, no] of [
      [first, 1],
      [second, 2]
    ] as const) {
      await query('BEGIN')
      await query(take(no))
    }
    const ends = await Promise.allSettled([first('COMMIT'), second('COMMIT')])
    expect(ends.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected'])
    expect(await first("SELECT pen_no FROM pen WHERE ward_code = 'DDD'")).toHaveLength(1)
  })
})
