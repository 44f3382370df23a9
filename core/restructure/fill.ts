import { isComparable } from '../carry/columns.ts'
import { STILL } from '../carry/flow.ts'
import type { Carry, Fill, Flow, Flowing } from '../design/carry.ts'
import { columnOf, keysOf, tableOf } from '../design/directory.ts'
import { newId, type Column, type ColumnId, type Design, type Table } from '../design/model.ts'
import type { Parsed } from '../design/type.ts'
import type { Value } from '../design/value.ts'
import type { Operation } from '../edit/operation.ts'
import { rowsThere } from './rows.ts'

/**
 * What rows that are there hold in a column where they have nothing: one value, what an expression over the
 * row gives (as a design keeps it), or what stands in the row that a reference leads to.
 */
export type Filling = { value: Value } | { is: string } | { foreignKey: string; column: ColumnId }

/**
 * Fills a column in the rows that are there, the design's own at once and a database's by its migration.
 * What was to fill it since the last version is put for by this; `undefined` takes that away. Refuses, in
 * words, where rows cannot be found again.
 * @param since the last version, whose carries stay
 */
export function fillColumn(
  design: Design,
  table: Table,
  column: Column,
  filling: Filling | undefined,
  since: Design | undefined
): Parsed<Operation> {
  const before = fillingOf(design, table.id, column.id, since)
  const removes: Operation[] = before ? [{ kind: 'carry.remove', carry: before.id }] : []
  if (!filling) return done(column, 'fill nothing in', removes)
  const fill = filledBy(design, table, column, filling)
  if (!fill.ok) return fill
  const there: Flow = { ...STILL, fills: [fill.value] }
  const carry: Flowing = { id: newId('y'), there, back: STILL }
  const rows = rowsThere(design, there, table.id)
  return done(column, 'fill', [
    ...removes,
    { kind: 'carry.add', carry },
    ...(rows.length > 0 ? [{ kind: 'table.setRows' as const, table: table.id, rows: [...rows] }] : [])
  ])
}

const done = (column: Column, label: string, operations: Operation[]): Parsed<Operation> => ({
  ok: true,
  value: { kind: 'batch', label: `${label} ${column.name}`, operations }
})

function filledBy(design: Design, table: Table, column: Column, filling: Filling): Parsed<Fill> {
  const to = { table: table.id, whereEmpty: true as const }
  if ('foreignKey' in filling) {
    const foreignKey = table.foreignKeys.find((each) => each.id === filling.foreignKey)
    const source = foreignKey && tableOf(design, foreignKey.table)
    if (!foreignKey || !source || !columnOf(source, filling.column))
      return { ok: false, message: `What ${column.name} was to be copied from is no longer there.` }
    return {
      ok: true,
      value: {
        ...to,
        columns: [{ id: column.id, from: filling.column }],
        from: { kind: 'table', table: source.id },
        on: foreignKey.pairs.map((pair) => ({ own: pair.column, other: pair.refersTo }))
      }
    }
  }
  const isSure = (id: ColumnId): boolean => {
    const own = columnOf(table, id)
    return own?.required === true && own.computed === undefined && id !== column.id && isComparable(own.type)
  }
  const key = keysOf(table).find((each) => each.columns.every(isSure))
  if (!key)
    return {
      ok: false,
      message: `${table.name} has no key by which its rows are found. Give it one, or give ${column.name} a default.`
    }
  const value = 'value' in filling ? { value: filling.value } : { is: filling.is }
  return {
    ok: true,
    value: {
      ...to,
      columns: [{ id: column.id, from: VALUE }],
      from: {
        kind: 'project',
        of: { kind: 'table', table: table.id },
        columns: [...key.columns.map((id) => ({ id, from: id })), { id: VALUE, type: column.type, ...value }]
      },
      on: key.columns.map((id) => ({ own: id, other: id }))
    }
  }
}

/** What the value goes by in the query that gives it. */
const VALUE = 'j_value'

/** The carry that fills a column where it is empty, and does nothing else, and is in no version yet. */
export function fillingOf(
  design: Design,
  table: string,
  column: ColumnId,
  since: Design | undefined
): Carry | undefined {
  return design.carries.find((carry) => {
    if (since?.carries.some(({ id }) => id === carry.id)) return false
    if (!('there' in carry) || carry.there.adds.length > 0) return false
    const [fill, ...others] = carry.there.fills
    const isOnly = others.length === 0 && fill?.columns.length === 1
    return isOnly && fill.whereEmpty === true && fill.table === table && fill.columns[0]?.id === column
  })
}
