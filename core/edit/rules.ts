import { isMoment } from '../design/default.ts'
import { columnsUsed } from '../design/expressions.ts'
import { isInPrimaryKey, keysOf, tableOf } from '../design/directory.ts'
import { type Column, type Table, mayWrite } from '../design/model.ts'
import { typeText } from '../design/type.ts'
import {
  checkName,
  checkNewIds,
  insertedAt,
  needColumn,
  needTable,
  withColumn,
  withTable,
  withoutAt,
  type Handler
} from './handler.ts'
import type { Operation } from './operation.ts'
import { Refused } from './refusal.ts'

/**
 * What a table holds its rows to, or finds them by, beside its keys: checks, indexes, row policies,
 * computed and copied columns.
 */

function needAt<T extends { id: string }>(
  list: readonly T[],
  id: string,
  table: Table,
  what: string
): { at: number; found: T } {
  const at = list.findIndex((each) => each.id === id)
  const found = list[at]
  if (!found) throw new Refused('missing', `${table.name} no longer has that ${what}.`, { table: table.id })
  return { at, found }
}

const replaced = <T extends { id: string }>(list: readonly T[], item: T): T[] =>
  list.map((each) => (each.id === item.id ? item : each))

export const addCheck: Handler<'check.add'> = (design, { table: id, check, at }) => {
  needTable(design, id)
  checkNewIds(design, [check.id])
  if (check.name !== undefined) checkName(check.name, { table: id })
  return {
    design: withTable(design, id, (t) => ({ ...t, checks: insertedAt(t.checks, check, at) })),
    inverse: { kind: 'check.remove', table: id, check: check.id },
    touched: [id]
  }
}

export const changeCheck: Handler<'check.change'> = (design, { table: id, check }) => {
  const table = needTable(design, id)
  const { found } = needAt(table.checks, check.id, table, 'check')
  if (check.name !== undefined) checkName(check.name, { table: id })
  return {
    design: withTable(design, id, (t) => ({ ...t, checks: replaced(t.checks, check) })),
    inverse: { kind: 'check.change', table: id, check: found },
    touched: [id]
  }
}

export const removeCheck: Handler<'check.remove'> = (design, { table: id, check }) => {
  const table = needTable(design, id)
  const { at, found } = needAt(table.checks, check, table, 'check')
  return {
    design: withTable(design, id, (t) => ({ ...t, checks: withoutAt(t.checks, at) })),
    inverse: { kind: 'check.add', table: id, check: found, at },
    touched: [id]
  }
}

function checkIndex(table: Table, index: Table['indexes'][number]): void {
  if (index.name !== undefined) checkName(index.name, { table: table.id })
  if (index.columns.length === 0)
    throw new Refused('invalid', 'An index needs a column.', { table: table.id })
  index.columns.forEach(({ column }) => needColumn(table, column))
  if (new Set(index.columns.map(({ column }) => column)).size < index.columns.length)
    throw new Refused('invalid', 'An index names a column once.', { table: table.id })
}

export const addIndex: Handler<'index.add'> = (design, { table: id, index, at }) => {
  const table = needTable(design, id)
  checkNewIds(design, [index.id])
  checkIndex(table, index)
  return {
    design: withTable(design, id, (t) => ({ ...t, indexes: insertedAt(t.indexes, index, at) })),
    inverse: { kind: 'index.remove', table: id, index: index.id },
    touched: [id]
  }
}

export const changeIndex: Handler<'index.change'> = (design, { table: id, index }) => {
  const table = needTable(design, id)
  const { found } = needAt(table.indexes, index.id, table, 'index')
  checkIndex(table, index)
  return {
    design: withTable(design, id, (t) => ({ ...t, indexes: replaced(t.indexes, index) })),
    inverse: { kind: 'index.change', table: id, index: found },
    touched: [id]
  }
}

export const removeIndex: Handler<'index.remove'> = (design, { table: id, index }) => {
  const table = needTable(design, id)
  const { at, found } = needAt(table.indexes, index, table, 'index')
  return {
    design: withTable(design, id, (t) => ({ ...t, indexes: withoutAt(t.indexes, at) })),
    inverse: { kind: 'index.add', table: id, index: found, at },
    touched: [id]
  }
}

