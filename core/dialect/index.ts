import type { Design } from '../design/model.ts'
import type { Dialect, DialectName, Provable } from './dialect.ts'
import { mariadb } from './mariadb/index.ts'
import { mysql } from './mysql/index.ts'
import { oracle } from './oracle/index.ts'
import { postgresql } from './postgresql/index.ts'
import { sqlite } from './sqlite/index.ts'
import { sqlserver } from './sqlserver/index.ts'

/** Every dialect that SQL can be written in. */
export const DIALECTS = { postgresql, mariadb, mysql, sqlite, sqlserver, oracle } satisfies Record<
  DialectName,
  Dialect
>
export const DIALECT_NAMES = Object.keys(DIALECTS) as DialectName[]

export function isDialect(name: string): name is DialectName {
  return Object.hasOwn(DIALECTS, name)
}

export type { Provable } from './dialect.ts'

export const isProvable = (dialect: Dialect): dialect is Provable => dialect.engine !== undefined

/** The dialects whose engines run here. */
export const PROVABLE: readonly Provable[] = Object.values<Dialect>(DIALECTS).filter(isProvable)

/** The dialects that a design is written for: those that it names, or all; each for the version that it names. */
export function dialectsOf(design: Pick<Design, 'dialects' | 'oldest'>): Dialect[] {
  const named = design.dialects.filter(isDialect).map((name): Dialect => DIALECTS[name])
  const all = named.length > 0 ? named : Object.values<Dialect>(DIALECTS)
  return all.map((dialect) => dialect.for(design))
}
