import { byId } from '../design/by-id.ts'
import { columnsUsed } from '../design/expressions.ts'
import type { RowQuery } from '../design/row-query.ts'
import type { CatalogColumn, CatalogTable, CatalogType } from './catalog.ts'
import { indented } from './indent.ts'
import { keptNames } from './kept-names.ts'
import { comingHome, fixedIn, homeOf, type Home } from './kept-numbers.ts'
import type { Keepsake } from './migration.ts'
import { RowWriter, type GivenValue } from './row-writer.ts'
import { columnsIn } from './written.ts'

/** Of a whole table: 1 where the other way makes the row by itself, 0 where it makes one that was not there. */
export const RETURNS = 'returns'
/** What that says of a row that was not there. */
export const SURPLUS = '0'

/** Of what is kept, the rows that were there. */
const wereThere = ({ returns }: Keepsake): string =>
  returns.length === 0 ? '' : ` WHERE ${RETURNS} IS NULL OR ${RETURNS} <> ${SURPLUS}`

/** A table that comes back whole, to which numbered rows come. */
interface KeptHome extends Home {
  keepsake: Keepsake
  table: CatalogTable
  /** Its column for the number. */
  number: string
}

/**
 * Gives rows that are carried into tables that come back whole what was kept of them: the numbers that they had, and
 * what they must have and do not bring.
 */
export abstract class NumberWriter extends RowWriter {
  /** What the columns of each keepsake are called. */
  private readonly keptNames = new Map<string, ReadonlyMap<string, string>>()

  /** A column's value as a keepsake holds it. */
  protected asKept(sql: string, { type }: CatalogColumn): string {
    return this.asType({ sql, type }, this.keptType(type))
  }

  /** A column of a keepsake as the value of a column that there is now. */
  protected fromKept(keepsake: Keepsake, alias: string, id: string, now: CatalogColumn): string {
    const type = this.keptType(this.typeWhenKept(keepsake, id))
    return this.asType({ sql: `${alias}.${this.inKeepsake(keepsake, id)}`, type }, now.type)
  }

  /** A column as a keepsake calls it. */
  protected nameInKeepsake(keepsake: Keepsake, id: string): string {
    let names = this.keptNames.get(keepsake.name)
    if (!names) {
      const { keep, from, to } = this.input
      const isOwn = keep.some(({ name }) => name === keepsake.name)
      names = keptNames(keepsake, isOwn ? [from, to] : [to, from])
      this.keptNames.set(keepsake.name, names)
    }
    return names.get(id) ?? id
  }
  protected inKeepsake(keepsake: Keepsake, id: string): string {
    return this.speech.quote(this.nameInKeepsake(keepsake, id))
  }

  /** What is kept is of the state before, what is put back of the state after. */
  protected typeWhenKept(keepsake: Keepsake, id: string): CatalogType {
    const { keep, from, to } = this.input
    const told = keepsake.told?.columns.find((each) => each.id === id)
    if (told) return { sql: this.moves.typeSql(told.type), type: told.type }
    // A key that is filled in on the way is of the state after that.
    const catalogs = keep.some(({ name }) => name === keepsake.name) ? [from, to] : [to, from]
    const [column] = catalogs.flatMap(
      ({ tables }) => byId(byId(tables).get(keepsake.table)?.columns ?? []).get(id) ?? []
    )
    return column?.type ?? this.state.column(keepsake.table, id).type
  }

  /**
   * Rows that are numbered for tables that come back whole have the numbers that they had; those that are new go on
   * from the largest.
   */
  protected override numbersKept(result: string, select: string): string {
    const query = this.input.flow.results.find(({ name }) => name === result)?.query
    if (query?.kind !== 'number') return select
    const homes = this.homesOf(result, query.as)
    const found = homes.flatMap(
      (home, at) => this.numbersAtHome(result, query, home, homes, `kept_${at + 1}`) ?? []
    )
    if (found.length === 0) return select
    const { quote } = this.speech
    const of = this.moves.columnsOf(result)
    const number = quote(of.find(({ id }) => id === query.as)?.name ?? query.as)
    const had =
      found.length === 1 ? found[0]?.number : `coalesce(${found.map((each) => each.number).join(', ')})`
    const largest = found.map((each) => `SELECT coalesce(max(${each.kept}), 0) AS n FROM ${each.place}`)
    const next = `(SELECT max(largest.n) FROM (${largest.join(' UNION ALL ')}) largest) + row_number() OVER (PARTITION BY CASE WHEN ${had} IS NULL THEN 1 ELSE 0 END ORDER BY part.${number})`
    const values = of.map((each) =>
      each.id === query.as
        ? `coalesce(${had}, ${next}) AS ${number}`
        : `part.${quote(each.name)} AS ${quote(each.name)}`
    )
    const joins = found.map(({ sql, on }) => `\n  LEFT JOIN (${sql}) ${on}`).join('')
    return `SELECT ${values.join(', ')}\n  FROM (${indented(select)}) part${joins}`
  }

