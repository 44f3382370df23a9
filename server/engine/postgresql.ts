import { PGlite } from '@electric-sql/pglite'
import { Client, type ClientConfig } from 'pg'
import { addressIn } from './address.ts'
import { CannotOpen, type Engine } from './engine.ts'

/** An embedded PostgreSQL with an empty database; starting one takes some seconds. */
export async function openPostgresql(): Promise<Engine> {
  const database = await PGlite.create()
  const query: Engine['query'] = async (sql, values = []) =>
    (await database.query<Record<string, unknown>>(sql, [...values])).rows
  return { ...(await engine(query, ', embedded')), close: () => database.close() }
}

/**
 * A PostgreSQL server at an address: `postgresql://user@host:port/database`, with the password in it or beside it.
 * @throws CannotOpen where there is none, or it does not let one in. The password is in no message.
 */
export async function connectPostgresql(url: string, password?: string): Promise<Engine> {
  const parsed = addressIn(url, ['postgresql', 'postgres'], 5432)
  if (!parsed)
    throw new CannotOpen(
      'That is not the address of a database: write it as postgresql://user@localhost:5432/trial.'
    )
  const { hostname: host, port, user, database } = parsed
  const place = `${parsed.hostname}:${port}`
  try {
    return await onServer(
      { host, port, user, database, password: password ?? parsed.password },
      `, at ${place}`
    )
  } catch (error) {
    throw new CannotOpen(
      `The server at ${place} cannot be used: ${(error as { code?: string }).code ?? 'it does not answer'}.`
    )
  }
}

/** What is done on a connection to a server. */
export async function onServer(where: ClientConfig, says = ''): Promise<Engine> {
  const client = new Client({ ...where, connectionTimeoutMillis: 10_000 })
  // A connection that is lost is told of by the next query.
  client.on('error', () => undefined)
  await client.connect()
  const query: Engine['query'] = async (sql, values) =>
    (await client.query<Record<string, unknown>>(sql, values && [...values])).rows
  return { ...(await engine(query, says)), close: () => client.end() }
}

async function engine(query: Engine['query'], says: string): Promise<Omit<Engine, 'close'>> {
  const [version] = await query("SELECT current_setting('server_version') AS version")
  const number = /^[\d.]+/.exec(String(version?.version))?.[0] ?? ''
  return { dialect: 'postgresql', title: `PostgreSQL ${number}${says}`, query }
}
