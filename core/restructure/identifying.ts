import { isComparable } from '../carry/columns.ts'
import { STILL } from '../carry/flow.ts'
import type { Flow } from '../design/carry.ts'
import { columnsIn, namesIn, tableOf } from '../design/directory.ts'
import {
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
import { freeName, inCase } from '../naming/names.ts'
import { isIdentifying } from '../relate/junction.ts'
import { addNumber } from './another-key.ts'
import { answerTo, type OptionQuestion, type ChangeOfMind, type ChangeOffer } from './change.ts'
import { keepUnique, mustBeKey, rekey } from './rekey.ts'
import { restructure, stuck, type Restructuring } from './restructuring.ts'

/**
 * A relationship becomes identifying: the child's key is its parent's and something beside it; or
 * non-identifying: it goes by something of its own. What refers to the child follows, however deep.
 */
export const identifying: ChangeOfMind = (design, { table, foreignKey }) => {
  const parent = foreignKey && tableOf(design, foreignKey.table)
  if (!foreignKey || !parent || table.external || !table.primaryKey || parent.id === table.id) return []
  const isPart = isIdentifying(table, foreignKey)
  return isPart ? ownOffer(design, table, parent, foreignKey) : partOffer(design, table, parent, foreignKey)
}

const COUNTED = 'counted'

function partOffer(design: Design, child: Table, parent: Table, foreignKey: ForeignKey): ChangeOffer[] {
  const columns = foreignKey.pairs.map(({ column }) => column)
  const reference = columnsIn(child, columns)
  if (reference.some(({ required, computed }) => !required || computed !== undefined)) return []
  const rest = restOf(child, columns)
  const others = child.columns.filter(
    (column) =>
      column.required &&
      column.computed === undefined &&
      isComparable(column.type) &&
      !columns.includes(column.id) &&
      !rest.some(({ id }) => id === column.id)
  )
  const beside: OptionQuestion = {
    id: 'beside',
    kind: 'choice',
    asks: `What tells the ${child.name} of one ${parent.name} apart`,
    proposed: 'key',
    options: [
      { value: 'key', words: rest.map(({ name }) => name).join(', ') || 'nothing more' },
      ...others.map(({ id, name }) => ({ value: id, words: name })),
      { value: COUNTED, words: `a number that begins anew for each ${parent.name}` }
    ]
  }
  const old: OptionQuestion = {
    id: 'old',
    kind: 'choice',
    asks: `What becomes of ${namesIn(child, child.primaryKey?.columns ?? [])}, the key until now`,
    proposed: 'unique',
    options: [
      { value: 'unique', words: 'it stays, unique by itself' },
      { value: 'gone', words: 'it goes, where nothing else needs it' }
    ]
  }
  return [
    {
      kind: 'identifying',
      says: `Each ${child.name} is told apart within its ${parent.name}, whose key is part of its own.`,
      term: 'non-identifying becomes identifying',
      asks: [beside, old],
      operation: (answers) =>
        becomePart(design, child, parent, columns, {
          beside: answerTo(beside, answers),
          isGone: answerTo(old, answers) === 'gone'
        })
    }
  ]
}

const restOf = (child: Table, columns: readonly ColumnId[]): Column[] =>
  columnsIn(child, child.primaryKey?.columns ?? []).filter(({ id }) => !columns.includes(id))

function becomePart(
  design: Design,
  child: Table,
  parent: Table,
  columns: readonly ColumnId[],
  { beside, isGone }: { beside: string; isGone: boolean }
): Parsed<Operation> {
  return restructure(design, `let ${parent.name} identify ${child.name}`, (restructuring) => {
    const old = child.primaryKey ?? stuck(`${child.name} has no key.`)
    const more =
      beside === COUNTED
        ? [countWithin(restructuring, child, parent, columns)]
        : beside === 'key'
          ? restOf(child, columns).map(({ id }) => id)
          : [beside]
    const key = [...columns, ...more]
    mustBeKey(restructuring, restructuring.table(child.id), key)
    rekey(restructuring, child.id, old.id, key)
    const isWithin = old.columns.every((id) => key.includes(id))
    if (isWithin && beside === 'key') return
    if (isGone)
      leaveIdle(
        restructuring,
        child,
        old.columns.filter((id) => !key.includes(id))
      )
    else keepUnique(restructuring, child.id, old.columns)
  })
}

/** Columns that stand in no key and no reference any more go. */
function leaveIdle(restructuring: Restructuring, child: Table, columns: readonly ColumnId[]): void {
  const isInReference = (id: ColumnId): boolean =>
    restructuring.table(child.id).foreignKeys.some(({ pairs }) => pairs.some(({ column }) => column === id))
  const idle = columns.filter((id) => !isInReference(id))
  restructuring.do(...idle.map((column): Operation => ({ kind: 'column.remove', table: child.id, column })))
}

/** A new column that numbers the rows of each parent from 1 on, in the order of the key until now. */
function countWithin(
  restructuring: Restructuring,
  child: Table,
  parent: Table,
  columns: readonly ColumnId[]
): ColumnId {
  const { letterCase } = restructuring.design.policy
  const column: Column = {
    id: newId('c'),
    name: freeName(
      inCase(`${child.name}_no`, letterCase),
      child.columns.map(({ name }) => name)
    ),
    type: { kind: 'integer', size: 'normal' },
    required: true
  }
  const key = child.primaryKey?.columns ?? []
  if (columnsIn(child, key).some(({ type }) => !isComparable(type)))
    stuck(
      `The key of ${child.name} gives its rows no order, so that those of one ${parent.name} cannot be numbered.`
    )
  restructuring.carry(numberedWithin(child, columns, key, column.id), STILL, {
    kind: 'column.add',
    table: child.id,
    column,
    at: Math.max(...columns.map((id) => child.columns.findIndex((each) => each.id === id))) + 1
  })
  return column.id
}

/** Each row's place among all, less that of the first of its parent. */
function numberedWithin(
  child: Table,
  columns: readonly ColumnId[],
  key: readonly ColumnId[],
  made: ColumnId
): Flow {
  const all: RowQuery = { kind: 'result', name: 'r_all' }
  const of: RowQuery = { kind: 'table', table: child.id }
  const first: RowQuery = { kind: 'first', of: all, per: [...columns], by: [{ column: 'j_no' }] }
  const begins: RowQuery = {
    kind: 'project',
    of: first,
    columns: [...columns.map((from, at) => ({ id: `j_of_${at}`, from })), { id: 'j_first', from: 'j_no' }]
  }
  const within: RowQuery = {
    kind: 'project',
    of: {
      kind: 'join',
      left: all,
      right: begins,
      on: columns.map((left, at) => ({ left, right: `j_of_${at}` })),
      unmatched: 'dropped'
    },
    columns: [
      ...key.map((from, at) => ({ id: `j_key_${at}`, from })),
      { id: 'j_within', type: { kind: 'integer', size: 'normal' }, is: '{j_no} - {j_first} + 1' }
    ]
  }
  return {
    ...STILL,
    results: [
      {
        name: 'r_all',
        query: { kind: 'number', of, as: 'j_no', by: [...columns, ...key].map((column) => ({ column })) }
      }
    ],
    fills: [
      {
        table: child.id,
        columns: [{ id: made, from: 'j_within' }],
        from: within,
        on: key.map((own, at) => ({ own, other: `j_key_${at}` })),
        partly: true
      }
    ]
  }
}

function ownOffer(design: Design, child: Table, parent: Table, foreignKey: ForeignKey): ChangeOffer[] {
  const columns = foreignKey.pairs.map(({ column }) => column)
  const rest = restOf(child, columns)
  if (rest.length === 0) return []
  const by: OptionQuestion = {
    id: 'by',
    kind: 'choice',
    asks: `What ${child.name} goes by`,
    proposed: 'number',
    options: [
      { value: 'number', words: 'a number of its own; the key until now stays unique' },
      { value: 'rest', words: `${rest.map(({ name }) => name).join(', ')} alone` }
    ]
  }
  return [
    {
      kind: 'non-identifying',
      says: `Each ${child.name} goes by a key of its own, and may change its ${parent.name} and stay the same.`,
      term: 'identifying becomes non-identifying',
      asks: [by],
      operation: (answers) =>
        restructure(design, `let ${child.name} go by a key of its own`, (restructuring) => {
          const old = child.primaryKey ?? stuck(`${child.name} has no key.`)
          const isNumber = answerTo(by, answers) === 'number'
          const key = isNumber ? [addNumber(restructuring, child)] : rest.map(({ id }) => id)
          mustBeKey(restructuring, restructuring.table(child.id), key)
          rekey(restructuring, child.id, old.id, key)
          if (isNumber) keepUnique(restructuring, child.id, old.columns)
        })
    }
  ]
}