  /** The tables that come back whole to which the rows of a result come, and by which its numbers are known. */
  private homesOf(result: string, as: string): KeptHome[] {
    const { adds } = this.input.flow
    const homes = this.input.restore.flatMap((keepsake): KeptHome[] => {
      const table = byId(this.input.to.tables).get(keepsake.table)
      if (!table || keepsake.by !== 'table') return []
      const own = adds
        .filter((adding) => adding.table === table.id)
        .flatMap(({ rows }) => homeOf(rows, (part) => part.kind === 'result' && part.name === result) ?? [])
        .flatMap((home) => {
          const number = home.columns.get(as)
          return number === undefined ? [] : [{ ...home, keepsake, table, number }]
        })
      const isCalledAlike = byId(table.columns).has(as)
      const same = new Map(this.moves.columnsOf(result).map(({ id }) => [id, id]))
      if (own.length > 0 || !isCalledAlike) return own
      return [{ keepsake, table, number: as, columns: same, where: [] }]
    })
    const counting = homes.filter(({ table, number }) => byId(table.columns).get(number)?.generated)
    return counting.length > 0 ? counting : homes.slice(0, 1)
  }

  /** The numbers that a table had, by what tells the rows of a result from one another; nothing where nothing does. */
  private numbersAtHome(
    result: string,
    query: Extract<RowQuery, { kind: 'number' }>,
    home: KeptHome,
    homes: readonly KeptHome[],
    alias: string
  ): { sql: string; on: string; number: string; kept: string; place: string } | undefined {
    const { quote } = this.speech
    const { keepsake, table, number } = home
    const of = this.moves.columnsOf(result)
    const columns = byId(table.columns)
    const told = new Set(keepsake.told?.columns.map(({ id }) => id))
    const said = of
      .filter(({ id }) => id !== query.as)
      .flatMap((each) => {
        const own = home.columns.get(each.id)
        if (own !== undefined && columns.has(own)) return [{ ...each, own }]
        return told.has(each.id) ? [{ ...each, own: each.id }] : []
      })
    // A key tells a row from every other; what else is said of it may have changed.
    const key = [table.primaryKey, ...table.uniques].find((each) =>
      each?.columns.every((column) => said.some(({ own }) => own === column))
    )
    const facts = key ? said.filter(({ own }) => key.columns.includes(own)) : said
    // Of rows that all stand for the same, the other way makes one.
    const fixed = fixedIn(home)
    const isOne = of.every(({ id }) => id === query.as || fixed.has(id))
    if (facts.length === 0 && !isOne) return undefined
    const [place, kept] = [this.place(keepsake.name), this.inKeepsake(keepsake, number)]
    const inKeepsake = (each: (typeof facts)[number]): string => this.inKeepsake(keepsake, each.own)
    const agree = (each: (typeof facts)[number], one: string, sql: string): string => {
      const type = this.keptType(this.typeWhenKept(keepsake, each.own))
      return this.agree(
        one,
        this.asType({ sql, type: each.type }, type),
        columns.get(each.own)?.required ?? false
      )
    }
    const others = homes.filter((each) => each !== home)
    if (home.where.length === 0 && others.length === 0) {
      const names = facts.map(inKeepsake).join(', ')
      const same = facts.map((each) =>
        agree(each, `${alias}.${inKeepsake(each)}`, `part.${quote(each.name)}`)
      )
      return {
        sql: `SELECT ${names}, min(${kept}) AS ${kept} FROM ${place}${wereThere(keepsake)} GROUP BY ${names}`,
        on: `${alias} ON ${same.join(' AND ')}`,
        number: `${alias}.${kept}`,
        kept,
        place
      }
    }
    // Which rows come to this home is seen where they are numbered.
    const telling = new Set([...facts.map(({ id }) => id), ...home.where.flatMap(columnsUsed)])
    const passed = of.filter(({ id }) => telling.has(id))
    const { sql, column } = this.moves.source({ from: comingHome(query.of, home) }, 'coming')
    const same = facts.map((each) => agree(each, `kept.${inKeepsake(each)}`, column(each.id).sql))
    const found = same.length > 0 ? same.join(' AND ') : `kept.${kept} IS NOT NULL`
    // A number that two homes have leads to the rows of both.
    const alone = others.map((each) => {
      const [there, theirs] = [this.place(each.keepsake.name), this.inKeepsake(each.keepsake, each.number)]
      return `NOT EXISTS (SELECT 1 FROM ${there} other WHERE other.${theirs} = kept.${kept})`
    })
    const grouped = passed.map(({ id }) => column(id).sql)
    const named = passed.map(({ name }, at) => `${grouped[at]} AS ${quote(name)}`)
    const where = alone.length > 0 ? ` WHERE ${alone.join(' AND ')}` : ''
    const on = passed.map((each) =>
      this.agree(`${alias}.${quote(each.name)}`, `part.${quote(each.name)}`, false)
    )
    return {
      sql: `SELECT ${named.join(', ')}, min(kept.${kept}) AS ${kept} FROM ${sql}\n    JOIN (SELECT * FROM ${place}${wereThere(keepsake)}) kept ON ${found}${where}\n    GROUP BY ${grouped.join(', ')}`,
      on: `${alias} ON ${on.join(' AND ')}`,
      number: `${alias}.${kept}`,
      kept,
      place
    }
  }

