import type { Column, Design, Table } from '../core/design/model.ts'
import { isComparable } from '../core/carry/columns.ts'
import { keysOf, tableOf } from '../core/design/directory.ts'
import { canonicalValue } from '../core/design/same.ts'
import type { Value } from '../core/design/value.ts'
import type { Provable } from '../core/dialect/index.ts'
import { selectRows } from '../core/rows/statements.ts'
import type { Engine } from '../server/engine/engine.ts'
import type { Numbers } from './queries.ts'

/** The rows of a table on an engine, each value in one spelling. */
export type Found = (string | null)[][]

/** What people do to rows: new ones, other values, fewer; on an engine that holds a design's tables. */
export class Writes {
  readonly done = { inserted: 0, updated: 0, deleted: 0, refused: 0, 'told in what is new': 0 }

  constructor(
    private readonly design: Design,
    private readonly dialect: Provable,
    private readonly engine: Pick<Engine, 'query'>,
    private readonly numbers: Numbers,
    /** What there was before: every other write is where something is new since. */
    private readonly before: Design = design
  ) {}

  private get catalog() {
    return this.dialect.catalog(this.design).catalog
  }

  /** Every row of every table of the design's own, in no order. */
  async everything(): Promise<Map<string, string[]>> {
    const all = new Map<string, string[]>()
    for (const table of this.design.tables.filter((each) => !each.external))
      all.set(table.id, (await this.rows(table)).map((row) => JSON.stringify(row)).sort())
    return all
  }

  async rows(table: Table): Promise<Found> {
    const target = this.catalog.tables.find((each) => each.id === table.id)
    if (!target) return []
    const found = await this.engine.query(selectRows(table, target, this.dialect))
    return found.map((row) => table.columns.map(({ type }, at) => canonicalValue(row[`v${at}`], type)))
  }

  /** Writes so many times somewhere; what a rule stands against is not done. */
  async some(count: number): Promise<void> {
    const own = this.design.tables.filter((table) => !table.external)
    for (let n = 0; n < count; n++) {
      const fresh = own.filter((table) => table.columns.some((column) => this.isNew(table, column)))
      const table = this.numbers.pick(fresh.length > 0 && n % 2 === 0 ? fresh : own)
      const kind = this.numbers.pick(['inserted', 'inserted', 'updated', 'deleted'] as const)
      const sql = kind && table && (await this[kind](table))
      if (!sql) continue
      const isDone = await this.engine.query(sql).then(
        () => true,
        () => false
      )
      this.done[isDone ? kind : 'refused']++
      if (isDone && fresh.includes(table) && kind !== 'deleted') this.done['told in what is new']++
    }
  }

  private isNew(table: Table, column: Column): boolean {
    const before = tableOf(this.before, table.id)
    return !before?.columns.some(({ id }) => id === column.id)
  }

  private name(table: Table): string {
    const target = this.catalog.tables.find((each) => each.id === table.id)
    return this.dialect.quoteTable(target?.name ?? table.name)
  }

  private column(table: Table, id: string): string {
    const target = this.catalog.tables.find((each) => each.id === table.id)
    return this.dialect.quote(target?.columns.find((each) => each.id === id)?.name ?? id)
  }

  private literal(value: string | null, { type }: Column): string {
    const given: Value = value !== null && type.kind === 'boolean' ? value === 'true' : value
    return this.dialect.literal(given, type)
  }

  /** A row like another, or of nothing, with another key, that refers to what is there. */
  private async inserted(table: Table): Promise<string | undefined> {
    const like = this.numbers.pick(await this.rows(table)) ?? table.columns.map(() => null)
    const values = new Map<string, string | null>(table.columns.map(({ id }, at) => [id, like[at] ?? null]))
    const inKeys = new Set(keysOf(table).flatMap((key) => key.columns))
    for (const { table: parent, pairs } of table.foreignKeys) {
      const referred = tableOf(this.design, parent)
      const row = referred && !referred.external ? this.numbers.pick(await this.rows(referred)) : undefined
      for (const { column, refersTo } of pairs)
        values.set(column, row?.[referred?.columns.findIndex(({ id }) => id === refersTo) ?? 0] ?? null)
    }
    const referring = new Set(table.foreignKeys.flatMap(({ pairs }) => pairs.map(({ column }) => column)))
    const given = table.columns.filter(
      (column) => column.computed === undefined && column.default?.kind !== 'generated'
    )
    if (given.length === 0) return undefined
    const said = given.map((column) => {
      const value = values.get(column.id) ?? null
      const isOther = (inKeys.has(column.id) || value === null) && !referring.has(column.id)
      return this.literal(isOther && column.required ? this.another(column) : value, column)
    })
    const names = given.map(({ id }) => this.column(table, id)).join(', ')
    return `INSERT INTO ${this.name(table)} (${names}) VALUES (${said.join(', ')})`
  }

  /** A value that is not likely to be there yet. */
  private another({ type }: Column): string {
    const n = this.numbers.next(9000) + 1000
    switch (type.kind) {
      case 'date':
        return `20${(n % 60) + 30}-01-02`
      case 'timestamp':
        return `20${(n % 60) + 30}-01-02 03:04:05`
      case 'time':
        return `0${n % 10}:00:00`
      case 'boolean':
        return n % 2 === 0 ? 'true' : 'false'
      case 'enum':
        return this.design.enums.find((list) => list.id === type.enum)?.values[0] ?? ''
      case 'text':
      case 'char':
        return `N${n}`.slice(0, type.length ?? 9)
      default:
        return String(n)
    }
  }

  /** Another value of the same column, or none, in one row. */
  private async updated(table: Table): Promise<string | undefined> {
    const rows = await this.rows(table)
    const row = this.numbers.pick(rows)
    const fresh = table.columns.filter((column) => this.isNew(table, column))
    const chosen = this.numbers.pick(fresh.length > 0 && this.numbers.next(2) === 0 ? fresh : table.columns)
    const at = chosen ? table.columns.indexOf(chosen) : 0
    const column = table.columns[at]
    if (!row || !column || column.computed !== undefined) return undefined
    const others = rows.flatMap((each) => each[at] ?? [])
    const isNew = !column.required && (others.length === 0 || this.numbers.next(3) === 0)
    const value = isNew ? this.another(column) : (this.numbers.pick(rows)?.[at] ?? null)
    const where = this.is(table, row)
    return (
      where &&
      `UPDATE ${this.name(table)} SET ${this.column(table, column.id)} = ${this.literal(value, column)} WHERE ${where}`
    )
  }

  private async deleted(table: Table): Promise<string | undefined> {
    const row = this.numbers.pick(await this.rows(table))
    const where = row && this.is(table, row)
    return where && `DELETE FROM ${this.name(table)} WHERE ${where}`
  }

  /** A condition that is met by one row, by its key. */
  private is(table: Table, row: Found[number]): string | undefined {
    const key = table.primaryKey?.columns ?? []
    const columns = table.columns.map((column, at) => ({ column, value: row[at] ?? null }))
    const own = columns.filter(({ column }) => key.includes(column.id) && isComparable(column.type))
    if (own.length === 0) return undefined
    return own
      .map(({ column, value }) => `${this.column(table, column.id)} = ${this.literal(value, column)}`)
      .join(' AND ')
  }
}
