import { columnsIn, namesOfTables } from '../design/directory.ts'
import { filled, STILL } from '../carry/flow.ts'
import type { Fill, Flow } from '../design/carry.ts'
import { emptyTable, newId, type Column, type ColumnId, type Design, type Table } from '../design/model.ts'
import type { Projected, RowQuery } from '../design/row-query.ts'
import { rowsThere } from './rows.ts'
import type { Operation } from '../edit/operation.ts'
import { freeName, inCase, tableName } from '../naming/names.ts'

/**
 * Columns that repeat (`phone1`, `phone2`) become rows of a table of their own, numbered as they were;
 * what they hold goes along, in the design's rows and as carries. Nothing where the table has no key or
 * a column is used elsewhere.
 */
export function splitRepeated(
  design: Design,
  table: Table,
  stem: string,
  columns: readonly Column[]
): { name: string; operation: Operation } | undefined {
  const key = table.primaryKey
  const ids = columns.map((column) => column.id)
  const used =
    [...(key ? [key] : []), ...table.uniques].some((each) => each.columns.some((id) => ids.includes(id))) ||
    table.foreignKeys.some((each) => each.pairs.some((pair) => ids.includes(pair.column)))
  const [first] = columns
  if (!key || used || !first || columns.some((column) => column.computed !== undefined)) return undefined
  const { policy } = design
  const name = freeName(tableName(`${table.name}_${stem}`, policy), namesOfTables(design))
  const own = columnsIn(table, key.columns).map((column): Column => ({
    id: newId('c'),
    name: column.name,
    type: column.type,
    required: true
  }))
  const taken = own.map((column) => column.name)
  const no: Column = {
    id: newId('c'),
    name: freeName(inCase(`${stem}_no`, policy.letterCase), taken),
    type: { kind: 'integer', size: 'small' },
    required: true
  }
  const value: Column = {
    id: newId('c'),
    name: freeName(stem, [...taken, no.name]),
    type: first.type,
    required: true
  }
  /** A row for each value of one of the columns, which had that place among them. */
  const said = (column: ColumnId, place: number): RowQuery => ({
    kind: 'project',
    of: filled({ kind: 'table', table: table.id }, [column]),
    columns: [
      ...own.map((each, n): Projected => ({ id: each.id, from: key.columns[n] as string })),
      { id: no.id, type: no.type, value: place },
      { id: value.id, from: column }
    ]
  })
  const target: Table = {
    ...emptyTable(name),
    columns: [...own, no, value],
    primaryKey: { id: newId('k'), columns: [...own, no].map((column) => column.id) },
    foreignKeys: [
      {
        id: newId('f'),
        table: table.id,
        key: key.id,
        pairs: own.map((column, at) => ({ column: column.id, refersTo: key.columns[at] as string })),
        onDelete: 'CASCADE',
        onUpdate: 'CASCADE'
      }
    ],
    rows: []
  }
  const there: Flow = {
    ...STILL,
    adds: columns.map((column, at) => ({ table: target.id, rows: said(column.id, at + 1) }))
  }
  const back: Flow = {
    ...STILL,
    fills: columns.map((column, at): Fill => ({
      table: table.id,
      columns: [{ id: column.id, from: value.id }],
      from: { kind: 'filter', of: { kind: 'table', table: target.id }, where: `{${no.id}} = ${at + 1}` },
      on: own.map((each, n) => ({ own: key.columns[n] as string, other: each.id }))
    }))
  }
  return {
    name,
    operation: {
      kind: 'batch',
      label: `make the table ${name}`,
      operations: [
        {
          kind: 'table.add',
          table: { ...target, rows: [...rowsThere(design, there, target.id)] },
          at: design.tables.indexOf(table) + 1
        },
        { kind: 'carry.add', carry: { id: newId('y'), there, back } },
        ...columns.map((column): Operation => ({ kind: 'column.remove', table: table.id, column: column.id }))
      ]
    }
  }
}
