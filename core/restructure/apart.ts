import { STILL } from '../carry/flow.ts'
import type { Requirement } from '../design/carry.ts'
import { columnsIn, namesIn, referencesTo, type Reference } from '../design/directory.ts'
import { columnsUsed, expressionOf, renameColumns } from '../design/expressions.ts'
import {
  emptyTable,
  newId,
  type Column,
  type ColumnId,
  type Design,
  type Row,
  type Table
} from '../design/model.ts'
import type { Projected, RowQuery } from '../design/row-query.ts'
import type { Parsed } from '../design/type.ts'
import { sentence, listed } from '../design/words.ts'
import type { Operation } from '../edit/operation.ts'
import { columnNamer, freeName, renamedFor, tableName } from '../naming/names.ts'
import { plural, singular } from '../naming/words.ts'
import { mustBeOpen } from './alike.ts'
import { thoseOf, type ChangeOfMind, type ChangeOffer, type Several } from './change.ts'
import { beyondFirst, said } from './queries.ts'
import { columnsOfKey, followingOf, ofWhole, type SplitTable } from './one-of-several.ts'
import { followAnother } from './rekey.ts'
import { restructure, stuck } from './restructuring.ts'

/** The most tables that one is taken apart into. */
const MOST = 8

/** One table that a column tells into kinds becomes several, one for each kind. */
export const apart: ChangeOfMind = (design, { table, foreignKey }) => {
  if (foreignKey || table.external || !table.primaryKey) return []
  return table.columns.flatMap((column): ChangeOffer[] => {
    const kinds = kindsOf(design, table, column)
    if (kinds.length < 2 || kinds.length > MOST) return []
    const asks = referencesTo(design, table.id).map((reference) => ({
      reference,
      ask: askKinds(table, column, kinds, reference)
    }))
    return [
      {
        kind: 'apart',
        says: `${sentence(listed(kinds.map(plural)))} are kinds of their own, each with a table.`,
        term: `one table taken apart by ${column.name}`,
        asks: asks.map(({ ask }) => ask),
        operation: (answers) =>
          takeApart(design, table, column, kinds, ({ foreignKey: { id } }) => {
            const ask = asks.find(({ reference }) => reference.foreignKey.id === id)?.ask
            return ask ? thoseOf(ask, answers) : kinds
          })
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

/** Which kinds rows that refer here may refer to: those that they refer to by now, where there are any. */
function askKinds(table: Table, by: Column, kinds: readonly string[], reference: Reference): Several {
  const { table: child, foreignKey } = reference
  const valuesIn = (row: Row, ids: readonly ColumnId[]): string =>
    JSON.stringify(ids.map((id) => row[id] ?? null))
  const sought = new Set(child.rows.map((row) => valuesIn(row, columnsOfKey(foreignKey))))
  const key = foreignKey.pairs.map(({ refersTo }) => refersTo)
  const referred = table.rows.filter((row) => sought.has(valuesIn(row, key)))
  const found = kinds.filter((kind) => referred.some((row) => row[by.id] === kind))
  return {
    id: `of_${foreignKey.id}`,
    kind: 'several',
    asks: `Which of them a ${child.name} may refer to by ${namesIn(child, columnsOfKey(foreignKey))}`,
    options: kinds.map((kind) => ({ value: kind, words: kind })),
    proposed: found.length > 0 ? found : kinds
  }
}

function takeApart(
  design: Design,
  table: Table,
  by: Column,
  kinds: readonly string[],
  kindsOfReference: (reference: Reference) => readonly string[]
): Parsed<Operation> {
  return restructure(design, `take ${table.name} apart by ${by.name}`, (restructuring) => {
    mustBeOpen(table)
    const taken = design.tables.map(({ name }) => name)
    const parts = kinds.map((kind): SplitTable => {
      const name = freeName(tableName(kind, design.policy), taken)
      taken.push(name)
      return partOf(table, by, kind, name)
    })
    const naming = columnNamer()
    const nameOf = (child: Table, column: Column, part: SplitTable): string =>
      naming(
        child,
        renamedFor(column.name, singular(table.name), singular(part.made.name), design.policy.letterCase)
      )
    const referring = referencesTo(design, table.id).map((reference) =>
      followingOf(table, by, parts, reference, kindsOfReference(reference), nameOf)
    )
    const rows: RowQuery = { kind: 'table', table: table.id }
    const isKind = (kind: string): string => `{${by.id}} = ${said(kind)}`
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
        fills: referring.flatMap(({ there }) => there),
        requires: [
          {
            query: { kind: 'filter', of: rows, where: `not (${kinds.map(isKind).join(' or ')})` },
            says: `Some rows of ${table.name} are of none of these kinds.`
          },
          ...referring.flatMap(({ requires }) => requires)
        ]
      },
      {
        ...STILL,
        adds: [{ table: table.id, rows: together(by, parts) }],
        requires: clashes(table, by, parts)
      },
      ...parts.map(({ made }, at): Operation => ({
        kind: 'table.add',
        table: made,
        at: design.tables.indexOf(table) + at
      })),
      // From the last place on, so that the places before are what they were.
      ...[...referring].sort((one, other) => other.at - one.at).flatMap(({ adds }) => adds)
    )
    for (const { child, foreignKey, goals, back, check } of referring) {
      const copied = (id: ColumnId): ColumnId =>
        parts.find(({ made }) => made.id === goals[0]?.table)?.columns.get(id) ?? id
      followAnother(restructuring, child, foreignKey, goals, { back, copied })
      if (check) restructuring.do({ kind: 'check.add', table: child.id, check })
    }
    restructuring.do({ kind: 'table.remove', table: table.id })
  })
}

/** The rows of all parts as those of one table. */
const together = (by: Column, parts: readonly SplitTable[]): RowQuery => ({
  kind: 'union',
  of: parts.map((part) => ofWhole(by, part))
})

/** Nothing has the same key in two of the parts, which one table cannot hold. */
function clashes(table: Table, by: Column, parts: readonly SplitTable[]): Requirement[] {
  const key = table.primaryKey?.columns ?? []
  if (key.includes(by.id)) return []
  const names = listed(parts.map(({ made }) => made.name))
  const same = namesIn(table, key)
  return [
    {
      query: beyondFirst(together(by, parts), key, [{ column: by.id }]),
      says: `Rows of ${names} have the same ${same}, which rows of ${table.name} cannot. Give those of one another first.`
    }
  ]
}

/** A table of one kind: all that the whole one has but what told the kinds. */
function partOf(table: Table, by: Column, kind: string, name: string): SplitTable {
  const staying = table.columns.filter(({ id }) => id !== by.id)
  const columns = new Map(staying.map(({ id }) => [id, newId('c')]))
  const now = (id: ColumnId): ColumnId => columns.get(id) ?? id
  const within = (ids: readonly ColumnId[]): ColumnId[] => ids.filter((id) => id !== by.id).map(now)
  const key = within(table.primaryKey?.columns ?? [])
  if (key.length === 0) stuck(`${by.name} is all of the key of ${table.name}.`)
  const label = within(table.label ?? [])
  const isHeld = (condition: string): boolean =>
    columnsUsed(condition).length > 0 && !columnsUsed(condition).includes(by.id)
  const made: SplitTable['made'] = {
    ...emptyTable(name),
    ...(table.schema !== undefined && { schema: table.schema }),
    ...(label.length > 0 && { label }),
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
      })),
    indexes: table.indexes
      .filter(({ where }) => where === undefined || isHeld(where))
      .map(({ id: _, name: __, ...each }) => ({
        ...each,
        id: newId('i'),
        columns: each.columns
          .filter(({ column }) => column !== by.id)
          .map((of) => ({ ...of, column: now(of.column) })),
        ...(each.where !== undefined && { where: renameColumns(each.where, now) })
      }))
      .filter(({ columns: of }) => of.length > 0)
  }
  const computed = new Set(staying.filter((column) => column.computed !== undefined).map(({ id }) => id))
  return { kind, made, columns: new Map([...columns].filter(([id]) => !computed.has(id))) }
}
