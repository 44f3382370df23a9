import type { Design, Table } from '../core/design/model.ts'

/** A design that needs nothing that somebody else makes: other systems' tables, roles. */
export function withoutOthers(
  design: Design,
  isOther: (table: Table) => boolean = (table) => table.external === true
): Design {
  const others = new Set(design.tables.filter(isOther).map(({ id }) => id))
  return {
    ...design,
    carries: [],
    tables: design.tables
      .filter((table) => !others.has(table.id))
      .map((table) => {
        const foreignKeys = table.foreignKeys.filter((key) => !others.has(key.table))
        const isHeld = (id: string): boolean => foreignKeys.some((key) => key.id === id)
        const columns = table.columns.map((column) =>
          column.copied && !isHeld(column.copied.foreignKey) ? { ...column, copied: undefined } : column
        )
        return { ...table, rowPolicies: [], columns, foreignKeys }
      })
  }
}
