import { expressionOf } from './expressions.ts'
import { columnOf, tableOf } from './directory.ts'
import { textOfKey } from './key-text.ts'
import type { Column, Design, Row, Table } from './model.ts'
import { placesBy } from './row-index.ts'
import { typedValue, type Value } from './value.ts'
import { once } from '../once.ts'
import { evaluateExpression } from '../sql/evaluate.ts'

/** The last number that each column has counted to, by the column's id. */
export type Counters = Map<string, bigint>

const START = '2000-01-01 00:00:00'

/**
 * A row as an INSERT makes it that names only some columns: numbers that are counted, defaults, and what is copied
 * from the row that it refers to.
 */
export function filledRow(
  design: Design,
  table: Table,
  row: Row,
  counters: Counters,
  now: string = START
): Row {
  const filled: Row = {}
  for (const column of table.columns) {
    if (column.computed !== undefined) continue
    const isCounted = column.default?.kind === 'generated'
    const said = row[column.id]
    if (said !== undefined && !(isCounted && said === null)) filled[column.id] = said
    else if (isCounted) filled[column.id] = counted(table, column, counters)
    else filled[column.id] = copied(design, table, column, row) ?? valueByDefault(column, now)
    if (isCounted) noteCount(table, column, filled[column.id], counters)
  }
  return filled
}

/** What a column holds that nothing is said of; of a number that is counted, nothing. */
export function valueByDefault(column: Column | undefined, now: string = START): Value {
  const begins = column?.default
  if (!column || !begins || begins.kind === 'generated') return null
  if (begins.kind === 'value') return begins.value
  if (begins.kind === 'now') return momentAs(column, now)
  const value = evaluateExpression(expressionOf(begins.expression), () => undefined)
  return value === undefined ? null : typedValue(value, column.type)
}

function momentAs({ type }: Column, now: string): Value {
  if (type.kind === 'date') return now.slice(0, 10)
  return type.kind === 'time' ? now.slice(11, 19) : now
}

const largest = once((table: Table): ReadonlyMap<string, bigint> => {
  const counted = table.columns.filter((column) => column.default?.kind === 'generated')
  return new Map(
    counted.map(({ id }) => [
      id,
      table.rows.reduce((most, row) => {
        const number = numberIn(row[id])
        return number !== undefined && number > most ? number : most
      }, 0n)
    ])
  )
})

function numberIn(value: Value | undefined): bigint | undefined {
  return /^-?\d+$/.test(String(value ?? '')) ? BigInt(String(value)) : undefined
}

function counted(table: Table, { id }: Column, counters: Counters): Value {
  const next = (counters.get(id) ?? largest(table).get(id) ?? 0n) + 1n
  return Number.isSafeInteger(Number(next)) ? Number(next) : next.toString()
}

function noteCount(table: Table, { id }: Column, value: Value | undefined, counters: Counters): void {
  const last = counters.get(id) ?? largest(table).get(id) ?? 0n
  const number = numberIn(value)
  if (number !== undefined && number > last) counters.set(id, number)
}

/** What a column takes from the row referred to; nothing where it copies none, or refers to nothing. */
function copied(design: Design, table: Table, { copied: from }: Column, row: Row): Value | undefined {
  const key = from && table.foreignKeys.find(({ id }) => id === from.foreignKey)
  const parent = key && tableOf(design, key.table)
  if (!from || !parent) return undefined
  const its = key.pairs.map(({ refersTo }) => refersTo)
  const types = its.flatMap((id) => columnOf(parent, id) ?? [])
  const own = key.pairs.map(({ column }) => column)
  const text = textOfKey(table, own, row, types)
  const place = text === undefined ? undefined : placesBy(parent, its, text)[0]
  return place === undefined ? undefined : parent.rows[place]?.[from.column]
}
