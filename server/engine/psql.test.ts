import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { DIALECTS } from '../../core/dialect/index.ts'
import { script } from '../../core/dialect/dialect.ts'
import type { Design } from '../../core/design/model.ts'
import type { Type } from '../../core/design/type.ts'
import { apply } from '../../core/edit/apply.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { planMigration } from '../../core/version/plan.ts'
import { migrationScript, type Way } from '../../core/version/script.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { PostgresqlServer, type Said } from '../../tests/postgresql.ts'
import { times } from '../../tests/times.ts'

const dialect = DIALECTS.postgresql
const [first, second] = fernhollow().versions.map(({ design }) => design) as [Design, Design]
const plan = planMigration(first, second, dialect)
const scriptOf = (way: Way): string => migrationScript(plan, way, { from: 'one', to: 'the other' })

describe('a migration that psql runs', () => {
  let server: PostgresqlServer
  let made = 0
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-psql-'))
  beforeAll(async () => {
    server = await PostgresqlServer.start()
  })
  afterAll(() => {
    server.stop()
    rmSync(folder, { recursive: true, force: true })
  })

  const file = (sql: string): string => {
    const path = join(folder, `${made++}.sql`)
    writeFileSync(path, sql)
    return path
  }
  const run = (database: string, sql: string): Said => server.psql(database, ['-q', '-At', '-f', file(sql)])
  const ask = (database: string, sql: string): string => {
    const said = run(database, sql)
    expect(said.err).toBe('')
    return said.out.trim()
  }
  /** A database with the first version and its rows. */
  function database(): string {
    const name = `trial_${made++}`
    ask('postgres', `CREATE DATABASE ${name};`)
    const { catalog } = dialect.catalog(first)
    ask(name, script([...dialect.create(catalog), ...insertRows(first, catalog, dialect)]))
    return name
  }
  /** Everything in the tables, as text. */
  const everything = (name: string): string =>
    ask(
      name,
      `SELECT string_agg(table_name || ': ' || (xpath('/table/row', query_to_xml('SELECT * FROM ' || quote_ident(table_name) || ' ORDER BY 1', false, false, '')))::text, E'\\n' ORDER BY table_name) FROM information_schema.tables WHERE table_schema = 'public';`
    )

  it('goes on after a statement that failed, and has then changed nothing', () => {
    const name = database()
    const before = everything(name)
    const lines = scriptOf('up').split('\n')
    const begins = lines.indexOf('BEGIN;')
    const places = lines.flatMap((line, at) => (at > begins && line.endsWith(';') ? [at] : []))
    expect(places.length).toBeGreaterThan(12)
    for (const at of places.filter((_, n) => times(1) > 1 || n % 3 === 0)) {
      const broken = [...lines.slice(0, at + 1), 'SELECT no_such_function();', ...lines.slice(at + 1)]
      // Behind its end nothing is taken back any more.
      if (lines[at] === 'COMMIT;') continue
      const said = run(name, broken.join('\n'))
      expect([said.status, said.err.includes('no_such_function')], lines[at]).toEqual([0, true])
      expect(everything(name), lines[at]).toBe(before)
    }
    expect(run(name, scriptOf('up')).err).toBe('')
  })

  it('keeps what another has written while it waited for the table', async () => {
    const dropped = apply(first, {
      kind: 'column.remove',
      table: 't_admission',
      column: 'c_admission_weight_g'
    })
    const narrow = planMigration(first, dropped.ok ? dropped.design : expect.fail('not removed'), dialect)
    const [up, down] = (['up', 'down'] as const).map((way) =>
      migrationScript(narrow, way, { from: 'one', to: 'the other' })
    ) as [string, string]
    /** What the weight is after up and down, where another writes it while up waits. */
    async function written(sql: string): Promise<string> {
      const name = database()
      const session = server.session(name)
      const told = new Promise<string>((resolve) =>
        session.stdout?.once('data', (text: Buffer) => resolve(String(text)))
      )
      session.stdin?.write(
        'BEGIN; UPDATE admission SET weight_g = 777 WHERE admission_id = 1;\n\\echo written\n'
      )
      expect(await told).toContain('written')
      const migrating = spawn('psql', [...server.reach(name), '-q', '-f', file(sql)], { stdio: 'pipe' })
      const ended = new Promise<number | null>((resolve) => migrating.once('exit', resolve))
      const waits = (): string =>
        ask(
          name,
          "SELECT count(*) FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND datname = current_database();"
        )
      for (let tries = 0; waits() !== '1' && tries < 200; tries++)
        await new Promise((resolve) => setTimeout(resolve, 50))
      expect(waits()).toBe('1')
      session.stdin?.end('COMMIT;\n')
      expect(await ended).toBe(0)
      expect(run(name, down).err).not.toContain('ERROR')
      return ask(name, 'SELECT weight_g FROM admission WHERE admission_id = 1;')
    }
    expect(await written(up)).toBe('777')
    // Without its lock it reads before it waits: that is what the lock is for.
    expect(up).toContain('LOCK TABLE admission')
    expect(await written(up.replace(/LOCK TABLE [^;]*;/, ''))).not.toBe('777')
  })

  it('turns moments into moments with a zone and back, whatever the zone of who runs it', () => {
    const retype = (from: Design, type: Type): Design => {
      const result = apply(from, {
        kind: 'column.retype',
        table: 't_admission',
        column: 'c_admission_admitted_at',
        type
      })
      return result.ok ? result.design : expect.fail(result.refusal.message)
    }
    const plain = retype(first, { kind: 'timestamp', zone: false })
    const zoned = retype(first, { kind: 'timestamp', zone: true })
    const change = planMigration(plain, zoned, dialect)
    expect(change.warnings.up.map(({ effect }) => effect)).toContain('told')
    const [up, down] = (['up', 'down'] as const).map((way) =>
      migrationScript(change, way, { from: 'one', to: 'the other' })
    ) as [string, string]
    const inUtc =
      "SELECT string_agg((admitted_at AT TIME ZONE 'UTC')::text, ' ' ORDER BY admission_id) FROM admission;"
    const asItIs = "SELECT string_agg(admitted_at::text, ' ' ORDER BY admission_id) FROM admission;"
    /** What there is before, with a zone, and after, for somebody in another zone. */
    function moments(upwards: string): string[] {
      const name = `trial_${made++}`
      ask('postgres', `CREATE DATABASE ${name};`)
      ask('postgres', `ALTER DATABASE ${name} SET timezone = 'Asia/Tokyo';`)
      ask('postgres', `ALTER DATABASE ${name} SET datestyle = 'German, DMY';`)
      const { catalog } = dialect.catalog(plain)
      ask(name, script([...dialect.create(catalog), ...insertRows(plain, catalog, dialect)]))
      const before = ask(name, `SET datestyle = 'ISO'; ${asItIs}`)
      expect(run(name, upwards).err).not.toContain('ERROR')
      const between = ask(name, `SET datestyle = 'ISO'; ${inUtc}`)
      expect(run(name, down).err).not.toContain('ERROR')
      return [before, between, ask(name, `SET datestyle = 'ISO'; ${asItIs}`)]
    }
    const [before, between, after] = moments(up)
    expect(before).toMatch(/^\d{4}-\d\d-\d\d /)
    expect([between, after]).toEqual([before, before])
    // Without what is said of the zone they are nine hours off.
    expect(moments(up.replace(/SET LOCAL TIME ZONE [^;]*;/, ''))[1]).not.toBe(before)
  })
})
