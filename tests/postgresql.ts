import { execFileSync, spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { chownSync, existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Engine } from '../server/engine/engine.ts'
import { onServer } from '../server/engine/postgresql.ts'

/** Where Debian puts the server's own commands, the newest first. */
const ROOT = '/usr/lib/postgresql'
const FOLDER = existsSync(ROOT)
  ? readdirSync(ROOT)
      .sort((left, right) => Number(right) - Number(left))
      .map((version) => join(ROOT, version, 'bin'))
      .find((folder) => existsSync(join(folder, 'initdb')))
  : undefined

/** What a client said, and how it ended. */
export interface Said {
  status: number
  out: string
  err: string
}

/** A PostgreSQL server on a folder of its own, reached through a socket in it and by nobody else. */
export class PostgresqlServer {
  private constructor(
    private readonly folder: string,
    private readonly server: ChildProcess
  ) {
    process.once('exit', () => this.stop())
  }

  static async start(): Promise<PostgresqlServer> {
    if (FOLDER === undefined) throw new Error('No PostgreSQL server is installed: apt-get install postgresql')
    const folder = mkdtempSync(join(tmpdir(), 'patient-key-postgresql-'))
    const user = serverUser()
    if (user) chownSync(folder, user.uid, user.gid)
    const data = join(folder, 'data')
    execFileSync(
      join(FOLDER, 'initdb'),
      ['-D', data, '-U', 'postgres', '-A', 'trust', '-E', 'UTF8', '--locale=C.UTF-8', '-N'],
      { stdio: 'ignore', cwd: folder, ...user }
    )
    const server = spawn(
      join(FOLDER, 'postgres'),
      ['-D', data, '-k', folder, '-c', 'listen_addresses=', '-c', 'fsync=off', '-c', 'shared_buffers=256MB'],
      { stdio: 'ignore', cwd: folder, ...user }
    )
    const started = new PostgresqlServer(folder, server)
    for (let tries = 0; ; tries++) {
      if (started.psql('postgres', ['-c', 'SELECT 1']).status === 0) return started
      if (tries > 300) throw new Error('PostgreSQL does not answer')
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
  }

  /** What psql says in a database; without its user's own settings. */
  psql(database: string, args: readonly string[], cwd?: string): Said {
    const done = spawnSync('psql', [...this.reach(database), ...args], {
      encoding: 'utf8',
      maxBuffer: 1 << 28,
      cwd
    })
    if (done.error) throw done.error
    return { status: done.status ?? -1, out: done.stdout, err: done.stderr }
  }

  /** What tells psql how to reach a database. */
  reach(database: string): string[] {
    return ['-X', '-h', this.folder, '-U', 'postgres', '-d', database]
  }

  /** A database of its own on the server, made anew. */
  async database(name: string): Promise<Engine> {
    this.psql('postgres', ['-q', '-c', `DROP DATABASE IF EXISTS ${name}`, '-c', `CREATE DATABASE ${name}`])
    return onServer({ host: this.folder, user: 'postgres', database: name })
  }

  /** A psql that goes on by itself, for what happens meanwhile. */
  session(database: string): ChildProcess {
    return spawn('psql', [...this.reach(database), '-q'], { stdio: 'pipe' })
  }

  stop(): void {
    this.server.kill('SIGKILL')
    rmSync(this.folder, { recursive: true, force: true })
  }
}

/** The server does not run as root; Debian has a user for that. */
function serverUser(): { uid: number; gid: number } | undefined {
  if (process.getuid?.() !== 0) return undefined
  const id = (flag: string): number => Number(execFileSync('id', [flag, 'postgres'], { encoding: 'utf8' }))
  return { uid: id('-u'), gid: id('-g') }
}
