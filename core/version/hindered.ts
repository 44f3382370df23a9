import { carryRows } from '../carry/apply.ts'
import { BrokenQuery } from '../carry/columns.ts'
import { NeedsEngine } from '../carry/evaluate.ts'
import { byId } from '../design/by-id.ts'
import { tableOf } from '../design/directory.ts'
import { tidyRow, type Column, type Design, type Row, type Table } from '../design/model.ts'
import { typeText } from '../design/type.ts'
import { fits, type Value } from '../design/value.ts'
import { violations, type Violation } from '../design/violations.ts'
import type { Catalog } from '../dialect/catalog.ts'
import type { ColumnOfTable } from '../dialect/migration.ts'
import { constraintsOf } from '../dialect/step.ts'
import type { Moves } from './moves.ts'

/** A row of the design that a migration would stop at, and why. */
export interface Hindrance {
  table: string
  message: string
}

/**
 * The rows of a state that stand in the way of another: what they come to there is what cannot be. Nothing
 * can be told of rows that only an engine can work out.
 * @param held what the dialect comes to, since not every one holds rows to every rule
 */
export function hindrances(from: Design, to: Design, moves: Moves, held: Catalog): Hindrance[] {
  const tables = byId(held.tables)
  const isHeld = ({ kind, table, of }: Violation): boolean => {
    const catalog = tables.get(table)
    if (kind === 'minimum')
      return held.tables.some(({ foreignKeys }) =>
        foreignKeys.some(({ id, atLeastOne }) => id === of && atLeastOne)
      )
    return (
      kind === 'required' ||
      (catalog !== undefined && constraintsOf(catalog).some(({ key }) => key.id === of))
    )
  }
  try {
    const { design, unfit, asked } = rowsThere(to, moves)
    const violated = violations(design).filter((each) => isTouched(from, to, each.table) && isHeld(each))
    return [...asked, ...unfit, ...violated.map(({ table, message }) => ({ table, message }))]
  } catch (error) {
    if (error instanceof NeedsEngine || error instanceof BrokenQuery) return []
    throw error
  }
}

/** Whether a table, or one that it refers to, is another than it was. */
function isTouched(from: Design, to: Design, id: string): boolean {
  const isOther = (table: string): boolean => tableOf(from, table) !== tableOf(to, table)
  return isOther(id) || (tableOf(to, id)?.foreignKeys.some(({ table }) => isOther(table)) ?? false)
}

/** The second state with the rows of the first, as they are carried there. */
function rowsThere(
  to: Design,
  { flow, early, grown }: Moves
): { design: Design; unfit: Hindrance[]; asked: Hindrance[] } {
  const counted = withCounted(grown, to, early)
  const { rows, hindrances: stopped } = carryRows(flow, counted)
  const unfit: Hindrance[] = []
  const tables = to.tables.map((table): Table => {
    const before = tableOf(counted, table.id)
    const carried = rows.get(table.id)
    if (!carried && before === table) return table
    const start = carried ?? before?.rows ?? []
    const taken = start.map((row, at) => {
      for (const column of table.columns) {
        const value = row[column.id]
        if (value !== undefined && !fits(value, column.type, to.enums))
          unfit.push({ table: table.id, message: sayUnfit(table, at, column, value, to) })
      }
      return inPlace(row, table, before, to)
    })
    return { ...table, rows: taken }
  })
  const asked = stopped.map(({ says }) => ({ table: '', message: says }))
  return { design: { ...to, tables }, unfit, asked }
}

function sayUnfit(table: Table, at: number, { name, type }: Column, value: Value, { enums }: Design): string {
  return `Row ${at + 1} of ${table.name} has “${String(value)}” in ${name}, which cannot be one of ${typeText(type, enums)}.`
}

/** A row with the columns that there are, and defaults where the engine puts them in. */
function inPlace(row: Row, table: Table, before: Table | undefined, { enums }: Design): Row {
  const had = byId(before?.columns ?? [])
  const values = table.columns
    .filter(({ computed }) => computed === undefined)
    .map((column): [string, Value | null] => {
      const value = row[column.id] ?? null
      const isFilled = value === null && (column.required || !had.has(column.id))
      const filled = isFilled && column.default?.kind === 'value' ? column.default.value : value
      return [column.id, filled !== null && fits(filled, column.type, enums) ? filled : null]
    })
  return tidyRow(Object.fromEntries(values))
}

/** The state that a flow reads, with numbers where the engine counts them. */
function withCounted(grown: Design, to: Design, early: readonly ColumnOfTable[]): Design {
  if (early.length === 0) return grown
  const isCounted = (table: string, { id, default: begins }: Column): boolean =>
    begins?.kind === 'generated' && early.some((place) => place.table === table && place.column === id)
  const tables = grown.tables.map((table): Table => {
    const counted = tableOf(to, table.id)?.columns.filter((column) => isCounted(table.id, column)) ?? []
    if (counted.length === 0) return table
    const rows = table.rows.map((row, at) => ({
      ...Object.fromEntries(counted.map(({ id }) => [id, at + 1])),
      ...row
    }))
    return { ...table, rows }
  })
  return { ...grown, tables }
}
