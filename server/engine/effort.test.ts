import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Design } from '../../core/design/model.ts'
import { DIALECTS, type Provable } from '../../core/dialect/index.ts'
import type { Waiting, Work } from '../../core/dialect/effort.ts'
import { apply } from '../../core/edit/apply.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { planMigration, type MigrationPlan } from '../../core/version/plan.ts'
import { effortsIn } from '../../core/version/script.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { withoutOthers } from '../../tests/alone.ts'
import { choices, Maker } from '../../tests/designs.ts'
import { changeOfMind, plainChange } from '../../tests/minds.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

/** The demo's third version, with rows in every table. */
const start = withoutOthers(fernhollow().versions[2]?.design as Design)

/** A plan in which no row stands in the way. */
function planFrom(
  given: readonly number[],
  more: readonly Parameters<Maker['operation']>[1][],
  dialect: Provable
) {
  const numbers = new Numbers(given)
  const maker = new Maker()
  let design = start
  for (let no = 0; no < 3; no++) {
    const change = numbers.next(2) === 0 ? changeOfMind(design, numbers) : plainChange(design, numbers, no)
    const result = change && apply(design, change.operation)
    if (result?.ok) design = result.design
  }
  for (const choice of more) {
    const result = apply(design, maker.operation(design, choice))
    if (result.ok) design = result.design
  }
  const plan = planMigration(start, design, dialect)
  const stops = plan.warnings.up.some(({ effect }) => effect === 'stops')
  return stops || plan.up.length === 0 ? undefined : { plan, design }
}

const given = fc.tuple(fc.array(fc.nat(1000), { minLength: 30, maxLength: 40 }), choices(3))

async function make(engine: Engine, dialect: Provable): Promise<void> {
  await dialect.engine.reset(engine.query)
  for (const sql of dialect.engine.onConnect) await engine.query(sql)
  const { catalog } = dialect.catalog(start)
  for (const { sql } of [...dialect.create(catalog), ...insertRows(start, catalog, dialect)])
    await engine.query(sql)
}

interface Measured {
  work: Work
  waits: Waiting
}

/** What is told of each table that has rows, by its id. */
function told(plan: MigrationPlan): Map<string, Measured> {
  const efforts = effortsIn(plan, 'up')
  return new Map(efforts.map(({ table, work, waits }) => [table.id, { work, waits }]))
}

