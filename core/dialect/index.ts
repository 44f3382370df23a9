import type { Dialect, DialectName } from './dialect.ts'
import { postgresql } from './postgresql/index.ts'
import { sqlite } from './sqlite/index.ts'

/** Every dialect that SQL can be written in. */
export const DIALECTS: Record<DialectName, Dialect> = { postgresql, sqlite }
export const DIALECT_NAMES = Object.keys(DIALECTS) as DialectName[]

export function isDialect(name: string): name is DialectName {
  return Object.hasOwn(DIALECTS, name)
}
