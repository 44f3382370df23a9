import { isComparable } from '../carry/columns.ts'
import { filled, STILL } from '../carry/flow.ts'
import type { Flow } from '../design/carry.ts'
import { columnOf, columnsIn, referencesTo, tableOf } from '../design/directory.ts'
import type { Column, Design, ForeignKey, Table } from '../design/model.ts'
import type { RowQuery } from '../design/row-query.ts'
import type { Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import { isSingle, readingOf } from '../relate/reading.ts'
import { askColumns, thoseOf, type ChangeOfMind, type ChangeOffer } from './change.ts'
import { adding, columnsOver, mustBeAlone, rulesOver, type Over } from './columns-over.ts'
import { restructure, stuck } from './restructuring.ts'

/**
 * Two tables become one again: what a row has at most one of stands in the row itself; or what rows refer to stands
 * in each of them.
 */
export const merge: ChangeOfMind = (design, { table, foreignKey }) => {
  const parent = foreignKey && tableOf(design, foreignKey.table)
  if (!foreignKey || !parent || parent.id === table.id || table.external || parent.external) return []
  return [...intoParent(design, table, parent, foreignKey), ...intoChild(design, table, parent, foreignKey)]
}

const plainColumns = (table: Table, but: readonly string[]): Column[] =>
  table.columns.filter(
    ({ id, computed, default: begins }) =>
      !but.includes(id) && computed === undefined && begins?.kind !== 'generated'
  )

function intoParent(design: Design, child: Table, parent: Table, foreignKey: ForeignKey): ChangeOffer[] {
  const own = foreignKey.pairs.map(({ column }) => column)
  const isOne = isSingle(readingOf(child, foreignKey))
  const columns = plainColumns(child, own)
  if (!isOne || columns.length === 0) return []
  const which = askColumns(
    'which',
    `What goes along into ${parent.name}`,
    columns,
    columns.map(({ id }) => id)
  )
  return [
    {
      kind: 'merged into its one',
      says: `What a ${child.name} says of its ${parent.name}, the ${parent.name} says itself.`,
      term: 'one-to-one merged into one table',
      asks: [which],
      operation: (answers) => mergeIntoParent(design, child, parent, foreignKey, thoseOf(which, answers))
    }
  ]
}

function mergeIntoParent(
  design: Design,
  child: Table,
  parent: Table,
  foreignKey: ForeignKey,
  which: readonly string[]
): Parsed<Operation> {
  return restructure(design, `merge ${child.name} into ${parent.name}`, (restructuring) => {
    mustBeAlone(restructuring, child, 'and it would be gone')
    if (which.length === 0) stuck('Choose a column that goes along.')
    const over = columnsOver(
      columnsIn(child, which),
      parent.columns.map(({ name }) => name),
      () => false
    )
    const there: Flow = {
      ...STILL,
      fills: [
        {
          table: parent.id,
          columns: [...over].map(([from, { id }]) => ({ id, from })),
          from: { kind: 'table', table: child.id },
          on: foreignKey.pairs.map(({ column, refersTo }) => ({ own: refersTo, other: column })),
          partly: true
        }
      ]
    }
    const isAny = [...over.values()].map(({ id }) => `{${id}} is not null`).join(' or ')
    const needed = [...over].filter(([id]) => columnOf(child, id)?.required).map(([, { id }]) => id)
    const rows: RowQuery = { kind: 'filter', of: { kind: 'table', table: parent.id }, where: isAny }
    const back: Flow = {
      ...STILL,
      adds: [
        {
          table: child.id,
          rows: {
            kind: 'project',
            of: filled(rows, needed),
            columns: [
              ...foreignKey.pairs.map(({ column, refersTo }) => ({ id: column, from: refersTo })),
              ...[...over].map(([id, { id: from }]) => ({ id, from }))
            ]
          }
        }
      ]
    }
    restructuring.carry(there, back, ...adding(parent, over))
    rulesOver(restructuring, child.id, parent.id, over)
    restructuring.do({ kind: 'table.remove', table: child.id })
  })
}

function intoChild(design: Design, child: Table, parent: Table, foreignKey: ForeignKey): ChangeOffer[] {
  const others = referencesTo(design, parent.id)
  if (others.length !== 1 || parent.foreignKeys.some(({ table }) => table === parent.id)) return []
  const referred = foreignKey.pairs.map(({ refersTo }) => refersTo)
  const columns = plainColumns(parent, referred)
  const which = askColumns(
    'which',
    `What goes along into ${child.name}`,
    columns,
    columns.map(({ id }) => id)
  )
  return [
    {
      kind: 'merged into each',
      says: `What a ${parent.name} says, each ${child.name} of it says for itself.`,
      term: 'a lookup table merged back',
      asks: columns.length > 0 ? [which] : [],
      operation: (answers) =>
        mergeIntoChild(design, child, parent, foreignKey, columns.length > 0 ? thoseOf(which, answers) : [])
    }
  ]
}

/** What a row refers to stands in it; the columns that referred stay, and tell what is of one and what of another. */
function mergeIntoChild(
  design: Design,
  child: Table,
  parent: Table,
  foreignKey: ForeignKey,
  which: readonly string[]
): Parsed<Operation> {
  return restructure(design, `merge ${parent.name} into ${child.name}`, (restructuring) => {
    const referred = columnsIn(
      parent,
      foreignKey.pairs.map(({ refersTo }) => refersTo)
    )
    if (referred.some(({ type }) => !isComparable(type)))
      stuck(`${parent.name} is referred to by what cannot be compared in every engine.`)
    const over = columnsOver(
      columnsIn(parent, which),
      child.columns.map(({ name }) => name),
      () => false
    )
    const there: Flow = {
      ...STILL,
      fills:
        over.size === 0
          ? []
          : [
              {
                table: child.id,
                columns: [...over].map(([from, { id }]) => ({ id, from })),
                from: { kind: 'table', table: parent.id },
                on: foreignKey.pairs.map(({ column, refersTo }) => ({ own: column, other: refersTo })),
                partly: true
              }
            ]
    }
    restructuring.carry(there, saidAgain(child, parent, foreignKey, over), ...adding(child, over))
    rulesOver(restructuring, parent.id, child.id, over)
    const copies = child.columns.filter(({ copied }) => copied?.foreignKey === foreignKey.id)
    restructuring.do(
      ...copies.map(({ id }): Operation => ({
        kind: 'column.copy',
        table: child.id,
        column: id,
        copied: null
      })),
      { kind: 'foreignKey.remove', table: child.id, foreignKey: foreignKey.id },
      { kind: 'table.remove', table: parent.id }
    )
  })
}

/** A row for each key that rows have, with what the first of them says. */
function saidAgain(child: Table, parent: Table, foreignKey: ForeignKey, over: Over): Flow {
  const key = child.primaryKey?.columns ?? []
  if (key.length === 0) stuck(`${child.name} has no key that puts its rows in order. Give it one first.`)
  const per = foreignKey.pairs.map(({ column }) => column)
  const rows: RowQuery = {
    kind: 'first',
    of: filled({ kind: 'table', table: child.id }, per),
    per,
    by: key.map((column) => ({ column }))
  }
  return {
    ...STILL,
    adds: [
      {
        table: parent.id,
        rows: {
          kind: 'project',
          of: rows,
          columns: [
            ...foreignKey.pairs.map(({ column, refersTo }) => ({ id: refersTo, from: column })),
            ...[...over].map(([id, { id: from }]) => ({ id, from }))
          ]
        }
      }
    ]
  }
}
