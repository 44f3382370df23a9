import { byId } from '../design/by-id.ts'
import type { CatalogColumn, CatalogTable, CatalogType, Statement } from './catalog.ts'
import type { Keepsake, MigrationInput } from './migration.ts'
import { MoveWriter, type MovedColumn } from './moves.ts'
import { sayTable } from './qualified.ts'
import type { Speech } from './speech.ts'
import { State } from './state.ts'
import { asideId, isShapeStep, type RowStep, type ShapeStep, type Step } from './step.ts'
import { nameOfColumn } from './written.ts'
import { tableIn, type Tables } from './write.ts'

/** A statement in the making. */
export interface Said extends Statement {
  /**
   * Where it is a clause of ALTER TABLE: what that begins with. Clauses of one table that come one after
   * another by steps of one kind stand in one statement.
   */
  alters?: string
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
interface Given {
  name: string
  value: string
}

/**
 * Says the steps of a migration one after the other, each over what there is by then. What moves rows is
 * said here, with what a dialect has its own words for left open; what changes the catalog is the dialect's.
 */
export abstract class StepWriter {
  protected readonly state: State
  protected readonly moves: MoveWriter
  private readonly others: Tables

  constructor(
    protected readonly input: MigrationInput,
    protected readonly speech: Speech
  ) {
    this.state = new State(input.from)
    this.moves = new MoveWriter(input, speech, {
      table: (id) => this.state.table(id).name,
      column: (id, table) => nameOfColumn(this.state.table(table.id), id),
      list: (id) => (this.state.lists.get(asideId(id)) ?? this.state.lists.get(id))?.name ?? id,
      place: (name) => this.place(name)
    })
    this.others = byId([...input.from.tables, ...input.to.tables].filter((table) => table.external))
  }

  /** The statements for the steps. */
  write(steps: readonly Step[]): Statement[] {
    const statements: Statement[] = []
    let open: { alters: string; kind: Step['kind']; clauses: string[]; says: string[] } | undefined
    const close = (): void => {
      if (open) statements.push(altering(open))
      open = undefined
    }
    for (const step of steps) {
      for (const said of this.say(step)) {
        if (open && (open.alters !== said.alters || open.kind !== step.kind)) close()
        if (said.alters === undefined) statements.push({ sql: said.sql, says: said.says })
        else {
          open ??= { alters: said.alters, kind: step.kind, clauses: [], says: [] }
          open.clauses.push(said.sql)
          if (!open.says.includes(said.says)) open.says.push(said.says)
        }
      }
      this.state.take(step)
    }
    close()
    return statements
  }

  private say(step: Step): Said[] {
    return isShapeStep(step) ? this.shape(step) : this.rows(step)
  }

  /** What changes the catalog, in the dialect's words. */
  protected abstract shape(step: ShapeStep): Said[]
  protected abstract update(update: Update): Said[]
  /** A value as one of another type. */
  protected abstract convert(sql: string, from: CatalogType, to: CatalogType): string
  protected abstract lock(tables: readonly CatalogTable[]): Said[]
  /** A table made of rows. */
  protected abstract createAs(name: string, select: string, says: string, passing: boolean): Said[]
  protected abstract dropPassing(name: string): Said

  /** The type in which a keepsake holds a column. */
  protected keptType(type: CatalogType): CatalogType {
    return type
  }

  /** Rows that come with numbers of their own, put in. */
  protected insert(table: CatalogTable, given: readonly Given[], rows: string, says: string): Said[] {
    const names = given.map(({ name }) => this.speech.quote(name)).join(', ')
    return [{ sql: `INSERT INTO ${this.place(table.name)} (${names})\n  ${rows}`, says }]
  }

  protected place(table: string): string {
    return tableIn(this.speech, table)
  }

  /** The tables that references lead to, another system's among them. */
  protected get tables(): Tables {
    const { state, others } = this
    return { get: (id) => state.tables.get(id) ?? others.get(id) }
  }

