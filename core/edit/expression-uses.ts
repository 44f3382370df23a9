import { columnsUsed } from '../design/expressions.ts'
import type { Column, Table } from '../design/model.ts'
import type { Operation } from './operation.ts'

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