describe('what a migration is said to cost', () => {
  const { postgresql, mariadb, sqlite } = DIALECTS
  const engines = new Map<string, Engine>()
  beforeAll(async () => {
    for (const dialect of [postgresql, mariadb, sqlite]) engines.set(dialect.name, await openEngine(dialect))
  })
  afterAll(async () => {
    for (const engine of engines.values()) await engine.close()
  })
  const engineOf = (dialect: Provable): Engine => engines.get(dialect.name) as Engine

  it('is what PostgreSQL locks, reads and writes', async () => {
    const engine = engineOf(postgresql)
    const counts = { none: 0, reads: 0, writes: 0, nobody: 0, writers: 0, all: 0 }
    const look = async (): Promise<Map<string, Record<string, unknown>>> => {
      const rows = await engine.query(`
        SELECT c.oid::text AS oid, c.relname, pg_relation_filenode(c.oid)::text AS file,
          s.n_tup_ins + s.n_tup_upd AS written, s.seq_tup_read + coalesce(s.idx_tup_fetch, 0) AS read,
          (SELECT string_agg(l.mode, ' ') FROM pg_locks l WHERE l.relation = c.oid) AS locks
        FROM pg_class c JOIN pg_stat_xact_user_tables s ON s.relid = c.oid WHERE c.relkind = 'r'`)
      return new Map(rows.map((row) => [String(row.oid), row]))
    }
    await fc.assert(
      fc.asyncProperty(given, async ([numbers, more]) => {
        const planned = planFrom(numbers, more, postgresql)
        if (!planned) return
        const { plan } = planned
        await make(engine, postgresql)
        // What was counted so far is not of this transaction.
        await engine.query('SELECT pg_stat_force_next_flush()')
        const before = await look()
        for (const { sql } of plan.up.slice(0, -1)) await engine.query(sql)
        const after = await look()
        await engine.query('COMMIT')
        const tables = new Map(postgresql.catalog(start).catalog.tables.map(({ name, id }) => [name, id]))
        const claims = told(plan)
        for (const [oid, was] of before) {
          const id = tables.get(String(was.relname))
          const is = after.get(oid)
          if (!id || !is || start.tables.find((table) => table.id === id)?.rows.length === 0) continue
          const claim = claims.get(id) ?? { work: 'none', waits: 'nobody' }
          const isWritten = was.file !== is.file || Number(is.written) > Number(was.written)
          const locks = String(is.locks)
          const isClosed = locks.includes('AccessExclusive')
          const isHeld = /ShareRowExclusiveLock|\bShareLock|\bRowExclusiveLock/.test(locks)
          // A row that is referred to is looked for, and locked by itself.
          const isOnlyReferred = !isClosed && !isHeld && locks.includes('RowShareLock')
          const isRead = Number(is.read) > Number(was.read) && !isOnlyReferred
          const work: Work = isWritten ? 'writes' : isRead ? 'reads' : 'none'
          const waits: Waiting = isClosed ? 'all' : isHeld ? 'writers' : 'nobody'
          const scripts = plan.up.map(({ sql }) => sql).join(';\n')
          const at = `${String(was.relname)}, ${locks}, ${work}, told ${JSON.stringify(claim)}:\n${scripts}`
          expect(claim.waits, at).toBe(waits)
          // Whether all rows are read can hang on what is in them, and on how the engine goes about it.
          expect([work, 'writes'].includes(claim.work) || work === 'none', at).toBe(true)
          if (claim.work === 'writes') expect(work, at).toBe('writes')
          counts[work]++
          counts[waits]++
        }
      }),
      { numRuns: times(40), endOnFailure: true }
    )
    expect(Object.entries(counts).filter(([, count]) => count < 5)).toEqual([])
  })

  it('is what MariaDB does at once, without a copy, or with one', async () => {
    const engine = engineOf(mariadb)
    const counts = { none: 0, reads: 0, writes: 0 }
    /** The lightest way in which the engine takes a statement that changes a table. */
    const lightest = async (sql: string): Promise<Work> => {
      const ways: [string, Work][] = [
        ['INSTANT', 'none'],
        ['NOCOPY', 'reads']
      ]
      for (const [algorithm, work] of ways) {
        await engine.query(`SET SESSION alter_algorithm = '${algorithm}'`)
        const isTaken = await engine.query(sql).then(
          () => true,
          (error: Error) => {
            if (/ALGORITHM=/.test(error.message)) return false
            throw error
          }
        )
        if (isTaken) return work
      }
      await engine.query("SET SESSION alter_algorithm = 'DEFAULT'")
      await engine.query(sql)
      return 'writes'
    }
    await fc.assert(
      fc.asyncProperty(given, async ([numbers, more]) => {
        const planned = planFrom(numbers, more, mariadb)
        if (!planned) return
        const { plan, design } = planned
        await make(engine, mariadb)
        const names = new Map<string, string>()
        for (const state of [design, start])
          for (const { name, id } of mariadb.catalog(state).catalog.tables) names.set(name, id)
        const claims = told(plan)
        for (const { sql } of plan.up) {
          const [, table] = /^ALTER TABLE `?(\w+)`?/.exec(sql) ?? []
          const id = names.get(table ?? '')
          if (id === undefined || !start.tables.some((each) => each.id === id)) {
            await engine.query("SET SESSION alter_algorithm = 'DEFAULT'")
            await engine.query(sql)
            continue
          }
          const needed = await lightest(sql)
          // An index that goes is not instant, and yet no row is read.
          const isOnlyDropped = /^ALTER TABLE \S+\s+DROP (?:(?!\n {2}(?:ADD|MODIFY|CHANGE)).)*$/s.test(sql)
          const work = needed === 'reads' && isOnlyDropped ? 'none' : needed
          const claim = claims.get(id)?.work ?? 'none'
          expect([work, 'writes'].includes(claim) || work === 'none', `${claim}, and ${work}: ${sql}`).toBe(
            true
          )
          counts[work]++
        }
        await engine.query("SET SESSION alter_algorithm = 'DEFAULT'")
      }),
      { numRuns: times(40), endOnFailure: true }
    )
    expect(Object.entries(counts).filter(([, count]) => count < 5)).toEqual([])
  })

  it('is which tables SQLite makes anew', async () => {
    const engine = engineOf(sqlite)
    const counts = { anew: 0, stays: 0 }
    const pages = async (): Promise<Map<string, number>> => {
      const rows = await engine.query("SELECT name, rootpage FROM sqlite_schema WHERE type = 'table'")
      return new Map(rows.map(({ name, rootpage }) => [String(name), Number(rootpage)]))
    }
    await fc.assert(
      fc.asyncProperty(given, async ([numbers, more]) => {
        const planned = planFrom(numbers, more, sqlite)
        if (!planned) return
        const { plan, design } = planned
        await make(engine, sqlite)
        const before = await pages()
        for (const { sql } of plan.up) await engine.query(sql)
        const after = await pages()
        const claims = told(plan)
        const names = new Map(sqlite.catalog(design).catalog.tables.map(({ id, name }) => [id, name]))
        for (const { id, name } of sqlite.catalog(start).catalog.tables) {
          const now = after.get(names.get(id) ?? '')
          if (now === undefined) continue
          const isAnew = now !== before.get(name)
          expect(claims.get(id)?.work === 'writes', name).toBe(isAnew)
          counts[isAnew ? 'anew' : 'stays']++
        }
      }),
      { numRuns: times(40), endOnFailure: true }
    )
    expect(Math.min(counts.anew, counts.stays)).toBeGreaterThan(10)
  })
})