function checkRowPolicy(table: Table, policy: Table['rowPolicies'][number]): void {
  checkName(policy.name, { table: table.id })
  if (
    table.rowPolicies.some(
      (each) => each.id !== policy.id && each.name.toLowerCase() === policy.name.toLowerCase()
    )
  )
    throw new Refused('name-taken', `${table.name} already has a row policy called ${policy.name}.`, {
      table: table.id
    })
  if (policy.writes !== undefined && !mayWrite(policy))
    throw new Refused(
      'does-not-fit',
      `A row policy for ${policy.command.toLowerCase()} has one condition: only one for update or all says which rows it may leave behind.`,
      { table: table.id }
    )
}

export const setRowSecurity: Handler<'table.setRowSecurity'> = (design, { table: id, security }) => {
  const table = needTable(design, id)
  return {
    design: withTable(design, id, ({ rowSecurity: _, ...rest }) => ({
      ...rest,
      ...(security !== null && { rowSecurity: security })
    })),
    inverse: { kind: 'table.setRowSecurity', table: id, security: table.rowSecurity ?? null },
    touched: [id]
  }
}

export const addRowPolicy: Handler<'rowPolicy.add'> = (design, { table: id, rowPolicy, at }) => {
  const table = needTable(design, id)
  checkNewIds(design, [rowPolicy.id])
  checkRowPolicy(table, rowPolicy)
  return {
    design: withTable(design, id, (t) => ({ ...t, rowPolicies: insertedAt(t.rowPolicies, rowPolicy, at) })),
    inverse: { kind: 'rowPolicy.remove', table: id, rowPolicy: rowPolicy.id },
    touched: [id]
  }
}

export const changeRowPolicy: Handler<'rowPolicy.change'> = (design, { table: id, rowPolicy }) => {
  const table = needTable(design, id)
  const { found } = needAt(table.rowPolicies, rowPolicy.id, table, 'row policy')
  checkRowPolicy(table, rowPolicy)
  return {
    design: withTable(design, id, (t) => ({ ...t, rowPolicies: replaced(t.rowPolicies, rowPolicy) })),
    inverse: { kind: 'rowPolicy.change', table: id, rowPolicy: found },
    touched: [id]
  }
}

export const removeRowPolicy: Handler<'rowPolicy.remove'> = (design, { table: id, rowPolicy }) => {
  const table = needTable(design, id)
  const { at, found } = needAt(table.rowPolicies, rowPolicy, table, 'row policy')
  return {
    design: withTable(design, id, (t) => ({ ...t, rowPolicies: withoutAt(t.rowPolicies, at) })),
    inverse: { kind: 'rowPolicy.add', table: id, rowPolicy: found, at },
    touched: [id]
  }
}

