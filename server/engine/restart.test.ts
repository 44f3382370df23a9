import { spawnSync } from 'node:child_process'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { mariadb } from '../../core/dialect/mariadb/index.ts'
import type { Statement } from '../../core/dialect/catalog.ts'
import type { Design } from '../../core/design/model.ts'
import { columnOf, tableOf } from '../../core/design/directory.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { fillColumn } from '../../core/restructure/fill.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { planMigration } from '../../core/version/plan.ts'
import { migrationScript, statementsOf, type Way } from '../../core/version/script.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import { Writes } from '../../tests/writes.ts'
import type { Engine } from './engine.ts'
import { engineOf, MariadbServer } from './mariadb.ts'
import { openEngine } from './open.ts'

const { versions } = fernhollow()
const [first, fourth] = [versions[0]?.design, versions[3]?.design].map((design) => ({
  ...(design as Design),
  // Another system's tables are not there, and what refers to them is not what this is about.
  tables: (design as Design).tables
    .filter((table) => !table.external)
    .map((table) => ({ ...table, foreignKeys: table.foreignKeys.filter((key) => key.table !== 't_person') }))
})) as [Design, Design]
/** A column that was there is filled where it is empty, and required, besides. */
const last = required(fourth, 't_finder', 'c_finder_telephone', 'none')

function required(design: Design, table: string, column: string, value: string): Design {
  const on = tableOf(design, table)
  const found = on && columnOf(on, column)
  const filled =
    on && found ? fillColumn(design, on, found, { value }, undefined) : expect.fail('no such column')
  const operations: Operation[] = [
    filled.ok ? filled.value : expect.fail(filled.message),
    { kind: 'column.require', table, column, required: true }
  ]
  const result = apply(design, { kind: 'batch', operations })
  return result.ok ? result.design : expect.fail(result.refusal.message)
}

