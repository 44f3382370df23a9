import { columnOf, keysOf, tableOf } from '../design/directory.ts'
import { tidyRow, type Column, type Design, type Row, type Table } from '../design/model.ts'
import type { Type } from '../design/type.ts'
import { intervalText, type Value } from '../design/value.ts'
import { violations } from '../design/violations.ts'
import { computedFits, evaluate, meetsChecks } from '../design/evaluate.ts'

/** How many rows a table without rows of its own is given. */
const ROWS = 3

/**
 * The design with a few made-up rows in each table that has none, so that a migration can be tried with
 * rows. Deterministic; keys are kept and references point at rows that are there. Tables that need each other
 * get a row each where the engine can be given them together, and stay empty where it cannot.
 */
export function withSampleRows(design: Design, { together = true } = {}): Design {
  const rows = new Map<string, Row[]>(design.tables.map((table) => [table.id, table.rows]))
  const filled = new Set(design.tables.filter((table) => table.rows.length > 0).map((table) => table.id))
  // Each round fills the tables whose parents have been filled or may be left out; the rounds are as many
  // as the longest chain.
  for (let progress = true; progress;) {
    progress = false
    for (const table of design.tables) {
      if (filled.has(table.id) || !ready(table, filled)) continue
      rows.set(table.id, sampleRows(design, table, rows))
      filled.add(table.id)
      progress = true
    }
    if (progress) continue
    for (const [id, row] of rowsTogether(design, filled, rows, together)) {
      rows.set(id, [row])
      filled.add(id)
      progress = true
    }
  }
  const made = {
    ...design,
    tables: design.tables.map((table) => ({ ...table, rows: rows.get(table.id)?.map(tidyRow) ?? [] }))
  }
  return withEachItsOne(
    made,
    new Set(design.tables.filter((each) => each.rows.length === 0).map(({ id }) => id))
  )
}

/** Without made-up rows that none refers to where each is to have one, and without what refers to those. */
function withEachItsOne(design: Design, madeUp: ReadonlySet<string>): Design {
  if (!design.tables.some(({ foreignKeys }) => foreignKeys.some(({ atLeastOne }) => atLeastOne === 'held')))
    return design
  const [wrong] = violations(design).filter(
    ({ kind, table }) => (kind === 'minimum' || kind === 'reference') && madeUp.has(table)
  )
  if (!wrong) return design
  const left = (table: Table): Row[] => table.rows.filter((_, at) => !wrong.rows.includes(at))
  const tables = design.tables.map((table) =>
    table.id === wrong.table ? { ...table, rows: left(table) } : table
  )
  return withEachItsOne({ ...design, tables }, madeUp)
}

/**
 * A row for each table that needs, in the end, one of its own: the columns that refer are given what their
 * parents' rows have, again and again, until all agree; those whose rows then break a rule are left out.
 */
function rowsTogether(
  design: Design,
  filled: ReadonlySet<string>,
  rows: ReadonlyMap<string, Row[]>,
  together: boolean
): Map<string, Row> {
  const waiting = design.tables.filter(
    (table) => !filled.has(table.id) && !table.external && (together || needsOnlyItself(table, filled))
  )
  const made = new Map(
    waiting.map((table) => {
      const own = table.columns.filter((column) => column.computed === undefined)
      return [table.id, Object.fromEntries(own.map((column) => [column.id, sampleValue(design, column, 0)]))]
    })
  )
  const parentOf = (id: string): Row => made.get(id) ?? rows.get(id)?.[0] ?? {}
  for (let round = 0; round <= waiting.length; round++)
    for (const table of waiting)
      for (const { table: parent, pairs } of table.foreignKeys) {
        const open = pairs.filter(({ column }) => !columnOf(table, column)?.required)
        // Which of two rows is there first is looked at with each row, unless both are needed.
        const isLeftOpen = open.length > 0 && made.has(parent)
        for (const { column, refersTo } of isLeftOpen ? open : pairs)
          made.set(table.id, {
            ...made.get(table.id),
            [column]: isLeftOpen ? null : (parentOf(parent)[refersTo] ?? null)
          })
      }
  const tables = design.tables.map((table) => {
    const row = made.get(table.id)
    return { ...table, rows: row ? [tidyRow(row)] : (rows.get(table.id) ?? []) }
  })
  const wrong = new Set(violations({ ...design, tables }).map(({ table }) => table))
  for (const table of waiting) {
    const row = made.get(table.id) as Row
    if (wrong.has(table.id) || !meetsChecks(table, row) || !computedFits(table, row)) made.delete(table.id)
  }
  // What is left out takes along what needs it.
  const isLed = ({ foreignKeys }: Table): boolean =>
    foreignKeys.every(({ table }) => made.has(table) || (rows.get(table)?.length ?? 0) > 0)
  for (let left = true; left;) {
    const lost = waiting.filter((table) => made.has(table.id) && !isLed(table))
    for (const { id } of lost) made.delete(id)
    left = lost.length > 0
  }
  return made
}

