import { columnsOf, type Ground } from '../carry/columns.ts'
import type { Agreement, Order, Projected, RowQuery, TypedColumn } from '../design/row-query.ts'
import type { Column } from '../design/model.ts'
import type { Type } from '../design/type.ts'
import type { Value } from '../design/value.ts'
import { NameGiver } from '../naming/fit.ts'
import { expressionSql, type Speech } from './speech.ts'

/** A table or a result as it is called at this point of a migration. */
export interface Standing {
  /** As it stands in FROM. */
  place: string
  /** What it goes by beside others. */
  alias: string
  column(id: string): { sql: string; required: boolean }
}

/** What a query is printed among. */
export interface RowContext {
  ground: Ground
  /** A type as it is written where nothing leans on it. */
  typeSql(type: Type): string
  table(id: string): Standing
  result(name: string): Standing
}

/** A column of a SELECT. `plain`: a bare column, which may stand in a condition as it is. */
interface Said {
  id: string
  sql: string
  type: Type
  plain: boolean
  required: boolean
}

/** A SELECT in the making. */
interface Select {
  columns: Said[]
  from: string
  where: string[]
  /** Whether its rows are not simply those of what it selects from. */
  closed: boolean
  distinct: boolean
}

/** A query in a dialect, and the columns that it gives, in order. */
export interface Printed {
  sql: string
  columns: readonly TypedColumn[]
}

/** `wanted`: which columns, in which order; all as they are when left out. `naming`: by their ids. */
export interface RowOptions {
  wanted?: readonly string[]
  naming?: boolean
}

/**
 * A row query as SELECT. Its columns come in the order of `wanted`, or all as they are; `naming` gives
 * them their ids as names.
 * @throws BrokenQuery
 */
export function printRows(
  speech: Speech,
  query: RowQuery,
  context: RowContext,
  { wanted, naming = false }: RowOptions = {}
): Printed {
  const columns = columnsOf(query, context.ground)
  const given = wanted ? wanted.map((id) => columns.find((each) => each.id === id) as TypedColumn) : columns
  const sql = new RowPrinter(speech, context).print(
    query,
    given.map(({ id }) => id),
    naming
  )
  return { sql, columns: given }
}

class RowPrinter {
  private readonly aliases = new NameGiver(undefined)

  constructor(
    private readonly speech: Speech,
    private readonly context: RowContext
  ) {}

  print(query: RowQuery, ids: readonly string[], naming: boolean): string {
    if (query.kind !== 'union') {
      const select = this.select(query)
      const leavesSomeOut = select.distinct && ids.length < select.columns.length
      return this.text(leavesSomeOut ? this.derived(query, select) : select, ids, naming)
    }
    return query.of.map((each) => this.print(each, ids, naming)).join('\n  UNION ALL\n  ')
  }

  private quote(name: string): string {
    return this.speech.quote(name)
  }

  private text({ columns, from, where, distinct }: Select, ids: readonly string[], naming: boolean): string {
    const list = ids.map((id) => {
      const column = find(columns, id)
      return naming ? `${column.sql} AS ${this.quote(id)}` : column.sql
    })
    const conditions = where.length === 0 ? '' : `\n  WHERE ${where.join(' AND ')}`
    return `SELECT ${distinct ? 'DISTINCT ' : ''}${list.join(', ')}${from && `\n  FROM ${from}`}${conditions}`
  }

  private select(query: RowQuery): Select {
    switch (query.kind) {
      case 'table':
        return this.standing(this.context.table(query.table), query)
      case 'result':
        return this.standing(this.context.result(query.name), query)
      case 'constant':
      case 'union':
        return this.derived(query)
      case 'filter':
        return this.filter(query.of, query.where)
      case 'project':
        return this.project(query.of, query.columns)
      case 'join':
        return this.join(query)
      case 'distinct':
        return { ...this.open(this.select(query.of), query.of), distinct: true, closed: true }
      case 'number':
        return this.number(query)
      case 'first':
        return this.first(query)
    }
  }

  private standing({ place, alias, column }: Standing, query: RowQuery): Select {
    const own = this.aliases.give(alias)
    const called = this.quote(own)
    const columns = columnsOf(query, this.context.ground).map(({ id, type }): Said => {
      const { sql, required } = column(id)
      return { id, type, required, sql: `${called}.${sql}`, plain: true }
    })
    const from = place === called ? place : `${place} ${called}`
    return { columns, from, where: [], closed: false, distinct: false }
  }

  /** A query as something to select from. */
  private derived(query: RowQuery, select?: Select): Select {
    const columns = columnsOf(query, this.context.ground)
    const ids = columns.map(({ id }) => id)
    const inner =
      query.kind === 'constant'
        ? this.constant(query)
        : select
          ? this.text(select, ids, true)
          : this.print(query, ids, true)
    const called = this.quote(this.aliases.give('part'))
    return {
      columns: columns.map(({ id, type }) => ({
        id,
        type,
        sql: `${called}.${this.quote(id)}`,
        plain: true,
        required: select ? find(select.columns, id).required : false
      })),
      from: `(${inner.replaceAll('\n', '\n  ')}) ${called}`,
      where: [],
      closed: false,
      distinct: false
    }
  }

  /** The same rows, so that something may be said about each: from a closed SELECT by another around it. */
  private open(select: Select, query: RowQuery): Select {
    return select.closed ? this.derived(query, select) : select
  }

