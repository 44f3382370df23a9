import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyDesign, emptyTable, type Column, type Design } from '../../core/design/model.ts'
import type { Provable } from '../../core/dialect/dialect.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { chainOf } from '../../core/version/chain.ts'
import { proveDesign, proveMigration, sayTrouble } from '../../core/version/proof.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { withoutOthers } from '../../tests/alone.ts'
import { changedBy } from '../../tests/minds.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

const { versions } = fernhollow()
const start = withoutOthers(versions[2]?.design as Design)

const carers = (oldest: Record<string, string>, computed?: string): Design => {
  const column = (id: string, type: Column['type'], more: Partial<Column> = {}): Column => ({
    id,
    name: id.slice(2),
    type,
    required: false,
    ...more
  })
  return {
    ...emptyDesign('Carers', 'd_carers'),
    oldest,
    tables: [
      {
        ...emptyTable('carer', 't_carer'),
        columns: [
          column('c_carer_code', { kind: 'uuid' }, { required: true }),
          column('c_name', { kind: 'text', length: 40 }, { required: true }),
          column(
            'c_called',
            { kind: 'text', length: 40 },
            computed === undefined ? { required: true } : { computed }
          )
        ],
        primaryKey: { id: 'k_carer', columns: ['c_carer_code'] },
        uniques: [{ id: 'k_called', columns: ['c_called'] }],
        rows: ['1c9e6a52-0d0f-4a6e-9c2a-52f1a6f3b001', '1c9e6a52-0d0f-4a6e-9c2a-52f1a6f3b002'].map(
          (code, at) => ({
            c_carer_code: code,
            c_name: `Carer ${at}`,
            ...(computed === undefined && { c_called: `CARER ${at}` })
          })
        )
      }
    ]
  }
}

describe('what is written for an older version', () => {
  it('is taken by a later PostgreSQL: a column in the place of one that was computed', async () => {
    const engine = await openEngine(DIALECTS.postgresql)
    try {
      const oldest = { postgresql: '12' }
      const [from, to] = [carers(oldest, 'upper({c_name})'), carers(oldest)]
      const proof = await proveMigration(from, to, DIALECTS.postgresql, engine.query)
      expect(sayTrouble(proof)).toEqual([])
    } finally {
      await engine.close()
    }
  })

  it('is taken by a later MariaDB, and becomes what is written for that, rows and all', async () => {
    const engine = await openEngine(DIALECTS.mariadb)
    try {
      const [old, fresh] = [carers({ mariadb: '10.6' }), carers({ mariadb: '10.11' })]
      expect(sayTrouble(await proveDesign(old, DIALECTS.mariadb, engine.query))).toEqual([])
      expect(sayTrouble(await proveMigration(old, fresh, DIALECTS.mariadb, engine.query))).toEqual([])
    } finally {
      await engine.close()
    }
  })
})

/**
 * No MySQL runs here. What is written for it is run by MariaDB, which takes procedures, conditions and the
 * information schema as it does; only the order of texts is called otherwise there, and a computed column
 * takes no NOT NULL.
 */
describe('what is written for MySQL, run by MariaDB', () => {
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(DIALECTS.mariadb)
  })
  afterAll(() => engine.close())

  const { mysql, mariadb } = DIALECTS
  const standIn: Provable = { ...mysql, for: () => standIn, engine: mariadb.engine }
  const said: string[] = []
  const query = (sql: string): Promise<Record<string, unknown>[]> => {
    said.push(sql)
    return engine.query(
      sql.replaceAll('utf8mb4_0900_bin', 'utf8mb4_nopad_bin').replaceAll(/ (VIRTUAL|STORED) NOT NULL/g, ' $1')
    )
  }
  const isComputedAndRequired = ({ tables }: Design): boolean =>
    tables.some(({ columns }) => columns.some(({ computed, required }) => computed !== undefined && required))

  it('makes the demo, and goes from each of its versions to the next and back', async () => {
    const designs = versions.map(({ design }) => withoutOthers(design))
    for (const design of designs) expect(sayTrouble(await proveDesign(design, standIn, query))).toEqual([])
    for (const [at, design] of designs.slice(1).entries())
      expect(sayTrouble(await proveMigration(designs[at] as Design, design, standIn, query))).toEqual([])
  })

  it('goes from any state to any other and back, and what MySQL has no words for is not in it', async () => {
    said.length = 0
    const counts = { migrations: 0, guarded: 0 }
    await fc.assert(
      fc.asyncProperty(fc.array(fc.nat(1000), { minLength: 60, maxLength: 90 }), async (given) => {
        const numbers = new Numbers(given)
        const to = changedBy(numbers, start, 6)
        if (isComputedAndRequired(to)) return
        const proof = await proveMigration(start, to, standIn, query)
        const stops = proof.steps.some(({ error }) => error !== undefined)
        // What rows stand in the way of is told of, and is looked for elsewhere.
        if (
          stops &&
          /SIGNAL|Duplicate|CONSTRAINT|cannot be null|truncated|Incorrect/i.test(JSON.stringify(proof.steps))
        )
          return
        expect(sayTrouble(proof)).toEqual([])
        counts.migrations++
      }),
      { numRuns: times(8) }
    )
    for (const sql of said) {
      expect(sql).not.toMatch(
        /(ADD|DROP|RENAME|MODIFY|CHANGE) (COLUMN|INDEX|CONSTRAINT|FOREIGN KEY|PRIMARY KEY|TABLE) IF (NOT )?EXISTS \S+ (\w+|\()/
      )
      expect(sql).not.toMatch(/^(IF|BEGIN NOT ATOMIC)|CREATE OR REPLACE TABLE|RENAME TABLE IF/)
      if (/^CREATE PROCEDURE/.test(sql)) counts.guarded += sql.split('information_schema').length - 1
    }
    expect(counts.migrations).toBeGreaterThan(3)
    expect(counts.guarded).toBeGreaterThan(30)
  }, 120_000)

  it('has all that it does in procedures that are made, run and dropped', () => {
    const files = chainOf(versions, mysql)
    const ups = files.filter(({ path }) => path.endsWith('up.sql'))
    expect(ups.length).toBe(versions.length)
    for (const { text } of ups) {
      const statements = text.split(' //\n').map((part) => part.replaceAll(/^(--.*|)\n/gm, '').trim())
      const kinds = statements.map((sql) => /^[A-Z]+( [A-Z]+)?/.exec(sql)?.[0] ?? '')
      expect(kinds.filter((kind) => kind !== '')).toEqual([
        'DELIMITER',
        'CREATE TABLE',
        'SET SESSION',
        'DROP PROCEDURE',
        'CREATE PROCEDURE',
        'CALL',
        'DROP PROCEDURE'
      ])
    }
  })
})
