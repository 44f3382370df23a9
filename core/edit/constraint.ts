import { keysOf } from '../design/directory.ts'
import { idSchema } from '../design/ids.ts'
import { nameSchema } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { ofTable } from './fields.ts'
import { checkName, needTable, withTable } from './handler.ts'
import { kind, noun, type Handler, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'

/** What keys, references, checks and indexes have in common: a name of their own, or the one by the naming policy. */

const KINDS = [
  /** With null it has the name by the policy. */
  kind(
    'constraint.rename',
    { ...ofTable, constraint: idSchema, name: nameSchema.nullable() },
    ({ table, name }, called) =>
      name === null
        ? `leave a name in ${called.table(table)} to the policy`
        : `name a constraint of ${called.table(table)} ${shorten(name)}`
  )
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

const rename: Handler<'constraint.rename'> = (design, { table: id, constraint, name }) => {
  const table = needTable(design, id)
  if (name !== null) checkName(name, { table: id })
  const all = [...keysOf(table), ...table.foreignKeys, ...table.checks, ...table.indexes]
  const found = all.find((each) => each.id === constraint)
  if (!found) throw new Refused('missing', `${table.name} no longer has that constraint.`, { table: id })
  const named = <T extends { id: string; name?: string | undefined }>(each: T): T =>
    each.id === constraint ? { ...each, name: name ?? undefined } : each
  return {
    design: withTable(design, id, (t) => ({
      ...t,
      primaryKey: t.primaryKey && named(t.primaryKey),
      uniques: t.uniques.map(named),
      foreignKeys: t.foreignKeys.map(named),
      checks: t.checks.map(named),
      indexes: t.indexes.map(named)
    })),
    inverse: { kind: 'constraint.rename', table: id, constraint, name: found.name ?? null },
    touched: [id]
  }
}

export const CONSTRAINT = noun(KINDS, { 'constraint.rename': rename })
