import { STILL } from '../carry/flow.ts'
import { neededFor } from '../carry/needed.ts'
import { byId } from '../design/by-id.ts'
import type { RowQuery } from '../design/row-query.ts'
import {
  bareTable,
  type CatalogColumn,
  type CatalogForeignKey,
  type CatalogTable,
  type CatalogType
} from './catalog.ts'
import { keptNumbers, numbersIn, numbersShow, type KeptNumbers } from './kept-numbers.ts'
import type { NumberFacts, Keepsake, MigrationInput } from './migration.ts'
import type { MovedColumn, MoveWriter } from './moves.ts'
import { NumberWriter, RETURNS, SURPLUS } from './number-writer.ts'
import { sayTable } from './qualified.ts'
import type { DraftStatement } from './row-writer.ts'
import type { Speech } from './speech.ts'

/** Whether rows are known by a column of theirs: what is numbered anew may be another number than it had. */
const tells = (rows: RowQuery, column: CatalogColumn | undefined): boolean =>
  column !== undefined && !(column.generated && numbersIn(rows, column.id))

/**
 * Says which rows of a table that goes the other way makes by itself, and what of the others comes back: each with
 * the number that it had, and none that was not there.
 */
export abstract class WholeWriter extends NumberWriter {
  /** What the other way makes by itself, as it comes out of the state after. */
  protected readonly returning: MoveWriter

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

  protected get bigint(): string {
    return this.moves.typeSql({ kind: 'integer', size: 'big' })
  }

  /** Which rows of a whole table the other way will make by itself, from what there is now. */
  protected mark(keepsake: Keepsake): DraftStatement[] {
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
    { id, type: own, empty }: NumberFacts['columns'][number],
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
  ): DraftStatement[] {
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
  ): DraftStatement[] {
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
  protected takeSurplus(keepsake: Keepsake): DraftStatement[] {
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
  protected putBackRows(keepsake: Keepsake): DraftStatement[] {
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
  private putBackInPlace(keepsake: Keepsake, table: CatalogTable): DraftStatement[] {
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
  private putBackBeside(keepsake: Keepsake, table: CatalogTable): DraftStatement[] {
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
