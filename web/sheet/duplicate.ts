import { newId, type Column, type Design, type Table } from '../../core/design/model.ts'
import type { Operation, OperationOf } from '../../core/edit/operation.ts'
import { freeName } from '../../core/naming/names.ts'
import { together, type Step } from './commands.ts'

/** The columns once more, from the place on, under free names: what they are, and not what refers by them. */
export function duplicateColumns(table: Table, columns: readonly Column[], at: number): Step | undefined {
  const taken = table.columns.map((column) => column.name)
  const operations = columns.map((column, n): Operation => {
    const name = freeName(column.name, taken)
    taken.push(name)
    return {
      kind: 'column.add',
      table: table.id,
      column: {
        ...column,
        id: newId('c'),
        name,
        copied: undefined,
        default: column.default?.kind === 'generated' ? undefined : column.default
      },
      at: at + n
    }
  })
  return together(operations, `duplicate ${operations.length} columns of ${table.name}`)
}

/** The table once more behind itself, with its keys, references and rules, and without its rows. */
export function duplicateTable(design: Design, table: Table): OperationOf<'table.add'> {
  const renewed = new Map<string, string>()
  const ids = [
    table,
    ...table.columns,
    ...(table.primaryKey ? [table.primaryKey] : []),
    ...table.uniques,
    ...table.foreignKeys,
    ...table.checks,
    ...table.indexes,
    ...table.rowPolicies
  ]
  for (const { id } of ids) renewed.set(id, newId(id.slice(0, id.indexOf('_')) as 't'))
  const { rows: _, ...rest } = table
  const text = JSON.stringify(rest).replaceAll(/[a-z]{1,4}_[a-z0-9_]{1,40}/g, (id) => renewed.get(id) ?? id)
  const copy = { ...(JSON.parse(text) as Omit<Table, 'rows'>), rows: [] }
  // Names that a person gave stay with what they were given to.
  const unnamed = <T extends { name?: string | undefined }>(list: readonly T[]): T[] =>
    list.map((each) => ({ ...each, name: undefined }))
  return {
    kind: 'table.add',
    at: design.tables.indexOf(table) + 1,
    table: {
      ...copy,
      name: freeName(
        table.name,
        design.tables.map((each) => each.name)
      ),
      note: table.note,
      columns: copy.columns.map((column, at) => ({
        ...column,
        name: (table.columns[at] as Column).name,
        note: table.columns[at]?.note
      })),
      primaryKey: copy.primaryKey && { ...copy.primaryKey, name: undefined },
      uniques: unnamed(copy.uniques),
      foreignKeys: unnamed(copy.foreignKeys),
      checks: unnamed(copy.checks),
      indexes: unnamed(copy.indexes)
    }
  }
}
