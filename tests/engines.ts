import type { Provable } from '../core/dialect/index.ts'
import type { Engine } from '../server/engine/engine.ts'
import { openEngine } from '../server/engine/open.ts'
import { PostgresqlServer } from './postgresql.ts'

/**
 * An engine for long tests: PostgreSQL as the server that is installed, which does in a second what the embedded
 * one does in several, and is of another version; others as they are opened everywhere.
 */
export async function testEngine(dialect: Provable): Promise<Engine> {
  if (dialect.name !== 'postgresql') return openEngine(dialect)
  const server = await PostgresqlServer.start()
  const engine = await server.database('proof')
  return {
    ...engine,
    close: async () => {
      await engine.close()
      server.stop()
    }
  }
}
