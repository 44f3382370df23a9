import type { Design, Row, Table } from '../core/design/model.ts'

/**
 * A design with what other systems have as tables of its own, so that they are made too: with the rows of people whom
 * other rows name. A table without columns, which no engine makes, is left out.
 */
export function owned(design: Design): Design {
  const tables = design.tables.filter(({ columns }) => columns.length > 0)
  return {
    ...design,
    tables: tables.map(({ external, schema: _, ...table }) => ({
      ...table,
      ...(external && { rows: namedIn(design, table) })
    }))
  }
}

/** A row for each that other rows name by the table's first column, and a text in its second. */
function namedIn({ tables }: Design, { id, columns }: Pick<Table, 'id' | 'columns'>): Row[] {
  const named = tables.flatMap((table) =>
    table.foreignKeys
      .filter((key) => key.table === id)
      .flatMap((key) => table.rows.map((row) => row[key.pairs[0]?.column ?? ''] ?? null))
  )
  const [number, text] = columns.map((column) => column.id)
  const all = [...new Set(named.filter((each) => each !== null))]
  if (number === undefined) return []
  return all.map((each) => ({
    [number]: each,
    ...(text !== undefined && { [text]: `Person ${String(each)}` })
  }))
}
