import { byId } from '../design/by-id.ts'
import { columnOf, columnsIn } from '../design/directory.ts'
import type { Column, Design, ForeignKey, Row, Table } from '../design/model.ts'
import type { Value } from '../design/value.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { nameParts } from '../dialect/qualified.ts'

/** How a design's tables and columns are said in a dialect, by what they are called there. */
export interface InSql {
  dialect: Dialect
  /** A table, with its schema. */
  table(table: Table): string
  /** A table as its rows go by in a statement that gives it no alias. */
  itself(table: Table): string
  /** A column of a table, by itself. */
  named(table: Table, column: string): string
  /** A column of a table that goes by an alias, or by nothing. */
  column(alias: string, table: Table, column: string): string
  /** That rows of two tables belong together by a reference: those that refer, and those referred to. */
  joined(child: [alias: string, table: Table], parent: [alias: string, table: Table], key: ForeignKey): string
  /** That a row of a table that goes by an alias is this one: by its key, or by all that it holds. */
  isRow(alias: string, table: Table, row: Row): string
  /** That a row of a table that goes by an alias refers to this one. */
  refersTo(alias: string, child: Table, key: ForeignKey, parent: Table, row: Row): string
  /** A condition on rows of a table that goes by an alias. */
  condition(kept: string, alias: string, table: Table): string
}

export function inSql(design: Design, anyVersion: Dialect): InSql {
  const dialect = anyVersion.for(design)
  const tables = byId(dialect.catalog(design).catalog.tables)
  const named = ({ id }: Table, column: string): string =>
    dialect.quote(byId(tables.get(id)?.columns ?? []).get(column)?.name ?? '')
  const holds = (place: string, { type }: Column, value: Value): string =>
    value === null ? `${place} IS NULL` : `${place} = ${dialect.literal(value, type)}`
  const column: InSql['column'] = (alias, table, id) =>
    alias === '' ? named(table, id) : `${alias}.${named(table, id)}`
  return {
    dialect,
    table: ({ id, name }) => dialect.quoteTable(tables.get(id)?.name ?? name),
    itself: ({ id, name }) => dialect.quote(nameParts(tables.get(id)?.name ?? name).at(-1) ?? name),
    named,
    column,
    isRow: (alias, table, row) =>
      columnsIn(table, table.primaryKey?.columns ?? table.columns.map(({ id }) => id))
        .map((each) => holds(column(alias, table, each.id), each, row[each.id] ?? null))
        .join(' AND '),
    refersTo: (alias, child, { pairs }, parent, row) =>
      pairs
        .flatMap((pair) => {
          const its = columnOf(parent, pair.refersTo)
          return its ? [holds(column(alias, child, pair.column), its, row[pair.refersTo] ?? null)] : []
        })
        .join(' AND '),
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
