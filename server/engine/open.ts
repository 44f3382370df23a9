import type { DialectName } from '../../core/dialect/dialect.ts'
import type { Engine } from './engine.ts'
import { openPostgresql } from './postgresql.ts'
import { openSqlite } from './sqlite.ts'

/** The engines that run here by themselves, each on an empty database of its own. */
export const ENGINES: Record<DialectName, () => Promise<Engine>> = { postgresql: openPostgresql, sqlite: () => openSqlite() }
