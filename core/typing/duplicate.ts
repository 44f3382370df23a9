import { namesOfTables } from '../design/directory.ts'
import { newId, type Column, type Design, type Table } from '../design/model.ts'
import type { Operation, OperationOf } from '../edit/operation.ts'
import { freeName } from '../naming/names.ts'
import { together, type SheetStep } from './commands.ts'
import { TableCopy } from './table-copy.ts'

/** The columns once more, from the place on, under free names: what they are, and not what refers by them. */
export function duplicateColumns(
  table: Table,
  columns: readonly Column[],
  at: number
): SheetStep | undefined {
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
  const taken = namesOfTables(design)
  return {
    kind: 'table.add',
    at: design.tables.indexOf(table) + 1,
    table: { ...new TableCopy(table).table(), name: freeName(table.name, taken) }
  }
}
