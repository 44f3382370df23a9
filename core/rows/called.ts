import { columnsIn, tableOf } from '../design/directory.ts'
import type { Column, Design, Table } from '../design/model.ts'
import type { NameGiver } from '../naming/fit.ts'
import { proposeLabel } from '../relate/label.ts'
import type { InSql } from './in-sql.ts'

/** How deep a label goes along references, so that a row is read and not only told apart. */
const DEEPEST = 2

/** What is said of a table's rows: their key, and what they are called, with what has to be joined for that. */
export class RowNames {
  readonly columns: string[] = []
  readonly joins: string[] = []

  constructor(
    private readonly design: Design,
    private readonly sql: InSql,
    private readonly names: NameGiver
  ) {}

  add(table: Table, alias: string, depth = 0, prefix = ''): this {
    const key = depth === 0 ? (table.primaryKey?.columns ?? table.columns.map(({ id }) => id)) : []
    for (const column of columnsIn(table, key)) this.say(table, alias, column, prefix)
    for (const column of columnsIn(table, table.label ?? proposeLabel(table))) {
      const reference = table.foreignKeys.find(({ pairs }) => pairs[0]?.column === column.id)
      const parent = reference && tableOf(this.design, reference.table)
      if (!parent && !key.includes(column.id)) this.say(table, alias, column, prefix)
      if (!reference || !parent || parent.external || depth === DEEPEST) continue
      const beyond = `${alias}_${this.joins.length + 1}`
      const on = this.sql.joined([alias, table], [beyond, parent], reference)
      this.joins.push(`LEFT JOIN ${this.sql.table(parent)} ${beyond} ON ${on}`)
      this.add(parent, beyond, depth + 1, `${prefix}${parent.name}_`)
    }
    return this
  }

  /** A junction's own facts, which belong to the pair. */
  addFacts(junction: Table, alias: string): this {
    const referring = new Set(junction.foreignKeys.flatMap(({ pairs }) => pairs.map(({ column }) => column)))
    for (const column of junction.columns)
      if (!referring.has(column.id)) this.say(junction, alias, column, '')
    return this
  }

  private say(table: Table, alias: string, column: Column, prefix: string): void {
    const name = this.names.give(`${prefix}${column.name}`)
    const said = this.sql.column(alias, table, column.id)
    const isCalledSo = said.endsWith(`.${this.sql.dialect.quote(name)}`)
    this.columns.push(isCalledSo ? said : `${said} AS ${this.sql.dialect.quote(name)}`)
  }
}
