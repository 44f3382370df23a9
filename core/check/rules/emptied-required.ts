import { columnsIn, isInPrimaryKey } from '../../design/directory.ts'
import type { Action, Column, ForeignKey, Table } from '../../design/model.ts'
import type { Operation } from '../../edit/operation.ts'
import { titles, type Finding, type Rule, type RuleContext } from '../finding.ts'

/**
 * SET NULL on columns that may not be empty: what it is to do can never be done (ISO/IEC 9075-2, 11.8, lets
 * it be said). Some engines do not take such a table, the others refuse the row that would do it.
 */
export const emptiedRequired: Rule = {
  name: 'emptied, and required',
  find: (table, context) => table.foreignKeys.flatMap((key) => contradiction(table, key, context))
}

function contradiction(
  table: Table,
  key: ForeignKey,
  { dialects }: RuleContext
): Omit<Finding, 'rule' | 'table'>[] {
  const own = columnsIn(
    table,
    key.pairs.map((pair) => pair.column)
  )
  const held = own.filter(({ id, required }) => required || isInPrimaryKey(table, id))
  const [first] = held
  const empties = (['onDelete', 'onUpdate'] as const).filter((on) => key[on] === 'SET NULL')
  if (!first || empties.length === 0) return []
  const names = held.map(({ name }) => name).join(', ')
  const where = empties.map((on) => (on === 'onDelete' ? 'is deleted' : 'gets another key')).join(' or ')
  const refused = dialects.filter(({ facts }) => facts.emptyingRequired === 'table')
  const becomes =
    refused.length > 0
      ? `${titles(refused)} ${refused.length > 1 ? 'refuse' : 'refuses'} the table${refused.length < dialects.length ? ', and elsewhere that fails' : ''}`
      : 'that fails for each row that is referred to'
  return [
    {
      severity: refused.length > 0 ? 'refused' : 'wrong',
      column: first.id,
      ...(refused.length > 0 && { dialects: refused.map(({ name }) => name) }),
      message: `Where what it refers to ${where}, ${names} of ${table.name} is to be emptied, and may not be empty: ${becomes}.`,
      fix: mended(table, key, held)
    }
  ]
}

/** What is emptied may be empty; where it tells rows apart, nothing is emptied. */
function mended(table: Table, key: ForeignKey, held: readonly Column[]): NonNullable<Finding['fix']> {
  const names = held.map(({ name }) => name).join(', ')
  if (held.some(({ id }) => isInPrimaryKey(table, id))) {
    const kept = (action: Action): Action => (action === 'SET NULL' ? 'RESTRICT' : action)
    return {
      label: 'Refuse it instead',
      operation: {
        kind: 'foreignKey.setActions',
        table: table.id,
        foreignKey: key.id,
        onDelete: kept(key.onDelete),
        onUpdate: kept(key.onUpdate)
      }
    }
  }
  const operations = held.map(({ id }): Operation => ({
    kind: 'column.require',
    table: table.id,
    column: id,
    required: false
  }))
  return {
    label: `Let ${names} be empty`,
    operation: { kind: 'batch', label: `let ${names} be empty`, operations }
  }
}
