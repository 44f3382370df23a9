import type { DialectName } from '../../core/dialect/dialect.ts'
import type { Provable } from '../../core/dialect/index.ts'
import { CannotOpen, type Engine } from './engine.ts'

export { CannotOpen }

/** How an engine is had: by itself, on an empty database of its own, or on a server at an address. */
interface Way {
  start(): Promise<Engine>
  connect?(url: string, password?: string): Promise<Engine>
}
/** Each is loaded, with its driver, when it is wanted. */
const WAYS: Partial<Record<DialectName, () => Promise<Way>>> = {
  postgresql: async () => {
    const { openPostgresql: start, connectPostgresql: connect } = await import('./postgresql.ts')
    return { start, connect }
  },
  mariadb: async () => {
    const { openMariadb: start, connectMariadb: connect } = await import('./mariadb.ts')
    return { start, connect }
  },
  sqlite: async () => {
    const { openSqlite } = await import('./sqlite.ts')
    return { start: () => openSqlite() }
  }
}

/**
 * An engine for the dialect, started here, or with a url that of a server. A proof begins by removing
 * everything that is in its database, so a server's must be empty; it is so again when the engine is closed.
 * @throws CannotOpen where the engine is not installed, the server does not answer, or its database is in
 * use.
 */
export async function openEngine(dialect: Provable, url?: string, password?: string): Promise<Engine> {
  const way = await WAYS[dialect.name]?.()
  if (!way) throw new CannotOpen(`No ${dialect.title} runs here.`)
  if (url === undefined) return way.start()
  if (!way.connect) throw new CannotOpen(`${dialect.title} is run here by itself: leave --url out.`)
  const engine = await way.connect(url, password)
  const { tables } = await dialect.engine.read(engine.query)
  if (tables.length === 0) return leftEmpty(engine, dialect)
  await engine.close()
  throw new CannotOpen(
    `The database at that address has ${tables.length} ${tables.length === 1 ? 'table' : 'tables'}, ${tables[0]?.name ?? ''} among them. A proof begins by removing everything: give it an empty database.`
  )
}

/** An engine that takes away what was made on it before it is closed. */
function leftEmpty(engine: Engine, dialect: Provable): Engine {
  return {
    ...engine,
    close: async () => {
      await dialect.engine.reset(engine.query).catch(() => undefined)
      await engine.close()
    }
  }
}
