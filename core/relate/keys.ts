import { columnOf, columnsIn, fold } from '../design/directory.ts'
import { newId, type Column, type Policy, type Table } from '../design/model.ts'
import type { Operation } from '../edit/operation.ts'
import { junctionSides } from './junction.ts'
import { generatedKeyName } from '../naming/names.ts'

/** A key that a table without one could have, in words and as what makes it. */
export interface KeyProposal {
  says: string
  operation: Operation
}

/**
 * The best key for a table that has none: a unique key that is always filled, the pair of a junction, a
 * column that is called like a key, or a generated number of its own.
 */
export function proposeKey(table: Table, policy: Policy): KeyProposal {
  const setting = (columns: readonly string[], label = ''): KeyProposal => ({
    says: `Make ${columnsIn(table, columns)
      .map((column) => column.name)
      .join(', ')} the primary key${label}`,
    operation: { kind: 'key.setPrimary', table: table.id, key: { id: newId('k'), columns: [...columns] } }
  })
  const unique = table.uniques.find((key) =>
    key.columns.every((id) => columnOf(table, id)?.required && columnOf(table, id)?.computed === undefined)
  )
  if (unique) return setting(unique.columns)
  const pair = pairOf(table)
  if (pair) return setting(pair, ', one row for each pair')
  const named = table.columns.find((column) => isKeyName(table, column, policy))
  if (named) return setting([named.id])
  const column: Column = {
    id: newId('c'),
    name: generatedKeyName(table, policy),
    type: { kind: 'integer', size: 'normal' },
    required: true,
    ...(table.columns.every((each) => each.default?.kind !== 'generated') && {
      default: { kind: 'generated' as const }
    })
  }
  return {
    says: `Add ${column.name}, a generated number, as the primary key`,
    operation: {
      kind: 'batch',
      label: `give ${table.name} a key`,
      operations: [
        { kind: 'column.add', table: table.id, column, at: 0 },
        { kind: 'key.setPrimary', table: table.id, key: { id: newId('k'), columns: [column.id] } }
      ]
    }
  }
}

/**
 * The columns of the first two references, where all of a table's references are required and there are
 * two.
 */
function pairOf(table: Table): string[] | undefined {
  const sides = junctionSides(table)
  const references = sides.length >= 2 ? sides : table.foreignKeys
  if (references.length !== 2) return undefined
  const columns = [...new Set(references.flatMap((key) => key.pairs.map((pair) => pair.column)))]
  return columns.every((id) => columnOf(table, id)?.required) ? columns : undefined
}

function isKeyName(table: Table, column: Column, policy: Policy): boolean {
  if (column.computed !== undefined || ['float', 'boolean', 'json'].includes(column.type.kind)) return false
  if (column.default?.kind === 'generated') return true
  const own = fold(table.name)
  return [
    fold(generatedKeyName({ name: table.name, columns: [] }, policy)),
    'id',
    'code',
    `${own}_code`,
    `${own}_no`
  ].includes(fold(column.name))
}

/**
 * Declares that columns which are there refer to the parent's key: they take its types, and what a delete
 * does follows from whether they may be empty.
 */
export function declareReference(table: Table, parent: Table, columns: readonly Column[]): Operation {
  const required = columns.every((column) => column.required)
  return {
    kind: 'relationship.add',
    parent: parent.id,
    child: table.id,
    foreignKey: newId('f'),
    columns: columns.map(({ id, name }) => ({ id, name })),
    required,
    onDelete: required ? 'RESTRICT' : 'SET NULL',
    onUpdate: 'CASCADE'
  }
}
