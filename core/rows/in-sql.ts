import { byId } from '../design/by-id.ts'
import type { Design, ForeignKey, Table } from '../design/model.ts'
import type { Dialect } from '../dialect/dialect.ts'

/** How a design's tables and columns are said in a dialect, by what they are called there. */
export interface InSql {
  dialect: Dialect
  /** A table, with its schema. */
  table(table: Table): string
  /** A column of a table that goes by an alias. */
  column(alias: string, table: Table, column: string): string
  /** That rows of two tables belong together by a reference: those that refer, and those referred to. */
  joined(child: [alias: string, table: Table], parent: [alias: string, table: Table], key: ForeignKey): string
  /** A condition on rows of a table that goes by an alias. */
  condition(kept: string, alias: string, table: Table): string
}

export function inSql(design: Design, anyVersion: Dialect): InSql {
  const dialect = anyVersion.for(design)
  const tables = byId(dialect.catalog(design).catalog.tables)
  const named = ({ id }: Table, column: string): string =>
    dialect.quote(byId(tables.get(id)?.columns ?? []).get(column)?.name ?? '')
  const column: InSql['column'] = (alias, table, id) => `${alias}.${named(table, id)}`
  return {
    dialect,
    table: ({ id, name }) => dialect.quoteTable(tables.get(id)?.name ?? name),
    column,
    joined: ([child, childTable], [parent, parentTable], { pairs }) =>
      pairs
        .map((pair) => {
          const own = column(child, childTable, pair.column)
          return `${own} = ${column(parent, parentTable, pair.refersTo)}`
        })
        .join(' AND '),
    condition: (kept, alias, table) => {
      const said = dialect.condition(kept, table, (id) => column(alias, table, id))
      return / OR /.test(said) ? `(${said})` : said
    }
  }
}