  protected override numberKept(
    id: string,
    columns: readonly CatalogColumn[],
    given: readonly GivenValue[],
    select: string
  ): { given: GivenValue; rows: string } | undefined {
    const keepsake = this.input.restore.find((each) => each.table === id && each.by === 'table')
    const table = byId(this.input.to.tables).get(id)
    const counted = table?.columns.find((column) => column.generated)
    if (!keepsake || !counted || columns.length === 0 || columns.some((each) => each.id === counted.id))
      return undefined
    const { quote } = this.speech
    const [kept, place] = [this.inKeepsake(keepsake, counted.id), this.place(keepsake.name)]
    const same = columns.map((column) => {
      const type = this.keptType(this.typeWhenKept(keepsake, column.id))
      const value = this.asType({ sql: `made.${quote(column.name)}`, type: column.type }, type)
      return this.agree(`kept.${this.inKeepsake(keepsake, column.id)}`, value, column.required)
    })
    const facts = columns.map((column) => this.inKeepsake(keepsake, column.id)).join(', ')
    const once = `SELECT ${facts}, min(${kept}) AS ${kept} FROM ${place}${wereThere(keepsake)} GROUP BY ${facts}`
    const order = columns.map((column) => `made.${quote(column.name)}`).join(', ')
    const next = `(SELECT coalesce(max(largest.${kept}), 0) FROM ${place} largest) + (SELECT coalesce(max(there.${quote(counted.name)}), 0) FROM ${this.place(this.state.table(id).name)} there) + row_number() OVER (PARTITION BY CASE WHEN kept.${kept} IS NULL THEN 1 ELSE 0 END ORDER BY ${order})`
    const number = { name: counted.name, value: `coalesce(kept.${kept}, ${next})` }
    const values = columns.map((column) => `made.${quote(column.name)}`)
    const made = `SELECT ${given.map(({ name, value }) => `${value} AS ${quote(name)}`).join(', ')}\n    FROM (${indented(select)}) moved`
    const rows = `SELECT ${[number.value, ...values].join(', ')}\n  FROM (${made}) made\n  LEFT JOIN (${once}) kept ON ${same.join(' AND ')}`
    return { given: number, rows }
  }

  protected override completedFromKept(
    id: string,
    columns: readonly CatalogColumn[],
    given: readonly GivenValue[],
    select: string
  ): { given: GivenValue[]; rows: string } | undefined {
    const keepsake = this.input.restore.find((each) => each.table === id && each.by === 'table')
    const table = byId(this.input.to.tables).get(id)
    if (!keepsake || !table) return undefined
    const brings = (column: string): boolean => columns.some((each) => each.id === column)
    const missing = table.columns.filter(
      (each) => each.computed === undefined && !each.generated && !brings(each.id)
    )
    const looked = new Set(table.checks.flatMap(({ condition }) => columnsIn(condition)))
    const isNeeded = (each: CatalogColumn): boolean =>
      looked.has(each.id) || (each.required && each.default === undefined)
    const key = [table.primaryKey, ...table.uniques].find((each) => each?.columns.every(brings))
    const [first] = key?.columns ?? []
    if (!key || first === undefined || !missing.some(isNeeded)) return undefined
    const { quote } = this.speech
    const same = columns
      .filter((column) => key.columns.includes(column.id))
      .map((column) => {
        const made = `made.${quote(column.name)}`
        return this.agree(this.fromKept(keepsake, 'kept', column.id, column), made, column.required)
      })
    const isNew = `kept.${this.inKeepsake(keepsake, first)} IS NULL`
    const kept = missing.map((column) => {
      const value = this.fromKept(keepsake, 'kept', column.id, column)
      const begins = column.default
      return {
        name: column.name,
        value: begins === undefined ? value : `CASE WHEN ${isNew} THEN ${begins} ELSE ${value} END`
      }
    })
    const made = `SELECT ${given.map(({ name, value }) => `${value} AS ${quote(name)}`).join(', ')}\n    FROM (${indented(select)}) moved`
    const values = [...columns.map(({ name }) => `made.${quote(name)}`), ...kept.map(({ value }) => value)]
    const rows = `SELECT ${values.join(', ')}\n  FROM (${made}) made\n  LEFT JOIN (SELECT * FROM ${this.place(keepsake.name)}${wereThere(keepsake)}) kept ON ${same.join(' AND ')}`
    return { given: kept, rows }
  }

  /** Both are the same; or both are empty, where they may be, which costs an engine its best ways of joining. */
  protected agree(one: string, other: string, isSure: boolean): string {
    return isSure ? `${one} = ${other}` : this.speech.rows.sameOrEmpty(one, other)
  }
}