  private rows(step: RowStep): Said[] {
    const { quote } = this.speech
    switch (step.kind) {
      case 'lock':
        return this.lock(step.tables.map((id) => this.state.table(id)))
      case 'keep':
        return this.keep(step.keepsake)
      case 'stage': {
        const { name, select } = this.moves.result(step.result)
        return this.createAs(name, select, 'work out once what is read more than once', true)
      }
      case 'unstage':
        return [this.dropPassing(this.moves.result(step.result).name)]
      case 'putBackRows':
        return this.putBackRows(step.keepsake)
      case 'putBack':
        return this.putBack(step.keepsake, step.columns)
      case 'fill':
        return this.fill(step)
      case 'addRows':
        return this.addRows(step)
      case 'fillEmpty': {
        const table = this.state.table(step.table)
        const column = this.state.column(step.table, step.column)
        const [place, name] = [this.place(table.name), quote(column.name)]
        return [
          {
            sql: `UPDATE ${place} SET ${name} = ${column.default} WHERE ${name} IS NULL`,
            says: `fill ${sayTable(table.name)}.${column.name} where it is empty`
          }
        ]
      }
      case 'noteNarrowed':
        return this.noteNarrowed(step.keepsake, step.column)
      case 'putBackNarrowed':
        return this.putBackNarrowed(step)
      case 'dropKeepsake':
        return [
          {
            sql: `DROP TABLE ${this.place(step.keepsake.name)}`,
            says: `drop the keepsake ${step.keepsake.name}`
          }
        ]
    }
  }

  /** The columns of a keepsake are called by their ids, since names may change meanwhile. */
  private keep({ name, table: id, key, columns }: Keepsake): Said[] {
    const { quote } = this.speech
    const table = this.state.table(id)
    const wanted =
      columns.length === 0
        ? table.columns
        : [...key, ...columns.map((each) => each.id)].map((column) => this.state.column(id, column))
    const selected = wanted.map(
      (column) => `${this.convertKept(quote(column.name), column)} AS ${quote(column.id)}`
    )
    const what = columns.length === 0 ? 'the rows' : columns.map((each) => each.name).join(', ')
    const select = `SELECT ${selected.join(', ')} FROM ${this.place(table.name)}`
    return this.createAs(name, select, `keep ${what} of ${sayTable(table.name)}`, false)
  }

  private convertKept(sql: string, { type }: CatalogColumn): string {
    const kept = this.keptType(type)
    return kept.sql === type.sql ? sql : this.convert(sql, type, kept)
  }

  /** A column of a keepsake as what it was. */
  private fromKept(sql: string, { type }: CatalogColumn): string {
    const kept = this.keptType(type)
    return kept.sql === type.sql ? sql : this.convert(sql, kept, type)
  }

  private putBackRows({ name, table: id }: Keepsake): Said[] {
    const table = this.state.table(id)
    const given = table.columns
      .filter((column) => column.computed === undefined)
      .map((column) => ({
        name: column.name,
        value: this.fromKept(this.speech.quote(column.id), column)
      }))
    const rows = `SELECT ${given.map(({ value }) => value).join(', ')} FROM ${this.place(name)}`
    return this.insert(table, given, rows, `put the kept rows of ${sayTable(table.name)} back`)
  }

  /** The condition under which a kept row, called `kept`, is that of the table. */
  private isKept({ table, key }: Keepsake, own: string): string {
    const { quote } = this.speech
    return key
      .map((id) => {
        const column = this.state.column(table, id)
        return `kept.${quote(id)} = ${this.convertKept(`${own}.${quote(column.name)}`, column)}`
      })
      .join(' AND ')
  }

  private putBack(keepsake: Keepsake, ids: readonly string[]): Said[] {
    const { quote } = this.speech
    const table = this.state.table(keepsake.table)
    const columns = ids.map((id) => this.state.column(keepsake.table, id))
    return this.update({
      table,
      sets: columns.map((column) => ({
        column: column.name,
        value: this.fromKept(`kept.${quote(column.id)}`, column)
      })),
      from: `${this.place(keepsake.name)} kept`,
      on: this.isKept(keepsake, 'own'),
      says: `put the kept ${columns.map(({ name }) => name).join(', ')} of ${sayTable(table.name)} back`
    })
  }

