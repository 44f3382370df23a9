import { indented } from './indent.ts'
import { columnsOf, type Ground } from '../carry/columns.ts'
import type { Agreement, Order, Projected, RowQuery, TypedColumn } from '../design/row-query.ts'
import type { Column } from '../design/model.ts'
import type { Type } from '../design/type.ts'
import type { Value } from '../design/value.ts'
import { NameGiver } from '../naming/fit.ts'
import { expressionSql, type Speech } from './speech.ts'

/** A table or a result as it is called at this point of a migration. */
export interface NamedRows {
  /** As it stands in FROM. */
  place: string
  /** What it goes by beside others. */
  alias: string
  column(id: string): { sql: string; name: string; required: boolean }
}

/** What a query is printed among. */
export interface RowContext {
  ground: Ground
  /** A type as it is written where nothing leans on it. */
  typeSql(type: Type): string
  /** What a column is to be called that is worked out, where that is known. */
  called?(id: string): string | undefined
  table(id: string): NamedRows
  result(name: string): NamedRows
}

/** A column of a SELECT. `label`: what it is called where it needs a name. `plain`: a bare column, which may stand in a condition as it is. */
interface Said {
  id: string
  label: string
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
  /** What the columns are called in it, where they have names. */
  names: ReadonlyMap<string, string>
}

/** `wanted`: which columns, in which order; all as they are when left out. `naming`: each with a name. */
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
  const ids = given.map(({ id }) => id)
  const printer = new RowPrinter(speech, context)
  const names = naming ? printer.names(query, ids) : new Map<string, string>()
  return { sql: printer.print(query, ids, naming ? names : undefined), columns: given, names }
}

/** What columns worked out from a table's own row come to in a statement about that table alone. */
export function printValues(
  speech: Speech,
  columns: readonly Projected[],
  table: string,
  context: RowContext
): ReadonlyMap<string, string> {
  return new RowPrinter(speech, context).values(columns, table)
}

class RowPrinter {
  private readonly aliases = new NameGiver(undefined)

  constructor(
    private readonly speech: Speech,
    private readonly context: RowContext
  ) {}

  /** What columns of a query are called: by what they are called where they come from, each once. */
  names(query: RowQuery, ids: readonly string[]): ReadonlyMap<string, string> {
    const labels = this.labels(query)
    const giver = new NameGiver(this.speech.facts.nameLimit)
    return new Map(ids.map((id) => [id, giver.give(labels.get(id) ?? id)]))
  }

  values(projected: readonly Projected[], table: string): ReadonlyMap<string, string> {
    const standing = this.context.table(table)
    const own = columnsOf({ kind: 'table', table }, this.context.ground).map(({ id, type }): Said => {
      const { sql, name, required } = standing.column(id)
      return { id, type, required, label: name, sql, plain: true }
    })
    return new Map(projected.map((column) => [column.id, this.worked(column, own).sql]))
  }

  private labels(query: RowQuery): ReadonlyMap<string, string> {
    switch (query.kind) {
      case 'table':
      case 'result': {
        const standing =
          query.kind === 'table' ? this.context.table(query.table) : this.context.result(query.name)
        const columns = columnsOf(query, this.context.ground)
        return new Map(columns.map(({ id }) => [id, standing.column(id).name]))
      }
      case 'constant':
        return new Map(query.columns.map(({ id }, at) => [id, `value_${at + 1}`]))
      case 'project': {
        const inner = this.labels(query.of)
        return new Map(
          query.columns.map((column) => [
            column.id,
            'from' in column
              ? (inner.get(column.from) ?? column.id)
              : (this.context.called?.(column.id) ?? 'value')
          ])
        )
      }
      case 'join':
        return new Map([...this.labels(query.left), ...this.labels(query.right)])
      case 'union':
        return query.of[0] ? this.labels(query.of[0]) : new Map()
      case 'number':
        return new Map([...this.labels(query.of), [query.as, this.context.called?.(query.as) ?? 'number']])
      default:
        return this.labels(query.of)
    }
  }

  /** @param names what the columns are called, where they are to have names */
  print(query: RowQuery, ids: readonly string[], names: ReadonlyMap<string, string> | undefined): string {
    if (query.kind !== 'union') {
      const select = this.select(query)
      const leavesSomeOut = select.distinct && ids.length < select.columns.length
      return this.text(leavesSomeOut ? this.derived(query, select) : select, ids, names)
    }
    return query.of.map((each) => this.print(each, ids, names)).join('\n  UNION ALL\n  ')
  }

  private quote(name: string): string {
    return this.speech.quote(name)
  }

