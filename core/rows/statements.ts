import { tableOf } from '../design/directory.ts'
import type { Column, ColumnId, Design, Row, Table } from '../design/model.ts'
import type { Catalog, CatalogTable, Statement } from '../dialect/catalog.ts'
import type { Dialect, Provable } from '../dialect/dialect.ts'
import { sayTable } from '../dialect/qualified.ts'
import { canonicalValue } from '../design/same.ts'
import { identityOf, orderForRows, parentRowsFirst } from './late-references.ts'

/**
 * The statements that put the design's rows into its tables, parents first, and let generated numbers go
 * on behind them.
 */
export function insertRows(design: Design, catalog: Catalog, dialect: Dialect): Statement[] {
  const { inserts } = dialect
  const filled: CatalogTable[] = []
  const { tables, late } = orderForRows(design, catalog.tables)
  const statements = tables.flatMap((target) => {
    const table = tableOf(design, target.id)
    if (!table || table.rows.length === 0) return []
    const columns = table.columns.filter(
      (column) =>
        column.computed === undefined &&
        (column.default?.kind !== 'generated' || !isLeftToEngine(table, column))
    )
    if (columns.length === 0) return []
    const names = columns.map((column) => dialect.quote(nameIn(target, column))).join(', ')
    const inserted: Statement[] = []
    const rows = parentRowsFirst(table)
    const waiting = late.get(target.id)
    const write = (row: Row, column: Column): string => {
      const value = waiting?.has(column.id) ? null : (row[column.id] ?? null)
      const filled =
        value === null && column.required && column.default
          ? dialect.default(column.default, column.type)
          : undefined
      return filled ?? dialect.literal(value, column.type)
    }
    for (let at = 0; at < rows.length; at += inserts.most) {
      const some = rows.slice(at, at + inserts.most)
      const values = some.map((row) => `(${columns.map((column) => write(row, column)).join(', ')})`)
      inserted.push({
        sql: `INSERT INTO ${dialect.quoteTable(target.name)} (${names}) VALUES\n  ${values.join(',\n  ')}`,
        says: `put ${some.length} rows into ${sayTable(target.name)}`
      })
    }
    const ids = columns.map(({ id }) => id)
    filled.push(target)
    return [...inserts.before(target, ids), ...inserted, ...inserts.after(target, ids)]
  })
  const completed = tables.flatMap((target) => {
    const table = tableOf(design, target.id)
    const columns = late.get(target.id)
    return table && columns ? completeRows(table, target, columns, dialect) : []
  })
  return [...statements, ...completed, ...inserts.last(filled)]
}

/** Puts into rows what they could not have before others were there. */
function completeRows(
  table: Table,
  target: CatalogTable,
  late: ReadonlySet<ColumnId>,
  dialect: Dialect
): Statement[] {
  const key = table.columns.filter(({ id }) => identityOf(table)?.includes(id))
  // What becomes another with each change of its row is as it was said, too.
  const renewed = new Set(target.columns.flatMap(({ id, renewed: by }) => (by === undefined ? [] : [id])))
  const said = (row: Row, column: Column): string =>
    `${dialect.quote(nameIn(target, column))} = ${dialect.literal(row[column.id] ?? null, column.type)}`
  return table.rows.flatMap((row): Statement[] => {
    const has = (id: ColumnId): boolean => (row[id] ?? null) !== null
    const columns = table.columns.filter(({ id }) => late.has(id) && has(id))
    if (columns.length === 0) return []
    const kept = table.columns.filter(({ id }) => renewed.has(id) && has(id))
    const sets = [...columns, ...kept].map((column) => said(row, column)).join(', ')
    const where = key.map((column) => said(row, column)).join(' AND ')
    return [
      {
        sql: `UPDATE ${dialect.quoteTable(target.name)} SET ${sets} WHERE ${where}`,
        says: `complete a row of ${sayTable(target.name)}, which refers to what came after it`
      }
    ]
  })
}

const nameIn = (target: CatalogTable, column: Column): string =>
  target.columns.find((each) => each.id === column.id)?.name ?? column.name

/**
 * True for what the engine says: a computed column, and a required one with a default in which some row
 * says nothing.
 */
function isLeftToEngine(table: Table, column: Column): boolean {
  if (column.computed !== undefined) return true
  return (
    (column.required || column.default?.kind === 'generated') &&
    column.default !== undefined &&
    table.rows.some((row) => (row[column.id] ?? null) === null)
  )
}

/** How a table's rows are read back: every column as text, in the order of the design's columns. */
export function selectRows(table: Table, target: CatalogTable, dialect: Provable): string {
  const columns = table.columns.map(
    (column, at) => `${dialect.engine.selectText(nameIn(target, column), column.type)} AS v${at}`
  )
  return `SELECT ${columns.join(', ')} FROM ${dialect.quoteTable(target.name)}`
}

/**
 * Rows that are missing or too many, as counts: rows are compared as a whole, by all their values, in no
 * order.
 */
export function compareRows(
  table: Table,
  found: readonly Record<string, unknown>[]
): { missing: number; unexpected: number } {
  const say = (values: unknown[]): string => JSON.stringify(values)
  const compared = table.columns
    .map((column, at) => ({ column, at }))
    .filter(({ column }) => !isLeftToEngine(table, column))
  const expected = new Map<string, number>()
  for (const row of table.rows) {
    const key = say(compared.map(({ column }) => canonicalValue(row[column.id], column.type)))
    expected.set(key, (expected.get(key) ?? 0) + 1)
  }
  let unexpected = 0
  for (const row of found) {
    const key = say(compared.map(({ column, at }) => canonicalValue(row[`v${at}`], column.type)))
    const left = expected.get(key) ?? 0
    if (left > 0) expected.set(key, left - 1)
    else unexpected++
  }
  return { missing: [...expected.values()].reduce((sum, count) => sum + count, 0), unexpected }
}
