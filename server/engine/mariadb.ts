import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import { chownSync, mkdtempSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createConnection, type Connection, type ConnectionOptions, type ExecuteValues } from 'mysql2/promise'
import { addressIn } from './address.ts'
import type { Engine } from './engine.ts'
import { CannotOpen } from './engine.ts'

/** How long a server may take to answer after it was started (milliseconds). */
const START = 60_000
const DATABASE = 'proof'

/**
 * A MariaDB server of the project's own, on a data folder that goes when it is closed. It listens on
 * this machine only, at a free port.
 */
export async function openMariadb(): Promise<Engine> {
  const server = await MariadbServer.make()
  try {
    const connection = await server.start()
    return await engine(connection, ', started here', () => server.remove())
  } catch (error) {
    await server.remove()
    throw error
  }
}

/**
 * A server with a data folder of its own, that can be started again on it. What it has open for a while is there too: in
 * a folder that servers share, one that starts removes what the others have open.
 */
export class MariadbServer {
  private server: ChildProcess | undefined
  /** The server ends with the process that it was started for, however that ends. */
  private readonly ended = (): void => {
    this.server?.kill('SIGKILL')
    rmSync(this.folder, { recursive: true, force: true })
  }

  private constructor(
    private readonly folder: string,
    /** A server does not run as root; it has a user of its own for that. */
    private readonly user: readonly string[]
  ) {
    process.once('exit', this.ended)
  }

  static async make(): Promise<MariadbServer> {
    const user = process.getuid?.() === 0 ? ['--user=mysql'] : []
    const server = new MariadbServer(mkdtempSync(join(tmpdir(), 'patient-key-mariadb-')), user)
    try {
      if (user.length > 0) own(server.folder)
      await run('mariadb-install-db', [
        '--no-defaults',
        ...user,
        `--datadir=${server.folder}`,
        `--tmpdir=${server.folder}`,
        '--auth-root-authentication-method=normal',
        '--skip-test-db'
      ])
      return server
    } catch (error) {
      await server.remove()
      throw error
    }
  }

  /** Starts it, and connects to a database that is there from then on. */
  async start(): Promise<Connection> {
    const port = await freePort()
    const server = spawn(
      'mariadbd',
      [
        '--no-defaults',
        ...this.user,
        `--datadir=${this.folder}`,
        `--tmpdir=${this.folder}`,
        '--bind-address=127.0.0.1',
        `--port=${port}`,
        `--socket=${join(this.folder, 's')}`,
        '--character-set-server=utf8mb4',
        // What is kept outlives the server, and need not outlive the machine.
        '--innodb-flush-log-at-trx-commit=2',
        '--innodb-doublewrite=0',
        '--sync-binlog=0',
        '--skip-name-resolve',
        '--innodb-buffer-pool-size=64M'
      ],
      { stdio: 'ignore' }
    )
    this.server = server
    const failed = new Promise<never>((_, reject) => server.once('error', (error) => reject(missing(error))))
    const connection = await Promise.race([answering({ host: '127.0.0.1', port, user: 'root' }), failed])
    await connection.query(`CREATE DATABASE IF NOT EXISTS ${DATABASE} CHARACTER SET utf8mb4`)
    await connection.changeUser({ database: DATABASE })
    return connection
  }

  /** Ends it at once, whatever it is doing. */
  async kill(): Promise<void> {
    const { server } = this
    if (server?.exitCode !== null || server.signalCode !== null) return
    const gone = new Promise((resolve) => server.once('exit', resolve))
    server.kill('SIGKILL')
    await gone
  }

  async remove(): Promise<void> {
    process.removeListener('exit', this.ended)
    await this.kill()
    rmSync(this.folder, { recursive: true, force: true })
  }
}

/**
 * A MariaDB server at an address: `mariadb://user@host:port/database`, with the password in it or beside it.
 * @throws CannotOpen where there is none, or it does not let one in. The password is in no message.
 */
export async function connectMariadb(url: string, password?: string): Promise<Engine> {
  const parsed = addressIn(url, ['mariadb', 'mysql'], 3306)
  if (!parsed)
    throw new CannotOpen(
      'That is not the address of a database: write it as mariadb://user@localhost:3306/trial.'
    )
  const { hostname, port, user, database } = parsed
  const place = `${hostname}:${port}`
  try {
    const connection = await createConnection({
      host: hostname,
      port,
      user,
      password: password ?? parsed.password,
      database,
      ...AS_TEXT
    })
    return await engine(connection, `, at ${place}`, () => Promise.resolve())
  } catch (error) {
    throw new CannotOpen(
      `The server at ${place} cannot be used: ${(error as { code?: string }).code ?? 'it does not answer'}.`
    )
  }
}

const AS_TEXT: ConnectionOptions = {
  dateStrings: true,
  supportBigNumbers: true,
  bigNumberStrings: true,
  charset: 'utf8mb4'
}

/** What is done on a connection. */
export const engineOf = (connection: Connection): Promise<Engine> =>
  engine(connection, '', () => Promise.resolve())

async function engine(connection: Connection, where: string, after: () => Promise<void>): Promise<Engine> {
  const query: Engine['query'] = async (sql, values) => {
    const [rows] = await (values
      ? connection.execute(sql, [...values] as ExecuteValues)
      : connection.query(sql))
    return Array.isArray(rows) ? (rows as Record<string, unknown>[]) : []
  }
  const [version] = await query('SELECT VERSION() AS version')
  return {
    dialect: 'mariadb',
    title: `MariaDB ${/^[\d.]+/.exec(String(version?.version))?.[0] ?? ''}${where}`,
    query,
    close: async () => {
      await connection.end().catch(() => undefined)
      await after()
    }
  }
}

async function answering(options: ConnectionOptions): Promise<Connection> {
  const until = Date.now() + START
  for (;;) {
    try {
      return await createConnection({ ...options, ...AS_TEXT })
    } catch (error) {
      if (Date.now() > until)
        throw new CannotOpen(
          `MariaDB was started and does not answer: ${error instanceof Error ? error.message : String(error)}`
        )
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
  }
}

function run(command: string, args: string[]): Promise<void> {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { stdio: ['ignore', 'ignore', 'pipe'] })
    let said = ''
    child.stderr.on('data', (chunk: Buffer) => {
      said += chunk.toString()
    })
    child.once('error', (error) => reject(missing(error)))
    child.once('exit', (code) =>
      code === 0
        ? resolve()
        : reject(
            new CannotOpen(
              `MariaDB could not make its data folder: ${said.trim().split('\n').slice(-3).join(' ')}`
            )
          )
    )
  })
}

/** A server that is not installed is said so; anything else as it is. */
function missing(error: Error): Error {
  return (error as NodeJS.ErrnoException).code === 'ENOENT'
    ? new CannotOpen(
        'MariaDB is not installed on this machine. Install its server (in Debian: apt-get install mariadb-server), or prove on another engine.'
      )
    : error
}

function own(folder: string): void {
  const id = (flag: string): number => Number(execFileSync('id', [flag, 'mysql'], { encoding: 'utf8' }))
  try {
    chownSync(folder, id('-u'), id('-g'))
  } catch {
    throw new CannotOpen(
      'MariaDB is not installed on this machine: there is no user mysql for it to run as. Install its server (in Debian: apt-get install mariadb-server), or prove on another engine.'
    )
  }
}

function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const server = createServer()
    server.once('error', reject)
    server.listen(0, '127.0.0.1', () => {
      const address = server.address()
      const port = typeof address === 'object' && address ? address.port : 0
      server.close(() => resolve(port))
    })
  })
}
