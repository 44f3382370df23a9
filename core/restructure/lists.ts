import { STILL } from '../carry/flow.ts'
import { columnOf, columnsIn, namesOfTables, referencesTo, tableOf } from '../design/directory.ts'
import {
  emptyTable,
  newId,
  type Column,
  type Design,
  type Enum,
  type ForeignKey,
  type Table
} from '../design/model.ts'
import type { Type, Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import { freeName, tableName } from '../naming/names.ts'
import { answerTo, type ChangeOfMind, type Naming, type ChangeOffer } from './change.ts'
import { said } from './queries.ts'
import { restructure, stuck } from './restructuring.ts'

/** A list of values becomes a lookup table, to which rows refer by the value; and a lookup table becomes a list. */
export const lists: ChangeOfMind = (design, { table, foreignKey }) => {
  if (table.external) return []
  if (!foreignKey) return table.columns.flatMap((column) => toTable(design, table, column))
  return toList(design, table, foreignKey)
}

function toTable(design: Design, table: Table, column: Column): ChangeOffer[] {
  const { type } = column
  const list = type.kind === 'enum' ? design.enums.find(({ id }) => id === type.enum) : undefined
  const isFree =
    column.computed === undefined &&
    table.foreignKeys.every(({ pairs }) => pairs.every((pair) => pair.column !== column.id))
  if (!list || !isFree) return []
  const name: Naming = {
    id: 'name',
    kind: 'name',
    asks: 'What the table is called',
    proposed: freeName(tableName(list.name, design.policy), namesOfTables(design))
  }
  return [
    {
      kind: 'list to table',
      says: `Each ${column.name} of ${table.name} is one that stands in a table, to which rows can be added.`,
      term: 'a lookup table from a list of values',
      asks: [name],
      operation: (answers) => makeTable(design, table, column, list, answerTo(name, answers))
    }
  ]
}

const longest = (values: readonly string[]): number =>
  Math.max(...values.map((value) => [...value].length), 1)

function makeTable(
  design: Design,
  table: Table,
  column: Column,
  list: Enum,
  name: string
): Parsed<Operation> {
  return restructure(design, `make the table ${name} of a list of values`, (restructuring) => {
    const type: Type = { kind: 'text', length: longest(list.values) }
    const value: Column = { id: newId('c'), name: list.name, type, required: true }
    const made: Table = {
      ...emptyTable(name),
      columns: [value],
      primaryKey: { id: newId('k'), columns: [value.id] }
    }
    const key = made.primaryKey?.id ?? ''
    restructuring.carry(
      {
        ...STILL,
        adds: [
          {
            table: made.id,
            rows: {
              kind: 'constant',
              columns: [{ id: value.id, type }],
              rows: list.values.map((each) => [each])
            }
          }
        ]
      },
      STILL,
      { kind: 'table.add', table: made, at: design.tables.indexOf(table) }
    )
    restructuring.do(
      { kind: 'column.retype', table: table.id, column: column.id, type },
      {
        kind: 'foreignKey.add',
        table: table.id,
        foreignKey: {
          id: newId('f'),
          table: made.id,
          key,
          pairs: [{ column: column.id, refersTo: value.id }],
          onDelete: 'RESTRICT',
          onUpdate: 'CASCADE'
        }
      }
    )
    const isUsed = restructuring.design.tables.some((each) =>
      each.columns.some((one) => one.type.kind === 'enum' && one.type.enum === list.id)
    )
    if (!isUsed) restructuring.do({ kind: 'enum.remove', enum: list.id })
  })
}

function toList(design: Design, child: Table, foreignKey: ForeignKey): ChangeOffer[] {
  const lookup = tableOf(design, foreignKey.table)
  const [pair, ...others] = foreignKey.pairs
  const value = lookup && pair && columnOf(lookup, pair.refersTo)
  const isText = value?.type.kind === 'text' || value?.type.kind === 'char'
  const isOnly = lookup !== undefined && referencesTo(design, lookup.id).length === 1
  if (!lookup || lookup.external || others.length > 0 || !pair || !isText || !isOnly) return []
  return [
    {
      kind: 'table to list',
      says: `Each ${child.name} has one of a list of values that the design itself names.`,
      term: 'a list of values from a lookup table',
      asks: [],
      operation: () => makeList(design, child, foreignKey, lookup, pair.column, pair.refersTo)
    }
  ]
}

function makeList(
  design: Design,
  child: Table,
  foreignKey: ForeignKey,
  lookup: Table,
  column: string,
  value: string
): Parsed<Operation> {
  return restructure(design, `make a list of values of ${lookup.name}`, (restructuring) => {
    const held = lookup.rows.map((row) => row[value] ?? null)
    const values = held.flatMap((each) => (each === null ? [] : [String(each)]))
    if (values.length === 0)
      stuck(`${lookup.name} has no rows, so there is nothing to make a list of. Give it some first.`)
    const own = columnsIn(lookup, [value]).map(({ name }) => name)
    const beside = lookup.columns.filter(({ id, computed }) => id !== value && computed === undefined)
    const list: Enum = {
      id: newId('e'),
      name: freeName(
        lookup.name,
        design.enums.map(({ name }) => name)
      ),
      values
    }
    const isNamed = values.map((each) => `{${value}} = ${said(each)}`).join(' or ')
    restructuring.carry(
      {
        ...STILL,
        requires: [
          {
            query: { kind: 'filter', of: { kind: 'table', table: lookup.id }, where: `not (${isNamed})` },
            says: `${lookup.name} has rows whose ${own.join(', ')} is not in the list.`
          }
        ]
      },
      {
        ...STILL,
        adds: [
          {
            table: lookup.id,
            rows: {
              kind: 'constant',
              columns: [{ id: value, type: columnOf(lookup, value)?.type ?? { kind: 'text' } }],
              rows: values.map((each) => [each])
            }
          }
        ]
      },
      { kind: 'enum.add', enum: list }
    )
    if (beside.some(({ required, default: begins }) => required && begins === undefined))
      stuck(
        `${lookup.name} says more than its ${own.join(', ')}: ${beside.map(({ name }) => name).join(', ')} would be lost. Merge it into ${child.name} first, or take that out.`
      )
    restructuring.do(
      { kind: 'foreignKey.remove', table: child.id, foreignKey: foreignKey.id },
      { kind: 'column.retype', table: child.id, column, type: { kind: 'enum', enum: list.id } },
      { kind: 'table.remove', table: lookup.id }
    )
  })
}
