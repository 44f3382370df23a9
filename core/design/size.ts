import type { Design, Row, Table } from './model.ts'

/** How long a design is as text, near enough: what changed is measured, the rest is known. */

const sizes = new WeakMap<object, number>()

function known<T extends object>(value: T, measure: (value: T) => number): number {
  let size = sizes.get(value)
  if (size === undefined) sizes.set(value, (size = measure(value)))
  return size
}

/** About how many characters the design has as JSON. */
export function sizeOf({ tables, schemas, enums, carries }: Design): number {
  const shared = [schemas, enums, carries].reduce((sum, list) => sum + known(list, textLength), 0)
  return tables.reduce((sum, table) => sum + known(table, sizeOfTable), shared)
}

function sizeOfTable(table: Table): number {
  return textLength({ ...table, rows: [] }) + known(table.rows, sizeOfRows)
}

/** One value may stand in many rows and be held once; as text it is as long as it stands there. */
function sizeOfRows(rows: readonly Row[]): number {
  let size = 0
  for (const row of rows) {
    for (const [id, value] of Object.entries(row))
      size += id.length + (typeof value === 'string' ? value.length : 8) + 6
  }
  return size
}

const textLength = (value: object): number => JSON.stringify(value).length
