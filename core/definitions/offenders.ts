import { byId } from '../design/by-id.ts'
import type { Design } from '../design/model.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { nameOfColumn } from '../dialect/written.ts'

/**
 * The rows that no row refers to by a reference, as a query for any database that has the tables: those that fall short
 * where each is to have at least one. Nothing where a dialect leaves the reference out.
 */
export function offendersQuery(
  design: Design,
  child: string,
  foreignKey: string,
  anyVersion: Dialect
): string | undefined {
  const dialect = anyVersion.for(design)
  const tables = byId(dialect.catalog(design).catalog.tables)
  const table = tables.get(child)
  const key = table?.foreignKeys.find(({ id }) => id === foreignKey)
  const parent = key && tables.get(key.table)
  if (!table || !key || !parent) return undefined
  const on = key.columns.map((id, at) => {
    const [own, its] = [nameOfColumn(table, id), nameOfColumn(parent, key.refersTo[at] ?? '')]
    return `other.${dialect.quote(own)} = one.${dialect.quote(its)}`
  })
  return [
    `SELECT one.* FROM ${dialect.quoteTable(parent.name)} one`,
    `WHERE NOT EXISTS (SELECT 1 FROM ${dialect.quoteTable(table.name)} other WHERE ${on.join(' AND ')})`
  ].join('\n')
}
