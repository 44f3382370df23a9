import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { mariadb } from '../../core/dialect/mariadb/index.ts'
import type { Statement } from '../../core/dialect/catalog.ts'
import type { Design } from '../../core/design/model.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { planMigration } from '../../core/version/plan.ts'
import { statementsOf, type Way } from '../../core/version/script.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import { Writes } from '../../tests/writes.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

const { versions } = fernhollow()
const [first, last] = [versions[0]?.design, versions[3]?.design].map((design) => ({
  ...(design as Design),
  // Another system's tables are not there, and what refers to them is not what this is about.
  tables: (design as Design).tables
    .filter((table) => !table.external)
    .map((table) => ({ ...table, foreignKeys: table.foreignKeys.filter((key) => key.table !== 't_person') }))
})) as [Design, Design]

describe('a migration in MariaDB that is stopped', () => {
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(mariadb)
  })
  afterAll(() => engine.close())

  const plan = planMigration(first, last, mariadb)
  const scripts = { up: statementsOf(plan, 'up', mariadb), down: statementsOf(plan, 'down', mariadb) }
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
      .filter((name) => !/^(keepsake|since|progress)_/.test(name))
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
    const untold = end.sql.replace(/  UPDATE `?progress_\w+`? SET done = [^;]*;\n/, '  DO 0;\n')
    return [...statements, { ...end, sql: untold }]
  }

  const most = scripts.up.length
  const begins = scripts.up.findIndex(({ sql }) => sql.startsWith('INSERT IGNORE')) + 1
  /** Everywhere in a soak, else here and there. */
  const places = Array.from({ length: most + 1 }, (_, at) => at).filter(
    (at) => at >= begins && (times(1) > 1 || at % 9 === 4 || at > most - 3)
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
})