  private text(
    { columns, from, where, distinct }: Select,
    ids: readonly string[],
    names: ReadonlyMap<string, string> | undefined
  ): string {
    const list = ids.map((id) => {
      const column = find(columns, id)
      const name = names?.get(id)
      const isCalledSo = name === undefined || (column.plain && column.sql.endsWith(`.${this.quote(name)}`))
      return isCalledSo ? column.sql : `${column.sql} AS ${this.quote(name)}`
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

  private standing({ place, alias, column }: NamedRows, query: RowQuery): Select {
    const own = this.aliases.give(alias)
    const called = this.quote(own)
    const columns = columnsOf(query, this.context.ground).map(({ id, type }): Said => {
      const { sql, name, required } = column(id)
      return { id, type, required, label: name, sql: `${called}.${sql}`, plain: true }
    })
    const from = place === called ? place : `${place} ${called}`
    return { columns, from, where: [], closed: false, distinct: false }
  }

  /** A query as something to select from. */
  private derived(query: RowQuery, select?: Select): Select {
    const columns = columnsOf(query, this.context.ground)
    const ids = columns.map(({ id }) => id)
    const names = this.names(query, ids)
    const inner = this.inner(query, select, ids, names)
    const called = this.quote(this.aliases.give('part'))
    return {
      columns: columns.map(({ id, type }) => ({
        id,
        type,
        label: names.get(id) ?? id,
        sql: `${called}.${this.quote(names.get(id) ?? id)}`,
        plain: true,
        required: select ? find(select.columns, id).required : false
      })),
      from: `(${indented(inner)}) ${called}`,
      where: [],
      closed: false,
      distinct: false
    }
  }

  private inner(
    query: RowQuery,
    select: Select | undefined,
    ids: readonly string[],
    names: ReadonlyMap<string, string>
  ): string {
    if (query.kind === 'constant') return this.constant(query, names)
    return select ? this.text(select, ids, names) : this.print(query, ids, names)
  }

  /** The same rows, so that something may be said about each: from a closed SELECT by another around it. */
  private open(select: Select, query: RowQuery): Select {
    return select.closed ? this.derived(query, select) : select
  }

  private constant(
    { columns, rows }: Extract<RowQuery, { kind: 'constant' }>,
    names: ReadonlyMap<string, string>
  ): string {
    const { noTable = '' } = this.speech.rows
    const list = (values: readonly Value[]): string =>
      columns
        .map(
          ({ id, type }, at) =>
            `${this.literal(values[at] ?? null, type)} AS ${this.quote(names.get(id) ?? id)}`
        )
        .join(', ')
    if (rows.length === 0) return `SELECT ${list([])} FROM (SELECT 1 AS one${noTable}) no_rows WHERE 1 = 0`
    return rows.map((values) => `SELECT ${list(values)}${noTable}`).join(' UNION ALL ')
  }

  private literal(value: Value, type: Type): string {
    const { saysTypes, saidText = (sql: string) => sql } = this.speech.rows
    const written = this.speech.literal(value, type)
    const isText = value !== null && (type.kind === 'text' || type.kind === 'char')
    const said = isText ? saidText(written) : written
    return saysTypes ? `CAST(${said} AS ${this.context.typeSql(type)})` : said
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
    return { ...inner, columns: projected.map((column) => this.worked(column, inner.columns)) }
  }

  private worked(column: Projected, of: readonly Said[]): Said {
    if ('from' in column) return { ...find(of, column.from), id: column.id }
    const { id, type } = column
    const label = this.context.called?.(id) ?? 'value'
    const required = 'value' in column && column.value !== null
    const sql = 'value' in column ? this.literal(column.value, type) : this.expression(column.is, of, type)
    return { id, label, type, required, plain: false, sql }
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
    const [own, others] = [this.beside(a, b), this.beside(b, a)]
    return mayBothBeEmpty ? this.speech.rows.sameOrEmpty(own, others) : `${own} = ${others}`
  }

  /** A column as what another is compared with: one of a list of values beside a text is a text. */
  private beside({ sql, type }: Said, other: Said): string {
    const isOfList = type.kind === 'enum' && other.type.kind !== 'enum'
    return isOfList && this.speech.enumTypes
      ? `CAST(${sql} AS ${this.context.typeSql({ kind: 'text' })})`
      : sql
  }

  private number({ of, as, by }: Extract<RowQuery, { kind: 'number' }>): Select {
    const inner = this.plain(this.select(of), of)
    const sql = `row_number() OVER (ORDER BY ${this.order(by, inner.columns)})`
    const type: Type = { kind: 'integer', size: 'big' }
    return {
      ...inner,
      columns: [...inner.columns, { id: as, label: 'number', sql, type, plain: false, required: true }],
      closed: true
    }
  }

  private first(query: Extract<RowQuery, { kind: 'first' }>): Select {
    const { of, per, by } = query
    const inner = this.plain(this.select(of), of)
    const parts = per.map((id) => find(inner.columns, id).sql).join(', ')
    const place: Said = {
      id: PLACE,
      label: PLACE,
      sql: `row_number() OVER (PARTITION BY ${parts} ORDER BY ${this.order(by, inner.columns)})`,
      type: { kind: 'integer', size: 'big' },
      plain: false,
      required: true
    }
    const ids = [...inner.columns.map(({ id }) => id), PLACE]
    const giver = new NameGiver(this.speech.facts.nameLimit)
    const all = [...inner.columns, place]
    const names = new Map(all.map(({ id, label }) => [id, giver.give(label)]))
    const ranked = this.text({ ...inner, columns: all }, ids, names)
    const called = this.quote(this.aliases.give('ranked'))
    const named = (id: string): string => `${called}.${this.quote(names.get(id) ?? id)}`
    return {
      columns: inner.columns.map((column) => ({ ...column, sql: named(column.id), plain: true })),
      from: `(${indented(ranked)}) ${called}`,
      where: [`${named(PLACE)} = 1`],
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
