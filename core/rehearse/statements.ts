import { columnOf, tableOf } from '../design/directory.ts'
import type { Column, Design, Row, Table } from '../design/model.ts'
import { byId } from '../design/by-id.ts'
import type { Catalog, CatalogTable } from '../dialect/catalog.ts'
import type { Dialect } from '../dialect/dialect.ts'
import type { Rehearsed, Trial, TrialStatement } from './trial.ts'

/**
 * The statements of a trial as an engine takes them: none for one whose rows are all gone by then. Rows are named by
 * their key, as it is by then; those of a table without one by all that they hold.
 * @param named the rows that each statement names, as {@link Rehearsed} has them.
 */
export function statementsOf(
  design: Design,
  catalog: Catalog,
  dialect: Dialect,
  { statements }: Pick<Trial, 'statements'>,
  named: Rehearsed['named']
): (string | undefined)[] {
  return statements.map((statement, at) => {
    const table = tableOf(design, statement.table)
    const target = byId(catalog.tables).get(statement.table)
    const rows = named[at] ?? []
    if (!table || !target || rows.length === 0) return undefined
    return new Sayer(table, target, dialect).say(statement, rows)
  })
}

class Sayer {
  constructor(
    private readonly table: Table,
    private readonly target: CatalogTable,
    private readonly dialect: Dialect
  ) {}

  say(statement: TrialStatement, rows: readonly Row[]): string {
    const into = this.dialect.quoteTable(this.target.name)
    switch (statement.kind) {
      case 'delete':
        return `DELETE FROM ${into} WHERE ${this.which(rows)}`
      case 'update': {
        const set = Object.entries(statement.values).flatMap(([id, value]) => {
          const column = columnOf(this.table, id)
          return column ? [`${this.name(column)} = ${this.dialect.literal(value, column.type)}`] : []
        })
        return `UPDATE ${into} SET ${set.join(', ')} WHERE ${this.which(rows)}`
      }
      case 'insert': {
        const columns = this.table.columns.filter(({ computed }) => computed === undefined)
        const lines = rows.map(
          (row) =>
            `(${columns.map(({ id, type }) => this.dialect.literal(row[id] ?? null, type)).join(', ')})`
        )
        const names = columns.map((column) => this.name(column)).join(', ')
        return `INSERT INTO ${into} (${names}) VALUES\n  ${lines.join(',\n  ')}`
      }
    }
  }

  private name({ id, name }: Column): string {
    return this.dialect.quote(byId(this.target.columns).get(id)?.name ?? name)
  }

  private which(rows: readonly Row[]): string {
    const key = this.table.primaryKey?.columns ?? this.table.columns.map(({ id }) => id)
    const columns = key.flatMap((id) => columnOf(this.table, id) ?? [])
    const [first, ...more] = columns
    if (first && more.length === 0 && rows.length > 1)
      return `${this.name(first)} IN (${rows.map((row) => this.dialect.literal(row[first.id] ?? null, first.type)).join(', ')})`
    return rows
      .map((row) => columns.map((column) => this.holds(column, row)).join(' AND '))
      .map((each) => (rows.length > 1 ? `(${each})` : each))
      .join(' OR ')
  }

  private holds(column: Column, row: Row): string {
    const value = row[column.id] ?? null
    const name = this.name(column)
    return value === null ? `${name} IS NULL` : `${name} = ${this.dialect.literal(value, column.type)}`
  }
}
