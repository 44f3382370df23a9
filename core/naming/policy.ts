import type { Design, Policy, Table } from '../design/model.ts'
import { columnsIn } from '../design/directory.ts'
import type { Operation } from '../edit/operation.ts'
import { columnName, constraintNames, freeName, tableName, type ConstraintNames } from './names.ts'

/** A name that is not as a policy would have it. */
export interface PolicyRenaming {
  what: 'table' | 'column' | 'constraint'
  place: string
  from: string
  to: string
}

/**
 * What a policy would call otherwise of what the design has: tables and columns by what they are called,
 * constraints that nobody named by what the policy before called them. Another system's tables keep theirs.
 */
export function renamingsUnder(
  design: Design,
  policy: Policy
): { renamings: PolicyRenaming[]; operations: Operation[] } {
  const renamings: PolicyRenaming[] = []
  const operations: Operation[] = []
  const tables = new Set(design.tables.map((table) => table.name))
  for (const table of design.tables.filter((each) => !each.external)) {
    const wanted = tableName(table.name, policy)
    if (wanted !== table.name) {
      tables.delete(table.name)
      const name = freeName(wanted, tables)
      tables.add(name)
      renamings.push({ what: 'table', place: table.name, from: table.name, to: name })
      operations.push({ kind: 'table.rename', table: table.id, name })
    }
    const columns = new Set(table.columns.map((column) => column.name))
    for (const column of table.columns) {
      const called = columnName(column.name, policy)
      if (called === column.name) continue
      columns.delete(column.name)
      const name = freeName(called, columns)
      columns.add(name)
      renamings.push({ what: 'column', place: table.name, from: column.name, to: name })
      operations.push({ kind: 'column.rename', table: table.id, column: column.id, name })
    }
    for (const { from, to } of constraintsUnder(design.policy, policy, table))
      renamings.push({ what: 'constraint', place: table.name, from, to })
  }
  return { renamings, operations }
}

interface Named {
  id: string
  name?: string | undefined
}

/** The constraints that nobody named and that the two policies call differently. */
function constraintsUnder(
  before: Policy,
  after: Policy,
  table: Table
): { id: string; from: string; to: string }[] {
  const [old, now] = [constraintNames(before), constraintNames(after)]
  const names = (ids: readonly string[]): string[] => columnsIn(table, ids).map((column) => column.name)
  const differ = (
    each: Named,
    call: (names: ConstraintNames) => string
  ): { id: string; from: string; to: string }[] =>
    each.name === undefined && call(old) !== call(now)
      ? [{ id: each.id, from: call(old), to: call(now) }]
      : []
  return [
    ...(table.primaryKey ? differ(table.primaryKey, (by) => by.primaryKey(table.name)) : []),
    ...table.uniques.flatMap((key) => differ(key, (by) => by.unique(table.name, names(key.columns)))),
    ...table.foreignKeys.flatMap((key) =>
      differ(key, (by) => by.foreignKey(table.name, names(key.pairs.map((pair) => pair.column))))
    ),
    ...table.indexes.flatMap((index) =>
      differ(index, (by) => by.index(table.name, names(index.columns.map(({ column }) => column))))
    )
  ]
}

/**
 * The operation that makes a policy the design's: with `existing`, for what there is as well; without,
 * what there is keeps its names, constraints too, and the policy is for what comes.
 */
export function adoptPolicy(design: Design, policy: Policy, existing: boolean): Operation {
  const set: Operation = { kind: 'design.setPolicy', policy }
  if (existing)
    return {
      kind: 'batch',
      label: 'name everything by another policy',
      operations: [set, ...renamingsUnder(design, policy).operations]
    }
  const kept = design.tables.flatMap((table) =>
    constraintsUnder(design.policy, policy, table).map(({ id, from }): Operation => ({
      kind: 'constraint.rename',
      table: table.id,
      constraint: id,
      name: from
    }))
  )
  return { kind: 'batch', label: 'change the naming policy for what is new', operations: [...kept, set] }
}
