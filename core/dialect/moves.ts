import { indented } from './indent.ts'
import { columnsOf } from '../carry/columns.ts'
import { groundOf } from '../carry/ground.ts'
import { byId } from '../design/by-id.ts'
import type { Adding, Fill } from '../design/carry.ts'
import type { Type } from '../design/type.ts'
import { saidEmpty, type RowQuery, type TypedColumn } from '../design/row-query.ts'
import { NameGiver } from '../naming/fit.ts'
import { once } from '../once.ts'
import type { Catalog, CatalogTable, CatalogType } from './catalog.ts'
import { LOOSE, typeWords } from './facts.ts'
import type { MigrationInput } from './migration.ts'
import { nameParts } from './qualified.ts'
import { printRows, printValues, type RowContext } from './rows.ts'
import type { Speech } from './speech.ts'

/** What things are called at this point of a migration. */
export interface Calling {
  /** A table of before, by its id, with its schema. */
  table(id: string): string
  column(id: string, table: CatalogTable): string
  /** A list of values, by its id. */
  list(id: string): string
  /** A table's name as it is written. */
  place(name: string): string
}

/** Columns of rows that are moved, as SQL, with the types that they have there. */
export interface MovedColumn {
  id: string
  sql: string
  type: CatalogType
}

const namesOfColumns = once(
  ({ tables }: Catalog): ReadonlyMap<string, string> =>
    new Map(tables.flatMap(({ columns }) => columns.map(({ id, name }) => [id, name])))
)

/** Prints what a migration moves, with the tables of before as they are called by then. */
export class MoveWriter {
  private readonly context: RowContext
  private readonly types = new Map<string, readonly TypedColumn[]>()
  private readonly passing = new Map<string, string>()
  private readonly resultNames = new Map<string, ReadonlyMap<string, string>>()

  constructor(
    private readonly input: Pick<MigrationInput, 'from' | 'to' | 'flow' | 'state'>,
    private readonly speech: Speech,
    private readonly calling: Calling
  ) {
    const { state, from } = input
    this.nameResults()
    const tables = byId(from.tables)
    this.context = {
      ground: groundOf(state, this.types),
      typeSql: (type) => this.typeSql(type),
      table: (id) => {
        const table = tables.get(id) as CatalogTable
        const name = calling.table(id)
        const columns = byId(table.columns)
        return {
          place: calling.place(name),
          alias: nameParts(name).at(-1) ?? name,
          column: (column) => ({
            sql: speech.quote(calling.column(column, table)),
            name: calling.column(column, table),
            required: columns.get(column)?.required ?? false
          })
        }
      },
      result: (name) => ({
        place: speech.quote(this.passingName(name)),
        alias: this.passingName(name),
        column: (id) => {
          const called = this.namesIn(name).get(id) ?? id
          return { sql: speech.quote(called), name: called, required: false }
        }
      }),
      called: (id) => namesOfColumns(input.to).get(id)
    }
    for (const { name, query } of input.flow.results) {
      this.types.set(name, columnsOf(query, this.context.ground))
    }
  }

  /** Results are called so that no table is called the same. */
  private nameResults(): void {
    const { from, to, flow } = this.input
    if (flow.results.length === 0) return
    const names = new NameGiver(this.speech.facts.nameLimit)
    for (const table of [...from.tables, ...to.tables]) names.give(nameParts(table.name).at(-1) ?? '')
    for (const { name } of flow.results) this.passing.set(name, names.give(`carried_${name}`))
  }

  /** What the columns of a result are called: as they were when it was first asked, where it is made. */
  private namesIn(name: string): ReadonlyMap<string, string> {
    const known = this.resultNames.get(name)
    if (known) return known
    const result = this.input.flow.results.find((each) => each.name === name)
    const { names } = result
      ? printRows(this.speech, result.query, this.context, { naming: true })
      : { names: new Map<string, string>() }
    this.resultNames.set(name, names)
    return names
  }

  private passingName(name: string): string {
    return this.passing.get(name) ?? name
  }

  typeSql(type: Type): string {
    const { speech, input, calling } = this
    const list = type.kind === 'enum' ? byId(input.state.enums).get(type.enum) : undefined
    const context = list ? { values: list.values, listName: calling.list(list.id), inKey: 0 } : LOOSE
    return typeWords(speech.types, speech.name, speech.facts.title, type, context).sql
  }

