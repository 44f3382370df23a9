import { STILL } from '../carry/flow.ts'
import { columnsIn, referencesTo } from '../design/directory.ts'
import { columnsUsed, expressionOf, renameColumns } from '../design/expressions.ts'
import {
  emptyTable,
  newId,
  type Column,
  type ColumnId,
  type Design,
  type Key,
  type Table
} from '../design/model.ts'
import type { Projected, RowQuery } from '../design/row-query.ts'
import type { Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import { freeName, tableName } from '../naming/names.ts'
import { plural } from '../naming/words.ts'
import type { Change, Offer } from './change.ts'
import { restructure, stuck } from './restructuring.ts'

/** The most tables that one is taken apart into. */
const MOST = 8

/** One table that a column tells into kinds becomes several, one for each kind. */
export const apart: Change = (design, { table, foreignKey }) => {
  if (foreignKey || table.external || !table.primaryKey) return []
  return table.columns.flatMap((column): Offer[] => {
    const kinds = kindsOf(design, table, column)
    if (kinds.length < 2 || kinds.length > MOST) return []
    return [
      {
        kind: 'apart',
        says: `${kinds.map((kind) => plural(kind)).join(', ')} are kinds of their own, each with a table.`,
        term: `one table taken apart by ${column.name}`,
        asks: [],
        operation: () => takeApart(design, table, column, kinds)
      }
    ]
  })
}

/** The kinds that a required text or list tells rows into: those of the list, or of a check that names all. */
function kindsOf(design: Design, table: Table, column: Column): string[] {
  if (!column.required || column.computed !== undefined || isReference(table, column.id)) return []
  const { type } = column
  if (type.kind === 'enum') return design.enums.find(({ id }) => id === type.enum)?.values ?? []
  if (type.kind !== 'text' && type.kind !== 'char') return []
  return table.checks.flatMap(({ condition }) => {
    if (columnsUsed(condition).some((id) => id !== column.id)) return []
    return namedIn(condition)
  })
}

/** The texts of a condition that is nothing but `column in ('a', 'b')`. */
function namedIn(condition: string): string[] {
  const expression = expressionOf(condition)
  if (expression.kind !== 'in' || expression.not || expression.of.kind !== 'column') return []
  return expression.list.flatMap((each) => (each.kind === 'text' ? [each.value] : []))
}

const isReference = (table: Table, id: ColumnId): boolean =>
  table.foreignKeys.some(({ pairs }) => pairs.some(({ column }) => column === id))

interface Part {
  kind: string
  made: Table & { primaryKey: Key }
  /** The new columns by those that there were. */
  columns: ReadonlyMap<ColumnId, ColumnId>
}

function takeApart(design: Design, table: Table, by: Column, kinds: readonly string[]): Parsed<Operation> {
  return restructure(design, `take ${table.name} apart by ${by.name}`, (restructuring) => {
    const referring = referencesTo(design, table.id)
    if (referring.length > 0)
      stuck(
        `${referring[0]?.table.name} refers to ${table.name}, and would have to refer to several tables. Take that out first.`
      )
    const taken = design.tables.map(({ name }) => name)
    const parts = kinds.map((kind): Part => {
      const name = freeName(tableName(kind, design.policy), taken)
      taken.push(name)
      return partOf(table, by, kind, name)
    })
    const rows: RowQuery = { kind: 'table', table: table.id }
    const isKind = (kind: string): string => `{${by.id}} = '${kind.replaceAll("'", "''")}'`
    restructuring.carry(
      {
        ...STILL,
        adds: parts.map(({ kind, made, columns }) => ({
          table: made.id,
          rows: {
            kind: 'project',
            of: { kind: 'filter', of: rows, where: isKind(kind) },
            columns: [...columns].map(([from, id]): Projected => ({ id, from }))
          }
        })),
        requires: [
          {
            query: { kind: 'filter', of: rows, where: `not (${kinds.map(isKind).join(' or ')})` },
            says: `Some rows of ${table.name} are of none of these kinds.`
          }
        ]
      },
      {
        ...STILL,
        adds: parts.map(({ kind, made, columns }) => ({
          table: table.id,
          rows: {
            kind: 'project',
            of: { kind: 'table', table: made.id },
            columns: [
              { id: by.id, type: by.type, value: kind },
              ...[...columns].map(([id, from]): Projected => ({ id, from }))
            ]
          }
        }))
      },
      ...parts.map(({ made }, at): Operation => ({
        kind: 'table.add',
        table: made,
        at: design.tables.indexOf(table) + at
      }))
    )
    restructuring.do({ kind: 'table.remove', table: table.id })
  })
}

/** A table of one kind: all that the whole one has but what told the kinds. */
function partOf(table: Table, by: Column, kind: string, name: string): Part {
  const staying = table.columns.filter(({ id }) => id !== by.id)
  const columns = new Map(staying.map(({ id }) => [id, newId('c')]))
  const now = (id: ColumnId): ColumnId => columns.get(id) ?? id
  const within = (ids: readonly ColumnId[]): ColumnId[] => ids.filter((id) => id !== by.id).map(now)
  const key = within(table.primaryKey?.columns ?? [])
  if (key.length === 0) stuck(`${by.name} is all of the key of ${table.name}.`)
  const isHeld = (condition: string): boolean =>
    columnsUsed(condition).length > 0 && !columnsUsed(condition).includes(by.id)
  const made: Part['made'] = {
    ...emptyTable(name),
    ...(table.schema !== undefined && { schema: table.schema }),
    columns: columnsIn(
      table,
      staying.map(({ id }) => id)
    ).map(({ copied: _, ...column }) => ({
      ...column,
      id: now(column.id),
      ...(column.computed !== undefined && { computed: renameColumns(column.computed, now) })
    })),
    primaryKey: { id: newId('k'), columns: key },
    uniques: table.uniques
      .map(({ columns: of }) => within(of))
      .filter((of) => of.length > 0)
      .map((of) => ({ id: newId('k'), columns: of })),
    foreignKeys: table.foreignKeys.map(({ name: _, ...each }) => ({
      ...each,
      id: newId('f'),
      pairs: each.pairs.map((pair) => ({ ...pair, column: now(pair.column) }))
    })),
    checks: table.checks
      .filter(({ condition }) => isHeld(condition))
      .map(({ name: _, ...each }) => ({
        ...each,
        id: newId('x'),
        condition: renameColumns(each.condition, now)
      }))
  }
  const computed = new Set(staying.filter((column) => column.computed !== undefined).map(({ id }) => id))
  return { kind, made, columns: new Map([...columns].filter(([id]) => !computed.has(id))) }
}