export const renameConstraint: Handler<'constraint.rename'> = (design, { table: id, constraint, name }) => {
  const table = needTable(design, id)
  if (name !== null) checkName(name, { table: id })
  const all = [...keysOf(table), ...table.foreignKeys, ...table.checks, ...table.indexes]
  const { found } = needAt(all, constraint, table, 'constraint')
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

export const computeColumn: Handler<'column.compute'> = (
  design,
  { table: id, column: columnId, expression }
) => {
  const table = needTable(design, id)
  const column = needColumn(table, columnId)
  const where = { table: id, column: columnId }
  if (expression !== null) {
    if (isInPrimaryKey(table, columnId))
      throw new Refused(
        'key-column',
        `${column.name} is in the primary key, and a key is given, not computed.`,
        where
      )
    if (table.foreignKeys.some((each) => each.pairs.some((pair) => pair.column === columnId)))
      throw new Refused('in-use', `${column.name} refers to another table, so it cannot be computed.`, where)
    const clear: Operation[] = [
      ...(column.default ? [{ kind: 'column.setDefault' as const, ...where, default: null }] : []),
      ...(column.copied ? [{ kind: 'column.copy' as const, ...where, copied: null }] : []),
      ...(column.renewed ? [{ kind: 'column.renew' as const, ...where, renewed: null }] : []),
      ...(table.rows.some((row) => (row[columnId] ?? null) !== null)
        ? [
            {
              kind: 'table.setRows' as const,
              table: id,
              rows: table.rows.map(({ [columnId]: _, ...row }) => row)
            }
          ]
        : [])
    ]
    if (clear.length > 0) return { instead: [...clear, { kind: 'column.compute', ...where, expression }] }
  }
  return {
    design: withTable(design, id, (t) =>
      withColumn(t, columnId, (c) => ({ ...c, computed: expression ?? undefined }))
    ),
    inverse: { kind: 'column.compute', ...where, expression: column.computed ?? null },
    touched: [id]
  }
}

export const copyColumn: Handler<'column.copy'> = (design, { table: id, column: columnId, copied }) => {
  const table = needTable(design, id)
  const column = needColumn(table, columnId)
  const where = { table: id, column: columnId }
  if (copied) {
    const foreignKey = table.foreignKeys.find((each) => each.id === copied.foreignKey)
    const source = foreignKey && tableOf(design, foreignKey.table)
    if (!source)
      throw new Refused(
        'missing',
        `${table.name} no longer has the relationship that ${column.name} would be copied by.`,
        where
      )
    needColumn(source, copied.column)
    if (column.computed !== undefined)
      throw new Refused('invalid', `${column.name} is computed, so it is not copied.`, where)
    if (column.renewed)
      return {
        instead: [
          { kind: 'column.renew', ...where, renewed: null },
          { kind: 'column.copy', ...where, copied }
        ]
      }
  }
  return {
    design: withTable(design, id, (t) =>
      withColumn(t, columnId, (c) => ({ ...c, copied: copied ?? undefined }))
    ),
    inverse: { kind: 'column.copy', ...where, copied: column.copied ?? null },
    touched: [id]
  }
}

export const renewColumn: Handler<'column.renew'> = (design, { table: id, column: columnId, renewed }) => {
  const column = needColumn(needTable(design, id), columnId)
  const where = { table: id, column: columnId }
  if (renewed) {
    if (!isMoment(column.type))
      throw new Refused(
        'does-not-fit',
        `${column.name} is ${typeText(column.type, design.enums)}: only a date, a time or a timestamp becomes the present moment with each change.`,
        where
      )
    if (column.computed !== undefined)
      throw new Refused('invalid', `${column.name} is computed, so it is not renewed.`, where)
    if (column.copied)
      return {
        instead: [
          { kind: 'column.copy', ...where, copied: null },
          { kind: 'column.renew', ...where, renewed }
        ]
      }
  }
  return {
    design: withTable(design, id, (t) =>
      withColumn(t, columnId, (c) => ({ ...c, renewed: renewed ?? undefined }))
    ),
    inverse: { kind: 'column.renew', ...where, renewed: column.renewed ?? null },
    touched: [id]
  }
}

/** What of a table names a column in an expression: how to say it, and what takes it all away. */
export interface ExpressionUses {
  says: string[]
  removals: Operation[]
}

/**
 * What of the table names the column in an expression: checks, computed columns with what names them in
 * turn, conditions of indexes and row policies.
 */
export function expressionUses(table: Table, columnId: string): ExpressionUses {
  const on = { table: table.id }
  const gone = new Set([columnId])
  const uses = (expression: string | undefined): boolean =>
    expression !== undefined && columnsUsed(expression).some((id) => gone.has(id))
  let computed: Column[] = []
  for (let before = -1; before < gone.size; computed.forEach((each) => gone.add(each.id))) {
    before = gone.size
    computed = table.columns.filter((each) => each.id !== columnId && uses(each.computed))
    if (computed.every((each) => gone.has(each.id))) break
  }
  const checks = table.checks.filter((each) => uses(each.condition))
  const indexes = table.indexes.filter((each) => uses(each.where))
  const policies = table.rowPolicies.filter((each) => uses(each.condition) || uses(each.writes))
  const count = (n: number, one: string, many: string): string[] =>
    n === 0 ? [] : n === 1 ? [one] : [`${n} ${many}`]
  return {
    says: [
      ...count(checks.length, 'a check', 'checks'),
      ...computed.map((each) => `the computed ${each.name}`),
      ...count(indexes.length, 'an index', 'indexes'),
      ...policies.map((each) => `the row policy ${each.name}`)
    ],
    removals: [
      ...checks.map((each): Operation => ({ kind: 'check.remove', ...on, check: each.id })),
      ...indexes.map((each): Operation => ({ kind: 'index.remove', ...on, index: each.id })),
      ...policies.map((each): Operation => ({ kind: 'rowPolicy.remove', ...on, rowPolicy: each.id })),
      // What is computed from another computed column goes before it.
      ...computed.map((each): Operation => ({
        kind: 'column.compute',
        ...on,
        column: each.id,
        expression: null
      })),
      ...computed.map((each): Operation => ({ kind: 'column.remove', ...on, column: each.id }))
    ]
  }
}