const needsOnlyItself = (table: Table, filled: ReadonlySet<string>): boolean =>
  ready({ ...table, foreignKeys: table.foreignKeys.filter((key) => key.table !== table.id) }, filled)

function ready(table: Table, filled: ReadonlySet<string>): boolean {
  return table.foreignKeys.every(
    (foreignKey) =>
      filled.has(foreignKey.table) || foreignKey.pairs.some((pair) => !columnOf(table, pair.column)?.required)
  )
}

function sampleRows(design: Design, table: Table, rows: ReadonlyMap<string, Row[]>): Row[] {
  const made: Row[] = []
  const keys = [
    ...keysOf(table),
    ...table.indexes
      .filter((index) => index.unique)
      .map((index) => ({ columns: index.columns.map(({ column }) => column) }))
  ]
  for (let n = 0; n < ROWS * 4 && made.length < ROWS; n++) {
    const row: Row = {}
    for (const column of table.columns.filter((each) => each.computed === undefined))
      row[column.id] =
        column.required || column.default?.kind === 'generated' || n % 2 === 0
          ? sampleValue(design, column, n)
          : null
    const fits = table.foreignKeys.every((foreignKey) => {
      const parents = rows.get(tableOf(design, foreignKey.table)?.id ?? '') ?? []
      const parent = foreignKey.table === table.id ? undefined : parents[n % Math.max(parents.length, 1)]
      for (const pair of foreignKey.pairs) {
        const value = parent?.[pair.refersTo] ?? null
        if (value === null && columnOf(table, pair.column)?.required) return false
        row[pair.column] = value
      }
      return true
    })
    const doubled = keys.some((key) =>
      made.some((other) =>
        key.columns.every(
          (id) =>
            held(table, row, id) === undefined ||
            (held(table, row, id) !== null && held(table, other, id) === held(table, row, id))
        )
      )
    )
    if (fits && !doubled && meetsChecks(table, row) && computedFits(table, row)) made.push(row)
  }
  return made
}

/** What a column holds in a row, worked out where it is computed; nothing where that cannot be told. */
function held(table: Table, row: Row, id: string): Value | undefined {
  const computed = columnOf(table, id)?.computed
  return computed === undefined ? (row[id] ?? null) : evaluate(computed, table, row)
}

function sampleValue(design: Design, column: Column, n: number): Value {
  const { type } = column
  const list = type.kind === 'enum' ? design.enums.find((each) => each.id === type.enum) : undefined
  return list ? (list.values[n % list.values.length] ?? null) : valueOf(type, n, column.name)
}

function valueOf(type: Type, n: number, name: string): Value {
  const two = String((n % 28) + 1).padStart(2, '0')
  switch (type.kind) {
    case 'integer':
      return n + 1
    case 'decimal':
      return type.scale > 0
        ? `${type.precision > type.scale ? n % 10 : 0}.${String((n % 9) + 1).padEnd(type.scale, '0')}`
        : String(n % 10)
    case 'float':
      return n + 0.5
    case 'boolean':
      return n % 2 === 0
    case 'interval':
      return intervalText((n + 1) * 5400)
    case 'native':
      return null
    case 'enum':
    case 'text':
    case 'char':
      return [...`${n + 1} ${name}`]
        .slice(0, 'length' in type ? (type.length ?? 60) : 60)
        .join('')
        .trimEnd()
    case 'date':
      return `2026-05-${two}`
    case 'time':
      return `07:${two}:00`
    case 'timestamp':
      return `2026-05-${two} 07:40:00`
    case 'uuid':
      return `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`
    case 'json':
      return `{"n":${n}}`
    case 'binary':
      return `0${n % 10}`
  }
}