  /** The results that are worked out once, in their order. */
  results(): { name: string; select: string }[] {
    return this.input.flow.results.map(({ name }) => this.result(name))
  }

  /** A result that is worked out once: what it is called, and its SELECT. @throws Error */
  result(wanted: string): { name: string; select: string } {
    const result = this.input.flow.results.find(({ name }) => name === wanted)
    if (!result) throw new Error(`There is no result ${wanted}.`)
    const { sql, names } = printRows(this.speech, result.query, this.context, { naming: true })
    this.resultNames.set(wanted, names)
    return { name: this.passingName(wanted), select: sql }
  }

  /** The columns of a result, by what they are called in it. */
  columnsOf(wanted: string): { id: string; name: string; type: CatalogType }[] {
    const names = this.namesIn(wanted)
    return (this.types.get(wanted) ?? []).map(({ id, type }) => ({
      id,
      name: names.get(id) ?? id,
      type: { sql: this.typeSql(type), type }
    }))
  }

  /** Rows that are only looked for, as SELECT. */
  rows(query: RowQuery): string {
    return printRows(this.speech, query, this.context, { naming: true }).sql
  }

  /** Rows that come into a table: which of its columns they have, and their SELECT. */
  adding(
    { rows }: Adding,
    target: CatalogTable
  ): { columns: MovedColumn[]; select(naming: boolean): string } {
    const columns = columnsOf(rows, this.context.ground)
    // What is said to be empty is left to the engine, which may have a default for it.
    const empty = saidEmpty(rows)
    const given = target.columns.filter(
      ({ id, computed }) =>
        computed === undefined && !empty.has(id) && columns.some((column) => column.id === id)
    )
    const wanted = given.map(({ id }) => id)
    const { names } = printRows(this.speech, rows, this.context, { wanted, naming: true })
    return {
      columns: given.map(({ id }) => this.moved(columns, id, this.speech.quote(names.get(id) ?? id))),
      select: (naming) => printRows(this.speech, rows, this.context, { wanted, naming }).sql
    }
  }

  /** Where a fill takes from, under an alias: what stands in FROM, and its columns. */
  source({ from }: Pick<Fill, 'from'>, alias: string): { sql: string; column(id: string): MovedColumn } {
    const columns = columnsOf(from, this.context.ground)
    const called = this.speech.quote(alias)
    if (from.kind === 'table' || from.kind === 'result') {
      const { place, column } =
        from.kind === 'table' ? this.context.table(from.table) : this.context.result(from.name)
      return {
        sql: `${place} ${called}`,
        column: (id) => this.moved(columns, id, `${called}.${column(id).sql}`)
      }
    }
    const { sql, names } = printRows(this.speech, from, this.context, { naming: true })
    return {
      sql: `(${indented(sql)}) ${called}`,
      column: (id) => this.moved(columns, id, `${called}.${this.speech.quote(names.get(id) ?? id)}`)
    }
  }

  /**
   * What a fill takes where that comes from the row itself, found by a key of its own; nothing where it
   * comes from elsewhere.
   */
  own({ from, table, on, columns }: Fill): ((id: string) => MovedColumn) | undefined {
    if (from.kind !== 'project' || from.of.kind !== 'table' || from.of.table !== table) return undefined
    const isItself = on.every(({ own, other }) =>
      from.columns.some((column) => column.id === other && 'from' in column && column.from === own)
    )
    if (!isItself) return undefined
    const wanted = from.columns.filter(({ id }) => columns.some((each) => each.from === id))
    const values = printValues(this.speech, wanted, table, this.context)
    const given = columnsOf(from, this.context.ground)
    return (id) => this.moved(given, id, values.get(id) ?? '')
  }

  private moved(columns: readonly TypedColumn[], id: string, sql: string): MovedColumn {
    const column = columns.find((each) => each.id === id) as TypedColumn
    return { id, sql, type: { sql: this.typeSql(column.type), type: column.type } }
  }

  /** The condition under which a row takes from another. */
  agreed(fill: Fill, own: (id: string) => string, other: (id: string) => string): string {
    return fill.on
      .map((each) =>
        each.empty
          ? this.speech.rows.sameOrEmpty(own(each.own), other(each.other))
          : `${other(each.other)} = ${own(each.own)}`
      )
      .join(' AND ')
  }
}