  private constant({ columns, rows }: Extract<RowQuery, { kind: 'constant' }>): string {
    const { noTable = '' } = this.speech.rows
    const list = (values: readonly Value[]): string =>
      columns
        .map(({ id, type }, at) => `${this.literal(values[at] ?? null, type)} AS ${this.quote(id)}`)
        .join(', ')
    if (rows.length === 0) return `SELECT ${list([])} FROM (SELECT 1 AS one${noTable}) no_rows WHERE 1 = 0`
    return rows.map((values) => `SELECT ${list(values)}${noTable}`).join(' UNION ALL ')
  }

  private literal(value: Value, type: Type): string {
    const written = this.speech.literal(value, type)
    return this.speech.rows.saysTypes ? `CAST(${written} AS ${this.context.typeSql(type)})` : written
  }

  /** An expression over the columns of a SELECT, of which each that it names is plain. */
  private expression(kept: string, columns: readonly Said[], type: Type | undefined): string {
    const known = columns.map((each): Column => ({
      id: each.id,
      name: each.id,
      type: each.type,
      required: false
    }))
    return expressionSql(this.speech, known, kept, type, (id) => find(columns, id).sql)
  }

  /** The SELECT, around which another stands where a column of it is worked out. */
  private plain(select: Select, query: RowQuery): Select {
    const isPlain = !select.closed && select.columns.every((column) => column.plain)
    return isPlain ? select : this.derived(query, select)
  }

  private filter(of: RowQuery, where: string): Select {
    const inner = this.plain(this.select(of), of)
    const condition = this.expression(where, inner.columns, undefined)
    const wrapped = / OR /.test(condition) ? `(${condition})` : condition
    return { ...inner, where: [...inner.where, wrapped] }
  }

  private project(of: RowQuery, projected: readonly Projected[]): Select {
    const workedOut = projected.some((column) => 'is' in column)
    const first = this.open(this.select(of), of)
    const inner = workedOut ? this.plain(first, of) : first
    const columns = projected.map((column): Said => {
      if ('from' in column) return { ...find(inner.columns, column.from), id: column.id }
      const { id, type } = column
      const required = 'value' in column && column.value !== null
      if ('value' in column)
        return { id, type, required, plain: false, sql: this.literal(column.value, type) }
      return { id, type, required, plain: false, sql: this.expression(column.is, inner.columns, type) }
    })
    return { ...inner, columns }
  }

  private join({ left, right, on, unmatched }: Extract<RowQuery, { kind: 'join' }>): Select {
    const one = this.plain(this.select(left), left)
    const second = this.plain(this.select(right), right)
    const mustStandAlone = second.where.length > 0 || / JOIN /.test(second.from)
    const other = mustStandAlone ? this.derived(right, second) : second
    const kept = unmatched === 'kept'
    const word = kept ? 'LEFT JOIN' : 'JOIN'
    const agreed = on.map((each) => this.agree(each, one.columns, other.columns)).join(' AND ')
    const beside = other.columns.map((column) => ({ ...column, required: column.required && !kept }))
    return {
      columns: [...one.columns, ...beside],
      from: `${one.from}\n    ${word} ${other.from} ON ${agreed}`,
      where: one.where,
      closed: false,
      distinct: false
    }
  }

  private agree({ left, right, empty }: Agreement, one: readonly Said[], other: readonly Said[]): string {
    const [a, b] = [find(one, left), find(other, right)]
    const mayBothBeEmpty = empty === true && !a.required && !b.required
    return mayBothBeEmpty ? this.speech.rows.sameOrEmpty(a.sql, b.sql) : `${a.sql} = ${b.sql}`
  }

  private number({ of, as, by }: Extract<RowQuery, { kind: 'number' }>): Select {
    const inner = this.plain(this.select(of), of)
    const sql = `row_number() OVER (ORDER BY ${this.order(by, inner.columns)})`
    const type: Type = { kind: 'integer', size: 'big' }
    return {
      ...inner,
      columns: [...inner.columns, { id: as, sql, type, plain: false, required: true }],
      closed: true
    }
  }

  private first(query: Extract<RowQuery, { kind: 'first' }>): Select {
    const { of, per, by } = query
    const inner = this.plain(this.select(of), of)
    const parts = per.map((id) => find(inner.columns, id).sql).join(', ')
    const place: Said = {
      id: PLACE,
      sql: `row_number() OVER (PARTITION BY ${parts} ORDER BY ${this.order(by, inner.columns)})`,
      type: { kind: 'integer', size: 'big' },
      plain: false,
      required: true
    }
    const ids = inner.columns.map(({ id }) => id)
    const ranked = this.text({ ...inner, columns: [...inner.columns, place] }, [...ids, PLACE], true)
    const called = this.quote(this.aliases.give('ranked'))
    return {
      columns: inner.columns.map((column) => ({
        ...column,
        sql: `${called}.${this.quote(column.id)}`,
        plain: true
      })),
      from: `(${ranked.replaceAll('\n', '\n  ')}) ${called}`,
      where: [`${called}.${this.quote(PLACE)} = 1`],
      closed: false,
      distinct: false
    }
  }

  private order(by: readonly Order[], columns: readonly Said[]): string {
    const { inOrder = (sql: string) => sql } = this.speech.rows
    return by
      .flatMap(({ column, descending }) => {
        const { sql, type, required } = find(columns, column)
        const own = `${inOrder(sql, type)}${descending ? ' DESC' : ''}`
        return required ? [own] : [`CASE WHEN ${sql} IS NULL THEN 1 ELSE 0 END`, own]
      })
      .join(', ')
  }
}

const PLACE = 'place_in_order'

function find(columns: readonly Said[], id: string): Said {
  const found = columns.find((column) => column.id === id)
  if (!found) throw new Error(`no column ${id}`)
  return found
}
