import { STILL } from '../carry/flow.ts'
import { neededFor } from '../carry/needed.ts'
import { byId } from '../design/by-id.ts'
import { columnsUsed } from '../design/expressions.ts'
import type { RowQuery } from '../design/row-query.ts'
import {
  bareTable,
  type CatalogColumn,
  type CatalogForeignKey,
  type CatalogTable,
  type CatalogType
} from './catalog.ts'
import { indented } from './indent.ts'
import { keptNames } from './kept-names.ts'
import {
  comingHome,
  homeOf,
  keptNumbers,
  numbersIn,
  numbersShow,
  type Home,
  type KeptNumbers
} from './kept-numbers.ts'
import type { Told, Keepsake, MigrationInput } from './migration.ts'
import type { MovedColumn, MoveWriter } from './moves.ts'
import { sayTable } from './qualified.ts'
import { RowWriter, type Given, type Said } from './row-writer.ts'
import type { Speech } from './speech.ts'
import { columnsIn } from './written.ts'

/** Of a whole table: 1 where the other way makes the row by itself, 0 where it makes one that was not there. */
export const RETURNS = 'returns'
const SURPLUS = '0'

/** Of what is kept, the rows that were there. */
const wereThere = ({ returns }: Keepsake): string =>
  returns.length === 0 ? '' : ` WHERE ${RETURNS} IS NULL OR ${RETURNS} <> ${SURPLUS}`

/** Whether rows are known by a column of theirs: what is numbered anew may be another number than it had. */
const tells = (rows: RowQuery, column: CatalogColumn | undefined): boolean =>
  column !== undefined && !(column.generated && numbersIn(rows, column.id))

/** A table that comes back whole, to which numbered rows come. */
interface KeptHome extends Home {
  keepsake: Keepsake
  table: CatalogTable
  /** Its column for the number. */
  number: string
}

/**
 * Says which rows of a table that goes the other way makes by itself, and what of the others comes back: each with
 * the number that it had, and none that was not there.
 */
export abstract class WholeWriter extends RowWriter {
  /** What the other way makes by itself, as it comes out of the state after. */
  protected readonly returning: MoveWriter

  /** What the columns of each keepsake are called. */
  private readonly keptNames = new Map<string, ReadonlyMap<string, string>>()

  /** With the numbers that rows had. */
  protected readonly numbers: KeptNumbers

