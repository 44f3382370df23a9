import { isComparable } from '../carry/columns.ts'
import { STILL } from '../carry/flow.ts'
import type { Flow } from '../design/carry.ts'
import { columnOf, columnsIn, namesIn, tableOf } from '../design/directory.ts'
import type { Column, ColumnId, Design, ForeignKey, Table } from '../design/model.ts'
import type { Order, RowQuery } from '../design/row-query.ts'
import type { Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import { plural } from '../naming/words.ts'
import { answerTo, askColumns, askWhich, thoseOf, type ChangeOfMind, type ChangeOffer } from './change.ts'
import { adding, columnsOver, freeColumns, goOver, type Over } from './columns-over.ts'
import { beyondFirst } from './queries.ts'
import { restructure, stuck } from './restructuring.ts'

/**
 * Columns, and the relationships that they make, stand on the wrong table: they move along a reference, from the row
 * that refers to the one referred to, or the other way.
 */
export const moveColumns: ChangeOfMind = (design, { table, foreignKey }) => {
  const parent = foreignKey && tableOf(design, foreignKey.table)
  if (!foreignKey || !parent || parent.id === table.id || table.external || parent.external) return []
  return [...upOffer(design, table, parent, foreignKey), ...downOffer(design, table, parent, foreignKey)]
}

/** Columns that may move: references with all of their columns. */
function movable(design: Design, table: Table, foreignKey: ForeignKey | undefined): Column[] {
  const own = foreignKey?.pairs.map(({ column }) => column) ?? []
  return freeColumns(design, table).filter(({ id }) => !own.includes(id))
}

/** Refuses a choice that takes some columns of a reference and leaves others. */
function mustBeWhole(table: Table, columns: readonly ColumnId[]): void {
  if (columns.length === 0) stuck('Choose a column that is to move.')
  for (const { pairs } of table.foreignKeys) {
    const ids = pairs.map(({ column }) => column)
    const taken = ids.filter((id) => columns.includes(id))
    if (taken.length > 0 && taken.length < ids.length)
      stuck(`${namesIn(table, ids)} refer together, so they move together.`)
  }
}

function upOffer(design: Design, child: Table, parent: Table, foreignKey: ForeignKey): ChangeOffer[] {
  const columns = movable(design, child, foreignKey)
  if (columns.length === 0) return []
  const which = askColumns(
    'which',
    `What moves from ${child.name} to ${parent.name}`,
    columns,
    proposedOf(child, columns)
  )
  const differ = askWhich(
    'differ',
    `Where the ${plural(child.name)} of one ${parent.name} differ`,
    child.name
  )
  return [
    {
      kind: 'columns up',
      says: `What each ${child.name} says is said once, of its ${parent.name}.`,
      term: 'columns or a relationship moved one table up',
      asks: [which, differ],
      operation: (answers) =>
        moveUp(design, child, parent, foreignKey, thoseOf(which, answers), answerTo(differ, answers))
    }
  ]
}

/** A whole reference, where there is one, or the first column. */
function proposedOf(table: Table, columns: readonly Column[]): string[] {
  const isFree = (id: ColumnId): boolean => columns.some((each) => each.id === id)
  const reference = table.foreignKeys.find(({ pairs }) => pairs.every(({ column }) => isFree(column)))
  const first = columns[0]?.id
  return reference ? reference.pairs.map(({ column }) => column) : first === undefined ? [] : [first]
}

function moveUp(
  design: Design,
  child: Table,
  parent: Table,
  foreignKey: ForeignKey,
  columns: readonly ColumnId[],
  differ: string
): Parsed<Operation> {
  const names = namesIn(child, columns)
  return restructure(design, `move ${names} from ${child.name} to ${parent.name}`, (restructuring) => {
    mustBeWhole(child, columns)
    const over = columnsOver(
      columnsIn(child, columns),
      parent.columns.map(({ name }) => name),
      () => false
    )
    const there = firstSaid(child, parent, foreignKey, over, differ)
    const back = lookedUp(child, parent, foreignKey, over)
    restructuring.carry(there, back, ...adding(parent, over))
    goOver(restructuring, child.id, parent.id, over)
  })
}

/** What the first, or last, of the rows that refer to a row says, where it says anything. */
function firstSaid(child: Table, parent: Table, foreignKey: ForeignKey, over: Over, differ: string): Flow {
  const key = columnsIn(child, child.primaryKey?.columns ?? [])
  if (key.length === 0 || key.some(({ type }) => !isComparable(type)))
    stuck(`${child.name} has no key that puts its rows in order. Give it one first.`)
  const says = [...over.keys()]
  const isSaid = says.map((id) => `{${id}} is not null`).join(' or ')
  const rows: RowQuery = { kind: 'filter', of: { kind: 'table', table: child.id }, where: isSaid }
  const per = foreignKey.pairs.map(({ column }) => column)
  const by = key.map(({ id }): Order => ({
    column: id,
    ...(differ === 'last' && { descending: true as const })
  }))
  return {
    ...STILL,
    fills: [
      {
        table: parent.id,
        columns: says.map((from) => ({ id: over.get(from)?.id ?? '', from })),
        from: { kind: 'first', of: rows, per, by },
        on: foreignKey.pairs.map(({ column, refersTo }) => ({ own: refersTo, other: column })),
        partly: true
      }
    ],
    requires:
      differ === 'none'
        ? [
            {
              query: otherSaid(child, rows, per, says),
              says: `The ${plural(child.name)} of one ${parent.name} differ in ${namesIn(child, says)}.`
            }
          ]
        : []
  }
}

/** What is said of one row in more than one way. */
function otherSaid(
  child: Table,
  rows: RowQuery,
  per: readonly ColumnId[],
  says: readonly ColumnId[]
): RowQuery {
  const columns = [...per, ...says].map((id) => ({ id, from: id }))
  const incomparable = columnsIn(child, says).find(({ type }) => !isComparable(type))
  if (incomparable)
    stuck(`Values of ${incomparable.name} cannot be compared, so choose which ${child.name} has the say.`)
  const leads = per.map((id) => `{${id}} is not null`).join(' and ')
  const referring: RowQuery = { kind: 'filter', of: rows, where: leads }
  const told: RowQuery = { kind: 'distinct', of: { kind: 'project', of: referring, columns } }
  return beyondFirst(
    told,
    per,
    [...per, ...says].map((column) => ({ column }))
  )
}

/** Each row has what the row has that it refers to. */
function lookedUp(child: Table, parent: Table, foreignKey: ForeignKey, over: Over): Flow {
  return {
    ...STILL,
    fills: [
      {
        table: child.id,
        columns: [...over].map(([id, { id: from }]) => ({ id, from })),
        from: { kind: 'table', table: parent.id },
        on: foreignKey.pairs.map(({ column, refersTo }) => ({ own: column, other: refersTo })),
        // A row that said nothing says nothing again.
        partly: true
      }
    ]
  }
}

function downOffer(design: Design, child: Table, parent: Table, foreignKey: ForeignKey): ChangeOffer[] {
  const columns = movable(design, parent, undefined)
  if (columns.length === 0) return []
  const which = askColumns(
    'which',
    `What moves from ${parent.name} to ${child.name}`,
    columns,
    proposedOf(parent, columns)
  )
  return [
    {
      kind: 'columns down',
      says: `What was said once of each ${parent.name} is said by each ${child.name} for itself.`,
      term: 'columns or a relationship moved one table down',
      asks: [which],
      operation: (answers) => moveDown(design, child, parent, foreignKey, thoseOf(which, answers))
    }
  ]
}

function moveDown(
  design: Design,
  child: Table,
  parent: Table,
  foreignKey: ForeignKey,
  columns: readonly ColumnId[]
): Parsed<Operation> {
  const names = namesIn(parent, columns)
  return restructure(design, `move ${names} from ${parent.name} to ${child.name}`, (restructuring) => {
    mustBeWhole(parent, columns)
    const isSure = foreignKey.pairs.every(({ column }) => columnOf(child, column)?.required)
    const taken = child.columns.map(({ name }) => name)
    const over = columnsOver(columnsIn(parent, columns), taken, ({ required }) => required && isSure)
    const reversed: Over = new Map([...over].map(([from, { id }]) => [id, columnOf(parent, from) as Column]))
    const there = lookedUp(child, parent, foreignKey, reversed)
    const later: Table = { ...child, columns: [...child.columns, ...over.values()] }
    const back = firstSaid(later, parent, foreignKey, reversed, 'first')
    restructuring.carry(there, back, ...adding(child, over))
    goOver(restructuring, parent.id, child.id, over)
  })
}
