import { expressionOf } from './expressions.ts'
import { columnOf } from './directory.ts'
import type { Row, Table } from './model.ts'
import { isNumeric } from './type.ts'
import { fits, typedValue, type Value } from './value.ts'
import { evaluateExpression, type Operand } from '../sql/evaluate.ts'

/**
 * What an expression gives on a row of a table: null where it cannot be told because a value is empty;
 * undefined where it cannot be worked out without an engine.
 */
export function evaluate(kept: string, table: Table, row: Row): Value | undefined {
  return evaluateExpression(expressionOf(kept), (id) => operandIn(table, row, id))
}

function operandIn(table: Table, row: Row, id: string): Operand | undefined {
  const column = columnOf(table, id)
  const isNumber = column !== undefined && isNumeric(column.type)
  if (column?.computed === undefined) return { value: row[id] ?? null, isNumber }
  const value = evaluate(column.computed, table, row)
  return value === undefined ? undefined : { value, isNumber }
}

/** Whether the row meets each check of its table: a check that is left open (null) is met. */
export function meetsChecks(table: Table, row: Row): boolean {
  return table.checks.every((check) => evaluate(check.condition, table, row) !== false)
}

/** Whether what is computed from the row can stand in its column. */
export function computedFits(table: Table, row: Row): boolean {
  return table.columns.every((column) => {
    if (column.computed === undefined) return true
    const value = evaluate(column.computed, table, row)
    if (value === undefined || value === null) return value === undefined || !column.required
    return fits(typedValue(value, column.type), column.type)
  })
}
