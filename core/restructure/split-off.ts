import { isComparable } from '../carry/columns.ts'
import { STILL } from '../carry/flow.ts'
import type { Flow } from '../design/carry.ts'
import { columnsIn, namesOfTables } from '../design/directory.ts'
import {
  emptyTable,
  newId,
  type Column,
  type ColumnId,
  type Design,
  type ForeignKey,
  type Table
} from '../design/model.ts'
import type { RowQuery } from '../design/row-query.ts'
import type { Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import { plural } from '../naming/words.ts'
import { freeName, tableName } from '../naming/names.ts'
import {
  answerTo,
  askColumns,
  thoseOf,
  type ChangeOfMind,
  type OptionQuestion,
  type Naming
} from './change.ts'
import { columnsOver, freeColumns, goOver, type Over } from './columns-over.ts'
import { restructure, stuck } from './restructuring.ts'

/** A wide table is split: some of its columns stand in a table of their own, one-to-one, by the same key. */
export const splitOff: ChangeOfMind = (design, { table, foreignKey }) => {
  const columns = freeColumns(design, table)
  if (foreignKey || table.external || !table.primaryKey || columns.length === 0) return []
  const which = askColumns('which', 'What goes into a table of its own', columns, optional(columns))
  const name: Naming = {
    id: 'name',
    kind: 'name',
    asks: 'What it is called',
    proposed: freeName(tableName(`${table.name}_detail`, design.policy), namesOfTables(design))
  }
  const rows: OptionQuestion = {
    id: 'rows',
    kind: 'choice',
    asks: `Which ${table.name} has one`,
    proposed: 'filled',
    options: [
      { value: 'filled', words: 'where any of it is filled' },
      { value: 'all', words: 'every one' }
    ]
  }
  return [
    {
      kind: 'split off',
      says: `What only some ${plural(table.name)} have stands in a table of its own.`,
      term: 'columns split off, one-to-one',
      asks: [which, name, rows],
      operation: (answers) =>
        split(
          design,
          table,
          thoseOf(which, answers),
          answerTo(name, answers),
          answerTo(rows, answers) === 'all'
        )
    }
  ]
}

/** What is not needed in every row; where all of it is, the last column. */
function optional(columns: readonly Column[]): string[] {
  const some = columns.filter(({ required }) => !required)
  return (some.length > 0 ? some : columns.slice(-1)).map(({ id }) => id)
}

function split(
  design: Design,
  table: Table,
  which: readonly ColumnId[],
  name: string,
  isAll: boolean
): Parsed<Operation> {
  return restructure(design, `split ${name} off ${table.name}`, (restructuring) => {
    if (which.length === 0) stuck('Choose a column that is to go into the new table.')
    const key = columnsIn(table, table.primaryKey?.columns ?? [])
    if (key.some(({ type }) => !isComparable(type)))
      stuck(`The key of ${table.name} is of a type that rows are not found by in every engine.`)
    const own = key.map((column): Column => ({
      id: newId('c'),
      name: column.name,
      type: column.type,
      required: true
    }))
    const moved = columnsIn(table, which)
    const over = columnsOver(
      moved,
      own.map((column) => column.name)
    )
    const made = detailTable(table, name, own, [...over.values()])
    const { there, back } = flows(table, made, own, over, isAll || moved.some(({ required }) => required))
    restructuring.carry(there, back, {
      kind: 'table.add',
      table: made,
      at: design.tables.indexOf(table) + 1
    })
    goOver(restructuring, table.id, made.id, over)
  })
}

function detailTable(table: Table, name: string, own: readonly Column[], columns: readonly Column[]): Table {
  const key = table.primaryKey ?? stuck(`${table.name} has no key.`)
  const reference: ForeignKey = {
    id: newId('f'),
    table: table.id,
    key: key.id,
    pairs: own.map(({ id }, at) => ({ column: id, refersTo: key.columns[at] ?? '' })),
    onDelete: 'CASCADE',
    onUpdate: 'CASCADE'
  }
  return {
    ...emptyTable(name),
    ...(table.schema !== undefined && { schema: table.schema }),
    columns: [...own, ...columns],
    primaryKey: { id: newId('k'), columns: own.map(({ id }) => id) },
    foreignKeys: [reference]
  }
}

function flows(
  table: Table,
  made: Table,
  own: readonly Column[],
  over: Over,
  isAll: boolean
): { there: Flow; back: Flow } {
  const rows: RowQuery = { kind: 'table', table: table.id }
  const isAny = [...over.keys()].map((id) => `{${id}} is not null`).join(' or ')
  const key = table.primaryKey?.columns ?? []
  return {
    there: {
      ...STILL,
      adds: [
        {
          table: made.id,
          rows: {
            kind: 'project',
            of: isAll ? rows : { kind: 'filter', of: rows, where: isAny },
            columns: [
              ...own.map(({ id }, at) => ({ id, from: key[at] ?? '' })),
              ...[...over].map(([from, { id }]) => ({ id, from }))
            ]
          }
        }
      ]
    },
    back: {
      ...STILL,
      fills: [
        {
          table: table.id,
          columns: [...over].map(([id, { id: from }]) => ({ id, from })),
          from: { kind: 'table', table: made.id },
          on: own.map(({ id }, at) => ({ own: key[at] ?? '', other: id }))
        }
      ]
    }
  }
}
