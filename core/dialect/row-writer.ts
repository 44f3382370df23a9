import { indented } from './indent.ts'
import type { CatalogColumn, CatalogTable, CatalogType, Statement } from './catalog.ts'
import type { MigrationInput } from './migration.ts'
import { MoveWriter, type MovedColumn } from './moves.ts'
import { sayTable } from './qualified.ts'
import type { Speech } from './speech.ts'
import { State } from './state.ts'
import { asideId, type MoveStep } from './step.ts'
import { nameOfColumn } from './written.ts'
import { tableIn } from './sql-words.ts'

/** A statement in the making. */
export interface DraftStatement extends Statement {
  /**
   * Where it is a clause of ALTER TABLE: what that begins with. Clauses of one table that come one after
   * another by steps of one kind stand in one statement.
   */
  alters?: string
  /** What is to be done first where this is taken back half-way. */
  cleanup?: string
}

/** New values for the rows of a table from those of another. */
export interface Update {
  table: CatalogTable
  sets: { column: string; value: string }[]
  /** What stands in FROM, with its alias; the table itself is called `own`. */
  from: string
  /** Which rows go together. */
  on: string
  /** What must hold besides. */
  where?: string
  says: string
}

/** What a new row's column takes, and what it is called. */
export interface GivenValue {
  name: string
  value: string
}

/** What tells a row of a table from all others, and what has to be done for that before and after. */
export interface RowId {
  before: DraftStatement[]
  /** Its columns as they are written. */
  columns: string[]
  after: DraftStatement[]
}

/** Says what moves rows, each step over what there is by then, with what a dialect has its own words for left open. */
export abstract class RowWriter {
  protected state: State
  protected readonly moves: MoveWriter

  constructor(
    protected readonly input: MigrationInput,
    protected readonly speech: Speech
  ) {
    this.state = new State(input.from)
    this.moves = this.mover(input, (id) => this.source(id))
  }

  /** Prints what is moved, with tables as they are found. */
  protected mover(
    input: ConstructorParameters<typeof MoveWriter>[0],
    table: (id: string) => CatalogTable
  ): MoveWriter {
    return new MoveWriter(input, this.speech, {
      table: (id) => table(id).name,
      column: (id, { id: of }) => nameOfColumn(table(of), id),
      list: (id) => (this.state.lists.get(asideId(id)) ?? this.state.lists.get(id))?.name ?? id,
      place: (name) => this.place(name)
    })
  }

  protected abstract update(update: Update): DraftStatement[]
  /** A value as one of another type. */
  protected abstract convert(sql: string, from: CatalogType, to: CatalogType): string
  protected abstract lock(tables: readonly CatalogTable[]): DraftStatement[]
  /** A table made of rows. `passing`: it is dropped before the end. */
  protected abstract createAs(name: string, select: string, says: string, passing: boolean): DraftStatement[]
  /** A table, unless it is there already. */
  protected abstract createMissing(name: string, columns: string, says: string): DraftStatement
  /** Stops, and says why, where there is any such row. */
  protected abstract stopWhere(rows: string, says: string): DraftStatement
  protected abstract rowId(table: CatalogTable): RowId

  /** A table that is read, as it stands at this point. */
  protected source(id: string): CatalogTable {
    return this.state.table(id)
  }

  /** The type in which a keepsake holds a column. */
  protected keptType(type: CatalogType): CatalogType {
    return type
  }

  /** Rows put in; they may come with numbers of their own. */
  protected insert(
    table: CatalogTable,
    given: readonly GivenValue[],
    rows: string,
    says: string
  ): DraftStatement[] {
    const names = given.map(({ name }) => this.speech.quote(name)).join(', ')
    return [{ sql: `INSERT INTO ${this.place(table.name)} (${names})\n  ${rows}`, says }]
  }

  /** The SELECT of a result, where rows of it have had numbers before. */
  protected numbersKept(_result: string, select: string): string {
    return select
  }