  private fill({ fill }: Extract<RowStep, { kind: 'fill' }>): Said[] {
    const { quote } = this.speech
    const table = this.state.table(fill.table)
    const { sql, column } = this.moves.source(fill, 'other')
    const columns = fill.columns.map(({ id }) => this.state.column(fill.table, id))
    return this.update({
      table,
      sets: fill.columns.map(({ from }, at) => {
        const target = columns[at] as CatalogColumn
        return { column: target.name, value: this.asType(column(from), target.type) }
      }),
      from: sql,
      on: this.moves.agreed(
        fill,
        (id) => `own.${quote(nameOfColumn(table, id))}`,
        (id) => column(id).sql
      ),
      says: `fill ${columns.map(({ name }) => name).join(', ')} of ${sayTable(table.name)}`
    })
  }

  private addRows({ adding }: Extract<RowStep, { kind: 'addRows' }>): Said[] {
    const table = this.state.table(adding.table)
    const { columns, select } = this.moves.adding(adding, table)
    const wanted = columns.map(({ id }) => this.state.column(adding.table, id))
    const isSame = columns.every(({ type }, at) => type.sql === wanted[at]?.type.sql)
    const given = columns.map((column, at) => {
      const target = wanted[at] as CatalogColumn
      return { name: target.name, value: this.asType(column, target.type) }
    })
    const rows = isSame
      ? select(false)
      : `SELECT ${given.map(({ value }) => value).join(', ')}\n  FROM (${select(true).replaceAll('\n', '\n  ')}) moved`
    return this.insert(table, given, rows, `carry rows into ${sayTable(table.name)}`)
  }

  private asType({ sql, type }: MovedColumn, wanted: CatalogType): string {
    return type.sql === wanted.sql ? sql : this.convert(sql, type, wanted)
  }

  private noteNarrowed(keepsake: Keepsake, id: string): Said[] {
    const { quote } = this.speech
    const table = this.state.table(keepsake.table)
    const column = this.state.column(keepsake.table, id)
    const kept: CatalogTable = { ...table, name: keepsake.name }
    const became = `${id}_became`
    const says = `keep what the values of ${sayTable(table.name)}.${column.name} have become`
    return [
      this.addPlainColumn(keepsake.name, became, this.keptType(column.type).sql, says),
      ...this.update({
        table: kept,
        sets: [{ column: became, value: this.convertKept(`now.${quote(column.name)}`, column) }],
        from: `${this.place(table.name)} now`,
        on: keepsake.key
          .map((key) => {
            const other = this.state.column(keepsake.table, key)
            return `own.${quote(key)} = ${this.convertKept(`now.${quote(other.name)}`, other)}`
          })
          .join(' AND '),
        says
      })
    ]
  }

  protected addPlainColumn(table: string, name: string, type: string, says: string): Said {
    return { sql: `ALTER TABLE ${this.place(table)} ADD ${this.speech.quote(name)} ${type}`, says }
  }

  /** Only where nobody has changed since what the values have become. */
  private putBackNarrowed({
    keepsake,
    column: id,
    narrowed
  }: Extract<RowStep, { kind: 'putBackNarrowed' }>): Said[] {
    const { quote } = this.speech
    const table = this.state.table(keepsake.table)
    const column = this.state.column(keepsake.table, id)
    const became = this.asType(
      { id, sql: `kept.${quote(`${id}_became`)}`, type: this.keptType(narrowed.type) },
      column.type
    )
    return this.update({
      table,
      sets: [{ column: column.name, value: this.fromKept(`kept.${quote(id)}`, column) }],
      from: `${this.place(keepsake.name)} kept`,
      on: this.isKept(keepsake, 'own'),
      where: this.speech.rows.sameOrEmpty(`own.${quote(column.name)}`, became),
      says: `put the kept values of ${sayTable(table.name)}.${column.name} back`
    })
  }
}

/** One ALTER TABLE of its clauses: on a line where it is one. */
function altering({
  alters,
  clauses,
  says
}: {
  alters: string
  clauses: string[]
  says: string[]
}): Statement {
  const sql = clauses.length === 1 ? `${alters} ${clauses[0]}` : `${alters}\n  ${clauses.join(',\n  ')}`
  return { sql, says: says.join('; ') }
}
