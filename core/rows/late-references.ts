import { circlesIn } from '../dialect/circles.ts'
import { parentsFirst, type CatalogForeignKey, type CatalogTable } from '../dialect/catalog.ts'
import { tableOf } from '../design/directory.ts'
import { columnsUsed } from '../design/expressions.ts'
import type { ColumnId, Design, Row, Table } from '../design/model.ts'

/**
 * The order in which rows of tables go in, and which of their columns are filled in when all rows are there: those
 * of references that may be empty and lead to rows which come later.
 */
export interface InsertOrder {
  tables: CatalogTable[]
  late: ReadonlyMap<string, ReadonlySet<ColumnId>>
}

export function orderForRows(design: Design, targets: readonly CatalogTable[]): InsertOrder {
  const known = new Map(targets.map((target) => [target.id, target]))
  const used = (target: CatalogTable): CatalogForeignKey[] =>
    target.foreignKeys.filter((key) => isUsed(tableOf(design, target.id), key.id))
  const circles = circlesIn(targets, (target) => used(target).map((key) => key.table))
  const mayWait = (target: CatalogTable, key: CatalogForeignKey): boolean =>
    circles.has(target.id) &&
    circles.get(target.id) === circles.get(key.table) &&
    emptiable(design, target, key).length > 0
  const firm = targets.map((target) => ({
    ...target,
    foreignKeys: used(target).filter((key) => !mayWait(target, key))
  }))
  const tables = parentsFirst(firm).flatMap(({ id }) => known.get(id) ?? [])
  const place = new Map(tables.map(({ id }, at) => [id, at]))
  const late = new Map<string, ReadonlySet<ColumnId>>()
  for (const [at, target] of tables.entries()) {
    const table = tableOf(design, target.id)
    const waiting = used(target).filter((key) =>
      key.table === target.id
        ? table !== undefined && !isInOrder(table, key)
        : (place.get(key.table) ?? -1) > at
    )
    const columns = waiting.flatMap((key) => emptiable(design, target, key))
    if (columns.length > 0) late.set(target.id, new Set(columns))
  }
  return { tables, late }
}

/**
 * The columns of a reference that can be empty for a while: not those of a key, by which the row is found again, nor
 * those that a check looks at.
 */
function emptiable(design: Design, target: CatalogTable, key: CatalogForeignKey): ColumnId[] {
  const table = tableOf(design, target.id)
  if (!table || key.deferrable || !identityOf(table)) return []
  const looked = new Set(table.checks.flatMap(({ condition }) => columnsUsed(condition)))
  const optional = table.columns.filter(({ id, required }) => !required && !looked.has(id))
  return optional.map(({ id }) => id).filter((id) => key.columns.includes(id))
}

/** The columns of a key that every row has in full. */
export function identityOf(table: Table): readonly ColumnId[] | undefined {
  const isSure = (id: ColumnId): boolean =>
    table.rows.every((row) => (row[id] ?? null) !== null) &&
    table.columns.some((column) => column.id === id && column.computed === undefined && column.required)
  return [table.primaryKey, ...table.uniques].find((key) => key?.columns.every(isSure))?.columns
}

/**
 * True where at least one row refers to something by the foreign key: one that is empty throughout holds
 * up no order.
 */
function isUsed(table: Table | undefined, foreignKey: string): boolean {
  const pairs = table?.foreignKeys.find((each) => each.id === foreignKey)?.pairs ?? []
  return table?.rows.some((row) => pairs.every((pair) => (row[pair.column] ?? null) !== null)) ?? false
}

/** Whether each row can stand behind those of its own table that it refers to. */
function isInOrder(table: Table, { id }: CatalogForeignKey): boolean {
  const key = table.foreignKeys.find((each) => each.id === id)
  if (!key) return true
  const place = new Map(parentRowsFirst(table).map((row, at) => [row, at]))
  const parentOf = parentsIn(table, key)
  return table.rows.every((row) => {
    const parent = parentOf(row)
    return parent === undefined || (place.get(parent) ?? 0) <= (place.get(row) ?? 0)
  })
}

/** The row of its own table that a row refers to. */
function parentsIn(table: Table, { pairs }: Table['foreignKeys'][number]): (row: Row) => Row | undefined {
  const text = (row: Row, ids: readonly ColumnId[]): string | undefined => {
    const values = ids.map((id) => row[id] ?? null)
    return values.includes(null) ? undefined : JSON.stringify(values.map(String))
  }
  const to = pairs.map(({ refersTo }) => refersTo)
  const from = pairs.map(({ column }) => column)
  const known = new Map(table.rows.map((row) => [text(row, to), row]))
  return (row) => {
    const wanted = text(row, from)
    return wanted === undefined ? undefined : known.get(wanted)
  }
}

/** Rows of a table that refers to itself, each after the one that it refers to where that can be. */
export function parentRowsFirst(table: Table): readonly Row[] {
  const own = table.foreignKeys
    .filter((foreignKey) => foreignKey.table === table.id)
    .map((key) => parentsIn(table, key))
  if (own.length === 0) return table.rows
  const done = new Set<Row>()
  const ordered: Row[] = []
  for (const start of table.rows) {
    // By hand: a chain of many thousands of rows must not exhaust the stack.
    const way: { row: Row; next: number }[] = []
    const enter = (row: Row): void => {
      if (done.has(row)) return
      done.add(row)
      way.push({ row, next: 0 })
    }
    enter(start)
    for (let top = way.at(-1); top; top = way.at(-1)) {
      const parentOf = own[top.next++]
      const parent = parentOf?.(top.row)
      if (parent) enter(parent)
      if (parentOf) continue
      ordered.push(top.row)
      way.pop()
    }
  }
  return ordered
}