describe('a migration in MariaDB that is stopped', () => {
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(mariadb)
  })
  afterAll(() => engine.close())

  const plan = planMigration(first, last, mariadb)
  const scripts = { up: statementsOf(plan, 'up'), down: statementsOf(plan, 'down') }
  const run = async (statements: readonly Statement[]): Promise<void> => {
    for (const { sql } of statements) await engine.query(sql)
  }
  const rows = (design: Design): Promise<Map<string, string[]>> =>
    new Writes(design, mariadb, engine, new Numbers([])).everything()
  const make = async (): Promise<void> => {
    await mariadb.engine.reset(engine.query)
    for (const sql of mariadb.engine.onConnect) await engine.query(sql)
    const { catalog } = mariadb.catalog(first)
    await run([...mariadb.create(catalog), ...insertRows(first, catalog, mariadb)])
  }
  /** What there is, but for what is kept aside. */
  const names = async (): Promise<string[]> => {
    const { tables } = await mariadb.engine.read(engine.query)
    return tables
      .map(({ name }) => name)
      .filter((name) => !/^(keepsake|progress)_/.test(name))
      .sort()
  }
  const tablesOf = (design: Design): string[] =>
    mariadb
      .catalog(design)
      .catalog.tables.map(({ name }) => name)
      .sort()

  /** The statements up to one, of which the last was done, and its end not told. */
  function stopped(way: Way, at: number): Statement[] {
    const statements = scripts[way].slice(0, at)
    const end = statements.pop()
    if (!end) return statements
    // Rows and the account of them are kept together, or not at all.
    if (end.sql.includes('START TRANSACTION')) return statements
    const untold = end.sql.replace(/ {2}UPDATE `?progress_\w+`? SET done = [^;]*;\n/, '  DO 0;\n')
    return [...statements, { ...end, sql: untold }]
  }

  const most = scripts.up.length
  const begins = scripts.up.findIndex(({ sql }) => sql.startsWith('INSERT IGNORE')) + 1
  /** Everywhere in a soak, else here and there. */
  const places = Array.from({ length: most + 1 }, (_, at) => at).filter(
    (at) => at >= begins && (times(1) > 1 || at % 19 === 4 || at > most - 3)
  )

  it('has as many places to stop at as it has statements', () => {
    expect(most).toBeGreaterThan(60)
    expect(places.length).toBeGreaterThan(8)
  })

  it('goes on from where it was stopped, to the same rows', async () => {
    await make()
    await run(scripts.up)
    const wanted = await rows(last)
    for (const at of places) {
      await make()
      await run(stopped('up', at))
      await run(scripts.up)
      expect(await names(), `stopped at ${at}`).toEqual(tablesOf(last))
      expect(await rows(last), `stopped at ${at}`).toEqual(wanted)
    }
  })

  it('is taken back from where it was stopped, to the rows that were there', async () => {
    await make()
    const wanted = await rows(first)
    for (const at of places) {
      await make()
      await run(stopped('up', at))
      await run(scripts.down)
      expect(await names(), `stopped at ${at}: ${scripts.up[at]?.says}`).toEqual(tablesOf(first))
      expect(await rows(first), `stopped at ${at}`).toEqual(wanted)
    }
  })
  it('on the way down goes on, or is taken back, from where it was stopped', async () => {
    const begun = scripts.down.findIndex(({ sql }) => sql.startsWith('INSERT IGNORE')) + 1
    const ends = scripts.down.findIndex(({ says }) => says.startsWith('where up was stopped'))
    const stops = Array.from({ length: ends + 1 - begun }, (_, n) => begun + n).filter(
      (at) => times(1) > 1 || at % 17 === 3 || at > ends - 6
    )
    expect(stops.length).toBeGreaterThan(6)
    await make()
    const before = await rows(first)
    await run(scripts.up)
    const after = await rows(last)
    for (const at of stops) {
      await make()
      await run(scripts.up)
      await run(stopped('down', at))
      await run(scripts.up)
      expect(await names(), `stopped at ${at}: ${scripts.down[at]?.says}`).toEqual(tablesOf(last))
      expect(await rows(last), `stopped at ${at}`).toEqual(after)
      await run(stopped('down', at))
      await run(scripts.down)
      expect(await rows(first), `stopped at ${at}`).toEqual(before)
    }
  })

  it('is found as it stands by the way that was chosen from the other side', async () => {
    const turned = planMigration(last, first, mariadb)
    const back = { up: statementsOf(turned, 'up'), down: statementsOf(turned, 'down') }
    await make()
    const before = await rows(first)
    await run(scripts.up)
    const after = await rows(last)
    await run(back.up)
    expect(await rows(first)).toEqual(before)
    await run(scripts.up)
    expect(await rows(last)).toEqual(after)
    await run(stopped('down', begins + 30))
    await run(back.down)
    expect(await rows(last)).toEqual(after)
  })

  it('is run by the engine’s own client, which goes on after a statement that failed and finds nothing more to do', async () => {
    const [{ port } = {}] = await engine.query('SELECT @@port AS port')
    const client = (sql: string): string => {
      const args = ['--no-defaults', '-h127.0.0.1', `-P${String(port)}`, '-uroot', '--force', 'proof']
      const { error, stderr } = spawnSync('mariadb', args, { input: sql, encoding: 'utf8' })
      if (error) throw error
      return stderr
    }
    const ends = { from: 'version 1', to: 'version 4' }
    const up = migrationScript(plan, 'up', ends)
    const down = migrationScript(plan, 'down', { from: ends.to, to: ends.from })
    await make()
    const before = await rows(first)
    expect(client(up)).toBe('')
    const after = await rows(last)
    expect(client(up), 'run twice').toBe('')
    expect(await rows(last)).toEqual(after)
    expect(client(down)).toBe('')
    expect(await rows(first)).toEqual(before)
    for (const at of [20, 40, 70, 85]) {
      const broken = up.replace(
        new RegExp(`(-- ${at} of \\d+: .*\\nIF .* THEN\\n) `),
        '$1  SELECT no_such_function();\n '
      )
      expect(client(broken)).toContain('no_such_function')
      expect(client(down)).toBe('')
      expect(await rows(first), `failed at ${at}`).toEqual(before)
      client(broken)
      expect(client(up)).toBe('')
      expect(await rows(last), `failed at ${at}`).toEqual(after)
      expect(client(down)).toBe('')
    }
  })

  it('goes on, or is taken back, when the server was killed while a statement ran', async () => {
    const server = await MariadbServer.make()
    const open = async (): Promise<void> => {
      const connection = await server.start()
      connection.on('error', () => undefined)
      engine = await engineOf(connection)
    }
    const started = engine
    try {
      await open()
      await make()
      const before = await rows(first)
      await run(scripts.up)
      const after = await rows(last)
      let killed = 0
      for (const at of places.filter((_, n) => times(1) > 1 || n % 4 === 1)) {
        for (const way of ['up', 'down'] as const) {
          await make()
          await run(scripts.up.slice(0, at))
          const next = engine.query(scripts.up[at]?.sql ?? 'DO 0').catch(() => undefined)
          await new Promise((resolve) => setTimeout(resolve, at % 3))
          await server.kill()
          await next
          await open()
          await run(scripts[way])
          const [design, wanted] = way === 'up' ? [last, after] : [first, before]
          expect(await names(), `killed at ${at}, then ${way}`).toEqual(tablesOf(design))
          expect(await rows(design), `killed at ${at}, then ${way}`).toEqual(wanted)
          killed++
        }
      }
      expect(killed).toBeGreaterThan(3)
    } finally {
      engine = started
      await server.remove()
    }
  })
})
