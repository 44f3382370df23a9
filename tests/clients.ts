import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Query } from '../core/dialect/dialect.ts'
import { DIALECTS, type Provable } from '../core/dialect/index.ts'
import { engineOf, MariadbServer } from '../server/engine/mariadb.ts'
import { PostgresqlServer, type Said } from './postgresql.ts'

/** An engine with the client that comes with it, on a database that begins empty. */
export interface OwnClient {
  dialect: Provable
  /** Runs a file of a folder, in that folder. */
  run(folder: string, path: string): Said
  /** Statements as they are, past all that the product does. */
  tell(sql: string): void
  query: Query
  /** A new database, with nothing in it. */
  begin(): Promise<void>
  close(): Promise<void>
}

/** SQLite's shell. */
export function sqliteClient(): Promise<OwnClient> {
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-client-'))
  let made = 0
  let file = ''
  const shell = (input: string, args: string[] = [], cwd = folder): Said => {
    const { status, stdout, stderr, error } = spawnSync('sqlite3', [...args, file], {
      input,
      encoding: 'utf8',
      cwd,
      maxBuffer: 1 << 28
    })
    if (error) throw error
    return { status: status ?? -1, out: stdout, err: stderr }
  }
  return Promise.resolve({
    dialect: DIALECTS.sqlite,
    run: (from, path) => shell(readFileSync(join(from, path), 'utf8'), [], from),
    tell: (sql) => must(shell(sql, ['-bail'])),
    query: (sql) => {
      const said = shell(sql, ['-json', '-bail'])
      must(said)
      return Promise.resolve(JSON.parse(said.out.trim() || '[]') as Record<string, unknown>[])
    },
    begin: () => {
      file = join(folder, `${made++}.sqlite`)
      return Promise.resolve()
    },
    close: () => {
      rmSync(folder, { recursive: true, force: true })
      return Promise.resolve()
    }
  })
}

/** psql. */
export async function postgresqlClient(): Promise<OwnClient> {
  const server = await PostgresqlServer.start()
  let made = 0
  const database = (): string => `trial_${made}`
  return {
    dialect: DIALECTS.postgresql,
    run: (folder, path) => server.psql(database(), ['-q', '-f', path], folder),
    tell: (sql) => must(server.psql(database(), ['-v', 'ON_ERROR_STOP=1', '-q', '-c', sql])),
    query: (sql) => {
      const rows = `SELECT coalesce(json_agg(t)::text, '[]') FROM (${sql}) t`
      const said = server.psql(database(), ['-v', 'ON_ERROR_STOP=1', '-At', '-c', rows])
      must(said)
      return Promise.resolve(JSON.parse(said.out) as Record<string, unknown>[])
    },
    begin: () => {
      made++
      must(server.psql('postgres', ['-v', 'ON_ERROR_STOP=1', '-c', `CREATE DATABASE ${database()}`]))
      return Promise.resolve()
    },
    close: () => {
      server.stop()
      return Promise.resolve()
    }
  }
}

/** MariaDB's client. */
export async function mariadbClient(): Promise<OwnClient> {
  const server = await MariadbServer.make()
  const connection = await server.start()
  const engine = await engineOf(connection)
  const [{ port } = {}] = await engine.query('SELECT @@port AS port')
  const client = (input: string): Said => {
    const args = ['--no-defaults', '-N', '-h127.0.0.1', `-P${String(port)}`, '-uroot', 'proof']
    const { status, stdout, stderr, error } = spawnSync('mariadb', args, { input, encoding: 'utf8' })
    if (error) throw error
    return { status: status ?? -1, out: stdout, err: stderr }
  }
  return {
    dialect: DIALECTS.mariadb,
    run: (folder, path) => client(readFileSync(join(folder, path), 'utf8')),
    tell: (sql) => must(client(sql)),
    query: engine.query,
    begin: async () => {
      await DIALECTS.mariadb.engine.reset(engine.query)
      for (const sql of DIALECTS.mariadb.engine.onConnect) await engine.query(sql)
    },
    close: async () => {
      await engine.close()
      await server.remove()
    }
  }
}

function must({ status, err }: Said): void {
  if (status !== 0) throw new Error(err)
}