  /** Rows go for which a condition holds; the table is called `own`. */
  protected remove(table: CatalogTable, where: string, says: string): DraftStatement[] {
    return [{ sql: `DELETE FROM ${this.place(table.name)} own\n  WHERE ${where}`, says }]
  }

  protected addPlainColumn(table: string, name: string, type: string, says: string): DraftStatement {
    return { sql: `ALTER TABLE ${this.place(table)} ADD ${this.speech.quote(name)} ${type}`, says }
  }

  /** A table that was made on the way, as it is written. */
  protected passing(name: string): string {
    return this.speech.quote(name)
  }

  protected drop(place: string): string {
    return `DROP TABLE ${place}`
  }

  protected place(table: string): string {
    return tableIn(this.speech, table)
  }

  protected moveRows(step: MoveStep): DraftStatement[] {
    switch (step.kind) {
      case 'lock':
        return this.lock(step.tables.map((id) => this.state.table(id)))
      case 'stage': {
        const { name, select } = this.moves.result(step.result)
        const said = 'work out once what is read more than once'
        return this.createAs(name, this.numbersKept(step.result, select), said, true)
      }
      case 'require': {
        const { query, says } = step.requirement
        return [this.stopWhere(this.moves.rows(query), says)]
      }
      case 'unstage':
        return [
          {
            sql: this.drop(this.passing(this.moves.result(step.result).name)),
            says: 'what was worked out is in its place'
          }
        ]
      case 'clear': {
        const { name } = this.state.table(step.table)
        return [{ sql: `DELETE FROM ${this.place(name)}`, says: `clear ${sayTable(name)}` }]
      }
      case 'number':
        return this.number(this.state.table(step.table), this.state.column(step.table, step.column))
      case 'fill':
        return this.fill(step)
      case 'addRows':
        return this.addRows(step)
      case 'fillEmpty':
        return [this.fillEmpty(this.state.table(step.table), this.state.column(step.table, step.column))]
    }
  }

  private fillEmpty(table: CatalogTable, { name, default: begins }: CatalogColumn): DraftStatement {
    const says = `fill ${sayTable(table.name)}.${name} where it is empty`
    const isEmpty = `${this.speech.quote(name)} IS NULL`
    return this.updateOwn(table, [{ column: name, value: begins ?? 'NULL' }], isEmpty, says)
  }

  private fill({ fill }: Extract<MoveStep, { kind: 'fill' }>): DraftStatement[] {
    const { quote } = this.speech
    const table = this.state.table(fill.table)
    const columns = fill.columns.map(({ id }) => this.state.column(fill.table, id))
    const empty = fill.whereEmpty ? ' where it is empty' : ''
    const says = `fill ${columns.map(({ name }) => name).join(', ')} of ${sayTable(table.name)}${empty}`
    const sets = (of: (id: string) => MovedColumn, own: string): Update['sets'] =>
      fill.columns.map(({ from }, at) => {
        const target = columns[at] as CatalogColumn
        const value = this.asType(of(from), target.type)
        const isKept = fill.whereEmpty && columns.length > 1
        return {
          column: target.name,
          value: isKept ? `coalesce(${own}${quote(target.name)}, ${value})` : value
        }
      })
    const [only] = columns
    const isEmpty = fill.whereEmpty && columns.length === 1 ? `${quote(only?.name ?? '')} IS NULL` : undefined
    const own = this.moves.own(fill)
    if (own) return [this.updateOwn(table, sets(own, ''), isEmpty, says)]
    const { sql, column } = this.moves.source(fill, 'other')
    return this.update({
      table,
      sets: sets(column, 'own.'),
      from: sql,
      on: this.moves.agreed(
        fill,
        (id) => `own.${quote(nameOfColumn(table, id))}`,
        (id) => column(id).sql
      ),
      ...(isEmpty !== undefined && { where: `own.${isEmpty}` }),
      says
    })
  }

