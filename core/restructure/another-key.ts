import { isComparable } from '../carry/columns.ts'
import { STILL } from '../carry/flow.ts'
import type { Fill, Flow } from '../design/carry.ts'
import { columnsIn, generatedColumn, namesIn, sameSet } from '../design/directory.ts'
import { newId, type Column, type ColumnId, type Design, type Key, type Table } from '../design/model.ts'
import type { RowQuery } from '../design/row-query.ts'
import type { Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import { generatedKeyName } from '../naming/names.ts'
import { keepUnique, mustBeKey, rekey } from './rekey.ts'
import { restructure, type Restructuring } from './restructuring.ts'

/**
 * Makes a unique key the primary key, and the primary key a unique one beside it. Everything that
 * referred by the old key refers by the new, and so on down. Refuses, in words, where the key cannot be one.
 */
export function switchKey(design: Design, table: Table, unique: Key): Parsed<Operation> {
  return restructure(design, labelFor(table, unique.columns), (restructuring) =>
    becomeKey(restructuring, table, unique.columns)
  )
}

/** The same for columns of which no unique key is made yet: they are required first. */
export function switchTo(design: Design, table: Table, columns: readonly ColumnId[]): Parsed<Operation> {
  return restructure(design, labelFor(table, columns), (restructuring) => {
    for (const { id, required } of columnsIn(table, columns))
      if (!required) restructuring.do({ kind: 'column.require', table: table.id, column: id, required: true })
    becomeKey(restructuring, table, columns)
  })
}

const labelFor = (table: Table, columns: readonly ColumnId[]): string =>
  `make ${namesIn(table, columns)} the key of ${table.name}, and refer by it`

/** Makes columns that the table has by now its key; the old one stays unique. @throws Stuck */
function becomeKey(restructuring: Restructuring, { id }: Table, columns: readonly ColumnId[]): void {
  const table = restructuring.table(id)
  mustBeKey(restructuring, table, columns)
  const old = table.primaryKey
  if (!old) {
    const key: Key = { id: newId('k'), columns: [...columns] }
    restructuring.do({ kind: 'key.setPrimary', table: id, key })
    return
  }
  if (sameSet(old.columns, columns)) return
  rekey(restructuring, id, old.id, columns)
  keepUnique(restructuring, id, old.columns)
}

/**
 * A generated number as the primary key in place of a natural one, which stays unique beside it; what
 * refers to the table follows.
 */
export function generatedInstead(design: Design, table: Table): Parsed<Operation> {
  return restructure(design, `give ${table.name} a generated key, and refer by it`, (restructuring) => {
    becomeKey(restructuring, table, [addNumber(restructuring, table)])
  })
}

/** A generated number for each row of a table: one that it has by now, or a new one at the head of its columns. */
export function addNumber(restructuring: Restructuring, table: Table): ColumnId {
  const counted = generatedColumn(table)
  if (counted?.required && !table.primaryKey?.columns.includes(counted.id)) return counted.id
  const column: Column = {
    id: newId('c'),
    name: generatedKeyName(table, restructuring.design.policy),
    type: { kind: 'integer', size: 'normal' },
    required: true,
    default: { kind: 'generated' }
  }
  const add: Operation = { kind: 'column.add', table: table.id, column, at: 0 }
  const there = numbering(table, column)
  if (there) restructuring.carry(there, STILL, add)
  else restructuring.do({ ...add, values: table.rows.map((_, at) => at + 1) })
  return column.id
}

/** The rows of a table with a number each, in the order of its key; nothing where it has none to go by. */
function numbered(table: Table, as: ColumnId): { query: RowQuery; key: ColumnId[] } | undefined {
  const key = columnsIn(table, table.primaryKey?.columns ?? [])
  const hasOrder = key.length > 0 && key.every(({ type }) => isComparable(type))
  if (!hasOrder) return undefined
  const ids = key.map(({ id }) => id)
  const of: RowQuery = { kind: 'table', table: table.id }
  return { key: ids, query: { kind: 'number', of, as, by: ids.map((column) => ({ column })) } }
}

/** Lets a migration count a new column as the design's own rows are counted. */
function numbering(table: Table, { id }: Column): Flow | undefined {
  const rows = numbered(table, id)
  if (!rows) return undefined
  const fill: Fill = {
    table: table.id,
    columns: [{ id, from: id }],
    from: { kind: 'result', name: 'r_numbered' },
    on: rows.key.map((own) => ({ own, other: own }))
  }
  return { ...STILL, results: [{ name: 'r_numbered', query: rows.query }], fills: [fill] }
}