  constructor(input: MigrationInput, speech: Speech) {
    super(input, speech)
    const { from } = input
    this.numbers = keptNumbers(
      input,
      (keepsake, column) => this.keptType(this.typeWhenKept(keepsake, column)),
      (keepsake, column) => this.nameInKeepsake(keepsake, column)
    )
    const { catalog, state, tables } = this.numbers
    this.returning = this.mover(
      { from: catalog, to: from, flow: STILL, state },
      (id) => tables.get(id) ?? this.state.table(id)
    )
  }

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
    if (facts.length === 0) return undefined
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
      sql: `SELECT ${named.join(', ')}, min(kept.${kept}) AS ${kept} FROM ${sql}\n    JOIN (SELECT * FROM ${place}${wereThere(keepsake)}) kept ON ${same.join(' AND ')}${where}\n    GROUP BY ${grouped.join(', ')}`,
      on: `${alias} ON ${on.join(' AND ')}`,
      number: `${alias}.${kept}`,
      kept,
      place
    }
  }

  protected override numberKept(
    id: string,
    columns: readonly CatalogColumn[],
    given: readonly Given[],
    select: string
  ): { given: Given; rows: string } | undefined {
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
    given: readonly Given[],
    select: string
  ): { given: Given[]; rows: string } | undefined {
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

  protected get bigint(): string {
    return this.moves.typeSql({ kind: 'integer', size: 'big' })
  }

  /** Which rows of a whole table the other way will make by itself, from what there is now. */
  protected mark(keepsake: Keepsake): Said[] {
    const { name, table, returns } = keepsake
    const before = byId(this.input.from.tables).get(table)
    if (!before) return []
    const says = `see which of what is kept in ${name} is still told by what there is`
    const marks = returns.flatMap(({ rows, given, told = [] }) => {
      const { sql, column } = this.returning.source({ from: this.numbers.kept(rows) }, 'found')
      const on = [...given.filter((id) => tells(rows, byId(before.columns).get(id))), ...told]
      if (on.length === 0) return []
      const key = before.primaryKey?.columns ?? []
      // Where the rows that are made say less than a key, each is the first of those that it may be.
      if (key.some((id) => !on.includes(id))) return this.markFirst(keepsake, before, on, sql, column, says)
      return this.update({
        table: bareTable(before.id, name),
        sets: [{ column: RETURNS, value: '1' }],
        from: sql,
        on: on
          .map((id) => {
            const type = this.keptType(this.typeWhenKept(keepsake, id))
            const isSure = byId(before.columns).get(id)?.required ?? false
            return this.agree(`own.${this.inKeepsake(keepsake, id)}`, this.asType(column(id), type), isSure)
          })
          .join(' AND '),
        says
      })
    })
    return [
      this.addPlainColumn(name, RETURNS, this.bigint, says),
      ...marks,
      ...returns.flatMap((each) => this.noteSurplus(keepsake, before, each))
    ]
  }

  /** What the number of a row stands for, as it is kept beside it: as the way down fills it where nothing is said. */
  protected toldValue(
    keepsake: Keepsake,
    { id, type: own, empty }: Told['columns'][number],
    said: MovedColumn | undefined
  ): string {
    const literal = empty === undefined ? undefined : this.speech.literal(empty, own)
    if (!said) return literal ?? 'NULL'
    const filled = literal === undefined ? said.sql : `coalesce(${said.sql}, ${literal})`
    return this.asType({ sql: filled, type: said.type }, this.keptType(this.typeWhenKept(keepsake, id)))
  }

  private markFirst(
    keepsake: Keepsake,
    before: CatalogTable,
    given: readonly string[],
    sql: string,
    column: (id: string) => MovedColumn,
    says: string
  ): Said[] {
    const kept = (id: string): string => this.inKeepsake(keepsake, id)
    const key = (before.primaryKey?.columns ?? []).map(kept)
    const type = (id: string): CatalogType => this.keptType(this.typeWhenKept(keepsake, id))
    const isSure = (id: string): boolean => byId(before.columns).get(id)?.required ?? false
    const same = given.map((id) =>
      this.agree(`placed.${kept(id)}`, this.asType(column(id), type(id)), isSure(id))
    )
    const place = `row_number() OVER (PARTITION BY ${given.map(kept).join(', ')} ORDER BY ${key.join(', ')})`
    const placed = `SELECT kept.*, ${place} AS place_in_order FROM ${this.place(keepsake.name)} kept`
    const keys = key.map((each) => `placed.${each}`).join(', ')
    const first = `SELECT ${keys} FROM (${placed}) placed\n    JOIN ${sql} ON ${same.join(' AND ')}\n    WHERE placed.place_in_order = 1`
    return this.update({
      table: bareTable(before.id, keepsake.name),
      sets: [{ column: RETURNS, value: '1' }],
      from: `(${first}) first_of`,
      on: key.map((each) => `own.${each} = first_of.${each}`).join(' AND '),
      says
    })
  }

  /** Rows that the other way will make though they were not there: it takes them out again, unless they change. */
  private noteSurplus(
    keepsake: Keepsake,
    before: CatalogTable,
    { rows: made, given, begins, told = [] }: Keepsake['returns'][number]
  ): Said[] {
    const isSaid = ({ id, required, generated, computed }: CatalogColumn): boolean =>
      !required || generated || computed !== undefined || given.includes(id) || begins.includes(id)
    if (!before.columns.every(isSaid)) return []
    const columns = [...given, ...begins].filter((id) => tells(made, byId(before.columns).get(id)))
    const shown = new Set([...columns, ...told])
    const needed = (rows: RowQuery): RowQuery => neededFor(rows, shown, this.numbers.state)
    // Numbers that only lead from row to row lead alike when they are counted again; others are those that were kept.
    const anew = needed(made)
    const from = numbersShow(anew, shown) ? needed(this.numbers.kept(made)) : anew
    const { sql, column } = this.returning.source({ from }, 'found')
    const found = columns.map((id) => ({
      id,
      sql: this.asType(column(id), this.keptType(this.typeWhenKept(keepsake, id))),
      isSure: byId(before.columns).get(id)?.required ?? false
    }))
    // What is numbered anew here may be another number than it had.
    if (found.length === 0 || numbersShow(from, shown)) return []
    const there = [
      ...found.map(({ id, sql: value, isSure }) =>
        this.agree(`own.${this.inKeepsake(keepsake, id)}`, value, isSure)
      ),
      ...told.map((id) => {
        const value = this.asType(column(id), this.keptType(this.typeWhenKept(keepsake, id)))
        return this.agree(`own.${this.inKeepsake(keepsake, id)}`, value, false)
      })
    ]
    // A number that nobody looks at, where there must be one.
    const numbered = before.columns
      .filter(({ id, generated }) => generated && !columns.includes(id))
      .map(({ id }) => ({ name: this.nameInKeepsake(keepsake, id), value: '0' }))
    const beside = (keepsake.told?.columns ?? []).map((each) => ({
      name: this.nameInKeepsake(keepsake, each.id),
      value: this.toldValue(keepsake, each, told.includes(each.id) ? column(each.id) : undefined)
    }))
    const others = [...numbered, ...beside]
    const values = [...found.map((each) => each.sql), ...others.map(({ value }) => value), SURPLUS]
    const rows = `SELECT ${values.join(', ')} FROM ${sql}\n  WHERE NOT EXISTS (SELECT 1 FROM ${this.place(keepsake.name)} own WHERE ${there.join(' AND ')})`
    return this.insert(
      bareTable(before.id, keepsake.name),
      [
        ...found.map(({ id, sql: value }) => ({ name: this.nameInKeepsake(keepsake, id), value })),
        ...others,
        { name: RETURNS, value: SURPLUS }
      ],
      rows,
      `note which rows of ${sayTable(before.name)} come back that were not there`
    )
  }

  /** Rows that were not there before the way back go again, where they are as they were made and nothing needs them. */
  protected takeSurplus(keepsake: Keepsake): Said[] {
    const table = this.state.table(keepsake.table)
    return keepsake.returns.flatMap(({ rows, given, begins }) => {
      const columns = [...given, ...begins]
        .map((id) => this.state.column(table.id, id))
        .filter((column) => tells(rows, column))
      if (columns.length === 0) return []
      const same = columns.map((column) =>
        this.agree(this.own(column), this.fromKept(keepsake, 'kept', column.id, column), column.required)
      )
      const empty = keepsake.returns
        .flatMap((each) => [...each.given, ...each.begins])
        .filter((id) => !given.includes(id) && !begins.includes(id))
        .map((id) => `kept.${this.inKeepsake(keepsake, id)} IS NULL`)
      const noted = [`kept.${RETURNS} = ${SURPLUS}`, ...same, ...new Set(empty)]
      // Another row that says the same has a number that was kept.
      const numbered = [...given, ...begins]
        .map((id) => this.state.column(table.id, id))
        .filter((column) => !columns.includes(column))
        .map((column) => `${this.own(column)} = ${this.fromKept(keepsake, 'there', column.id, column)}`)
      const place = this.place(keepsake.name)
      const where = [
        `EXISTS (SELECT 1 FROM ${place} kept WHERE ${noted.join(' AND ')})`,
        ...(numbered.length > 0
          ? [
              `NOT EXISTS (SELECT 1 FROM ${place} there WHERE ${[...numbered, `(there.${RETURNS} IS NULL OR there.${RETURNS} <> ${SURPLUS})`].join(' AND ')})`
            ]
          : []),
        ...this.nothingNeeds(table)
      ]
      const says = `take out what was not there of the rows of ${sayTable(table.name)}`
      return this.remove(table, where.join('\n    AND '), says)
    })
  }

  /** Conditions: no row refers to this one. */
  private nothingNeeds(table: CatalogTable): string[] {
    return this.input.to.tables.flatMap((child) => {
      const now = this.state.tables.get(child.id)
      return child.foreignKeys
        .filter((key) => key.table === table.id && now !== undefined)
        .filter((key) => key.columns.every((id) => now !== undefined && byId(now.columns).has(id)))
        .map((key) => {
          const same = key.columns.map((id, at) => {
            const target = this.state.column(table.id, key.refersTo[at] as string)
            const own = this.state.column(child.id, id)
            const value = this.asType({ sql: this.own(own, 'child'), type: own.type }, target.type)
            return `${value} = ${this.own(target)}`
          })
          return `NOT EXISTS (SELECT 1 FROM ${this.place((now as CatalogTable).name)} child WHERE ${same.join(' AND ')})`
        })
    })
  }

  /** The rows of a whole table come back where nothing has taken their place and what they refer to is there. */
  protected putBackRows(keepsake: Keepsake): Said[] {
    const { name, table: id, returns } = keepsake
    const table = this.state.table(id)
    const plain = table.columns.filter((column) => column.computed === undefined)
    const given = plain.map((column) => ({
      name: column.name,
      value: this.fromKept(keepsake, 'kept', column.id, column)
    }))
    const wanted = byId(this.input.to.tables).get(id)
    const fits = [
      ...(returns.length > 0 ? [`kept.${RETURNS} IS NULL`, ...this.noneIsThere(keepsake, table)] : []),
      ...(wanted?.foreignKeys ?? []).flatMap((key) => this.leadsSomewhere(keepsake, key, 'kept') ?? [])
    ]
    const where = fits.length === 0 ? '' : `\n  WHERE ${fits.join('\n    AND ')}`
    const values = given.map(({ value }) => value).join(', ')
    const rows = `SELECT ${values} FROM ${this.place(name)} kept${where}`
    return [
      ...this.putBackInPlace(keepsake, table),
      ...this.putBackBeside(keepsake, table),
      ...this.insert(table, given, rows, `put the kept rows of ${sayTable(table.name)} back`)
    ]
  }

  /** Where a row comes back otherwise than it was, under the key that it had, it gets what it had: others may need it. */
  private putBackInPlace(keepsake: Keepsake, table: CatalogTable): Said[] {
    const key = byId(this.input.to.tables).get(table.id)?.primaryKey?.columns ?? []
    const others = table.columns.filter(
      ({ id, computed, generated }) => computed === undefined && !generated && !key.includes(id)
    )
    return keepsake.returns.flatMap(({ rows, given, begins }) => {
      const made = [...given, ...begins]
        .map((id) => this.state.column(table.id, id))
        .filter((column) => tells(rows, column))
      const keyed = key.map((id) => this.state.column(table.id, id))
      // A number that a kept row has is given to no other than what it stood for.
      const isKeyed =
        key.length > 0 && keyed.every((column) => column.generated || made.some(({ id }) => id === column.id))
      if (!isKeyed || made.length === 0 || others.length === 0) return []
      const agrees = (alias: string, columns: readonly CatalogColumn[]): string[] =>
        columns.map((column) =>
          this.agree(this.own(column), this.fromKept(keepsake, alias, column.id, column), column.required)
        )
      const place = this.place(keepsake.name)
      const noted = [`noted.${RETURNS} = ${SURPLUS}`, ...agrees('noted', made)].join(' AND ')
      return this.update({
        table,
        sets: others.map((column) => ({
          column: column.name,
          value: this.fromKept(keepsake, 'kept', column.id, column)
        })),
        from: `${place} kept`,
        on: [`kept.${RETURNS} IS NULL`, ...agrees('kept', keyed)].join(' AND '),
        where: `EXISTS (SELECT 1 FROM ${place} noted WHERE ${noted})`,
        says: `put back what was kept of rows of ${sayTable(table.name)} that come back otherwise`
      })
    })
  }

  /** Rows that have been made get back what they were not made with. */
  private putBackBeside(keepsake: Keepsake, table: CatalogTable): Said[] {
    return keepsake.returns.flatMap(({ rows, given }) => {
      const others = table.columns.filter(
        (column) => column.computed === undefined && !column.generated && !given.includes(column.id)
      )
      if (others.length === 0) return []
      const on = given
        .map((id) => this.state.column(table.id, id))
        .filter((column) => tells(rows, column))
        .map((column) =>
          this.agree(this.own(column), this.fromKept(keepsake, 'kept', column.id, column), column.required)
        )
      return this.update({
        table,
        sets: others.map((column) => ({
          column: column.name,
          value: this.fromKept(keepsake, 'kept', column.id, column)
        })),
        from: `${this.place(keepsake.name)} kept`,
        on: [`kept.${RETURNS} = 1`, ...on].join(' AND '),
        says: `put back what else was kept of the rows of ${sayTable(table.name)}`
      })
    })
  }

  /** Both are the same; or both are empty, where they may be, which costs an engine its best ways of joining. */
  protected agree(one: string, other: string, isSure: boolean): string {
    return isSure ? `${one} = ${other}` : this.speech.rows.sameOrEmpty(one, other)
  }

  /** Conditions: no row is there that has a key of the kept one. */
  private noneIsThere(keepsake: Keepsake, table: CatalogTable): string[] {
    return [...(table.primaryKey ? [table.primaryKey] : []), ...table.uniques].map((key) => {
      const same = key.columns.map((id) => {
        const column = this.state.column(table.id, id)
        return `${this.own(column)} = ${this.fromKept(keepsake, 'kept', id, column)}`
      })
      return `NOT EXISTS (SELECT 1 FROM ${this.place(table.name)} own WHERE ${same.join(' AND ')})`
    })
  }

  /** A condition: what a kept row refers to is there. Nothing where that cannot be told, or need not be. */
  protected leadsSomewhere(keepsake: Keepsake, key: CatalogForeignKey, alias: string): string | undefined {
    const referred = this.state.tables.get(key.table)
    const isKept = (id: string): boolean =>
      keepsake.by === 'table' || [...keepsake.key, ...keepsake.columns.map((each) => each.id)].includes(id)
    if (!referred || !key.columns.every(isKept)) return undefined
    const isSelf = referred.id === keepsake.table
    const pairs = key.columns.map((id, at): [string, string] => [id, key.refersTo[at] as string])
    if (!pairs.every(([, to]) => byId(referred.columns).has(to))) return undefined
    const agree = pairs.map(([id, to]) =>
      isSelf
        ? `parent.${this.inKeepsake(keepsake, to)} = ${alias}.${this.inKeepsake(keepsake, id)}`
        : `${this.own(this.state.column(referred.id, to), 'parent')} = ${this.fromKept(keepsake, alias, id, this.state.column(referred.id, to))}`
    )
    const wanted = byId(byId(this.input.to.tables).get(keepsake.table)?.columns ?? [])
    const empty = key.columns
      .filter((id) => !wanted.get(id)?.required)
      .map((id) => `${alias}.${this.inKeepsake(keepsake, id)} IS NULL`)
    const place = this.place(isSelf ? keepsake.name : referred.name)
    const now = `EXISTS (SELECT 1 FROM ${place} parent WHERE ${agree.join(' AND ')})`
    const soon = isSelf ? undefined : this.comesBack(keepsake, referred, pairs, alias)
    const isThere = soon === undefined ? now : `(${now} OR ${soon})`
    return empty.length === 0 ? isThere : `(${[...empty, isThere].join(' OR ')})`
  }

  /** A condition: what a kept row refers to is itself among rows that are put back. */
  private comesBack(
    keepsake: Keepsake,
    referred: CatalogTable,
    pairs: readonly [string, string][],
    alias: string
  ): string | undefined {
    const whole = this.input.restore.find((each) => each.table === referred.id && each.by === 'table')
    if (!whole) return undefined
    const agree = pairs.map(([id, to]) => {
      const column = this.state.column(referred.id, to)
      return `${this.fromKept(whole, 'coming', to, column)} = ${this.fromKept(keepsake, alias, id, column)}`
    })
    return `EXISTS (SELECT 1 FROM ${this.place(whole.name)} coming WHERE ${agree.join(' AND ')})`
  }
}