  /** New values for the rows of a table from what they have themselves. */
  protected updateOwn(
    table: CatalogTable,
    sets: Update['sets'],
    where: string | undefined,
    says: string
  ): DraftStatement {
    const values = sets.map(({ column, value }) => `${this.speech.quote(column)} = ${value}`).join(', ')
    const condition = where === undefined ? '' : `\n  WHERE ${where}`
    return { sql: `UPDATE ${this.place(table.name)} SET ${values}${condition}`, says }
  }

  private addRows({ adding }: Extract<MoveStep, { kind: 'addRows' }>): DraftStatement[] {
    const table = this.state.table(adding.table)
    const { columns, select } = this.moves.adding(adding, table)
    const wanted = columns.map(({ id }) => this.state.column(adding.table, id))
    const isSame = columns.every(({ type }, at) => type.sql === wanted[at]?.type.sql)
    const given = columns.map((column, at) => {
      const target = wanted[at] as CatalogColumn
      return { name: target.name, value: this.asType(column, target.type) }
    })
    const says = `carry rows into ${sayTable(table.name)}`
    const number = this.numberKept(adding.table, wanted, given, select(true))
    if (number) return this.insert(table, [number.given, ...given], number.rows, says)
    const completed = this.completedFromKept(adding.table, wanted, given, select(true))
    if (completed) return this.insert(table, [...given, ...completed.given], completed.rows, says)
    const rows = isSame
      ? select(false)
      : `SELECT ${given.map(({ value }) => value).join(', ')}\n  FROM (${indented(select(true))}) moved`
    return this.insert(table, given, rows, says)
  }

  /** Rows with the number that each has had before in a table that counts them; nothing where none has. */
  protected numberKept(
    _table: string,
    _columns: readonly CatalogColumn[],
    _given: readonly GivenValue[],
    _select: string
  ): { given: GivenValue; rows: string } | undefined {
    return undefined
  }

  /** Rows with what they must have and do not bring, as it was kept of them; nothing where they bring all. */
  protected completedFromKept(
    _table: string,
    _columns: readonly CatalogColumn[],
    _given: readonly GivenValue[],
    _select: string
  ): { given: GivenValue[]; rows: string } | undefined {
    return undefined
  }

  protected asType({ sql, type }: Pick<MovedColumn, 'sql' | 'type'>, wanted: CatalogType): string {
    return type.sql === wanted.sql ? sql : this.convert(sql, type, wanted)
  }

  protected own(column: CatalogColumn, alias = 'own'): string {
    return `${alias}.${this.speech.quote(column.name)}`
  }

  /** What tells rows apart: their key, or what the engine has for that. */
  protected identify(table: CatalogTable): RowId {
    const key = table.primaryKey?.columns.map((id) => this.speech.quote(nameOfColumn(table, id)))
    return key ? { before: [], columns: key, after: [] } : this.rowId(table)
  }

  /** Numbers the rows in which a column is empty, in the order of their key, from the largest number on. */
  private number(table: CatalogTable, column: CatalogColumn): DraftStatement[] {
    const { before, columns, after } = this.identify(table)
    const name = this.speech.quote(column.name)
    const place = this.place(table.name)
    const order = (table.primaryKey ?? table.uniques[0])?.columns.map((id) =>
      this.speech.quote(nameOfColumn(table, id))
    )
    const ids = columns.map((each, at) => `own.${each} AS row_id_${at + 1}`).join(', ')
    const largest = `(SELECT coalesce(max(other.${name}), 0) FROM ${place} other)`
    const counted = `row_number() OVER (ORDER BY ${(order ?? columns).map((each) => `own.${each}`).join(', ')})`
    return [
      ...before,
      ...this.update({
        table,
        sets: [{ column: column.name, value: 'counted.n' }],
        from: `(SELECT ${ids}, ${largest} + ${counted} AS n FROM ${place} own WHERE own.${name} IS NULL) counted`,
        on: columns.map((each, at) => `own.${each} = counted.row_id_${at + 1}`).join(' AND '),
        says: `count ${column.name} of ${sayTable(table.name)}`
      }),
      ...after
    ]
  }
}
