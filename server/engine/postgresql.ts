import { PGlite } from '@electric-sql/pglite'
import type { Engine } from './engine.ts'

/** An embedded PostgreSQL with an empty database; starting one takes some seconds. */
export async function openPostgresql(): Promise<Engine> {
  const database = await PGlite.create()
  const query = async (sql: string): Promise<Record<string, unknown>[]> =>
    (await database.query<Record<string, unknown>>(sql)).rows
  const [version] = await query("SELECT current_setting('server_version') AS version")
  return {
    dialect: 'postgresql',
    title: `PostgreSQL ${String(version?.version)}, embedded`,
    query,
    close: () => database.close()
  }
}
