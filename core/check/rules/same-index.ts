import { columnsIn, keysOf } from '../../design/directory.ts'
import { showExpression } from '../../design/expressions.ts'
import type { Index, Table } from '../../design/model.ts'
import type { Operation } from '../../edit/operation.ts'
import type { Finding, Rule } from '../finding.ts'

/**
 * An index that another one, or a key, does the work of: it takes room, is written with every row, and is
 * read by nobody.
 */
export const sameIndex: Rule = {
  name: 'index that is there already',
  find: (table) => {
    const alike = new Map<string, Index[]>()
    for (const index of table.indexes) alike.set(works(index), [...(alike.get(works(index)) ?? []), index])
    return [...alike.values()].flatMap((indexes) => findingOn(table, indexes))
  }
}

/** What is found on indexes that are all on the same: the one that holds rows apart stays, or else the first. */
function findingOn(table: Table, indexes: readonly Index[]): Omit<Finding, 'rule' | 'table'>[] {
  const [first] = indexes
  if (!first) return []
  const isKey = first.where === undefined && keysOf(table).some((key) => isInOrder(first, key.columns))
  const stays = isKey ? undefined : (indexes.find(({ unique }) => unique) ?? first)
  const idle = indexes.filter((index) => index !== stays)
  if (idle.length === 0) return []
  const columns = first.columns.map(({ column }) => column)
  const names = columnsIn(table, columns).map(({ name }, at) =>
    first.columns[at]?.descending ? `${name} downwards` : name
  )
  const where = first.where === undefined ? '' : ` where ${showExpression(first.where, table.columns)}`
  const does = isKey ? 'a key on the same does' : 'another index on the same does'
  const operations = idle.map(({ id }): Operation => ({ kind: 'index.remove', table: table.id, index: id }))
  return [
    {
      severity: 'doubtful',
      column: columns[0] as string,
      message: `The index on ${names.join(', ')}${where} of ${table.name} does nothing that ${does} not.`,
      fix: {
        label: 'Remove it',
        operation: { kind: 'batch', label: `remove the index on ${names.join(', ')}`, operations }
      }
    }
  ]
}

/** What an index is of, whatever it is called. */
const works = ({ columns, where }: Index): string => JSON.stringify([columns, where])

/** A key has an index of its own, in the order of its columns. */
function isInOrder({ columns }: Index, key: readonly string[]): boolean {
  return (
    columns.length === key.length &&
    columns.every(({ column, descending }, at) => column === key[at] && !descending)
  )
}
