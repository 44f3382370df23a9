import { byId } from '../design/by-id.ts'
import { bareTable, type CatalogColumn, type CatalogType } from './catalog.ts'
import { numbersIn } from './kept-numbers.ts'
import type { Keepsake, NumberFacts } from './migration.ts'
import { sayTable } from './qualified.ts'
import type { DraftStatement, Update } from './row-writer.ts'
import type { KeepStep } from './step.ts'
import { RETURNS } from './number-writer.ts'
import { WholeWriter } from './whole-writer.ts'
import { nameOfColumn } from './written.ts'

/** The place of a row among those that are the same in all columns that stay. */
const SAME_NO = 'same_no'

/** Says what is kept aside, how its rows are found again, and what of it comes back. */
export abstract class KeepsakeWriter extends WholeWriter {
  protected keepAside(step: KeepStep): DraftStatement[] {
    switch (step.kind) {
      case 'expect':
        return [this.expectKeepsake(step.keepsake)]
      case 'keep':
        return this.keep(step.keepsake)
      case 'mark':
        return this.mark(step.keepsake)
      case 'takeSurplus':
        return this.takeSurplus(step.keepsake)
      case 'putBackRows':
        return this.putBackRows(step.keepsake)
      case 'putBack':
        return this.putBack(step)
      case 'noteNarrowed':
        return this.noteNarrowed(step.keepsake, step.column)
      case 'putBackNarrowed':
        return this.putBackNarrowed(step)
      case 'takeBackNarrowed':
        return this.takeBackNarrowed(step)
      case 'noteRefilled':
        return this.noteRefilled(step.keepsake, step.column)
      case 'putBackRefilled':
        return this.putBackRefilled(step.keepsake, step.columns)
      case 'dropKeepsake':
        return [
          { sql: this.drop(this.place(step.keepsake.name)), says: `drop the keepsake ${step.keepsake.name}` }
        ]
    }
  }

  /** A keepsake that the other way has made, or an empty one: so the same script serves for every time. */
  private expectKeepsake(keepsake: Keepsake): DraftStatement {
    const { name, table, by, key, columns, returns, told } = keepsake
    const type = (id: string): string => this.keptType(this.typeWhenKept(keepsake, id)).sql
    const before = byId(this.input.from.tables).get(table)
    const narrowed = columns.flatMap(({ id, why }) => {
      const became = why === 'narrowed' ? byId(before?.columns ?? []).get(id) : undefined
      return became ? [`${this.becameIn(keepsake, id)} ${this.keptType(became.type).sql}`] : []
    })
    const whole = byId(this.input.to.tables).get(table)?.columns ?? []
    const ids =
      by === 'table'
        ? [...whole, ...(told?.columns ?? [])].map(({ id }) => id)
        : [...key, ...columns.map(({ id }) => id)]
    const refilled = columns.flatMap((each) =>
      each.refilled && by === 'key'
        ? [
            `${this.becameIn(keepsake, each.id)} ${type(each.id)}`,
            ...this.factsOf(keepsake, each.id).map(
              (fact) => `${fact.name} ${this.keptType(this.typeWhenKept(keepsake, fact.own)).sql}`
            )
          ]
        : []
    )
    const all = [
      ...ids.map((id) => `${this.inKeepsake(keepsake, id)} ${type(id)}`),
      ...narrowed,
      ...refilled,
      ...(by === 'row' ? [`${SAME_NO} ${this.bigint}`] : []),
      ...(returns.length > 0 ? [`${RETURNS} ${this.bigint}`] : [])
    ]
    return this.createMissing(name, all.join(', '), `what the other way has kept, or nothing: ${name}`)
  }

  private keep(keepsake: Keepsake): DraftStatement[] {
    const { quote } = this.speech
    const { name, table: id, by, key, columns } = keepsake
    const table = this.state.table(id)
    const wanted =
      by === 'table'
        ? table.columns
        : [...key, ...columns.map((each) => each.id)].map((column) => this.state.column(id, column))
    const selected = wanted.map((column) => {
      const [value, name] = [this.asKept(quote(column.name), column), this.inKeepsake(keepsake, column.id)]
      return value === name ? name : `${value} AS ${name}`
    })
    if (by === 'row') {
      const becoming = this.becoming(keepsake)
      selected.push(...becoming.map(({ sql, as }) => `${sql} AS ${as}`))
      selected.push(
        `${this.sameNo(
          keepsake,
          becoming.map(({ sql }) => sql)
        )} AS ${SAME_NO}`
      )
    }
    const what = by === 'table' ? 'the rows' : columns.map((each) => each.name).join(', ')
    const select = `SELECT ${selected.join(', ')} FROM ${this.place(table.name)}`
    const kept = this.createAs(name, select, `keep ${what} of ${sayTable(table.name)}`, false)
    return keepsake.told ? [...kept, ...this.keepTold(keepsake, keepsake.told)] : kept
  }

  /** What the numbers of a whole table stand for, beside its rows: in columns of their types, empty or not. */
  private keepTold(keepsake: Keepsake, { rows, number, columns }: NumberFacts): DraftStatement[] {
    const table = this.state.table(keepsake.table)
    const says = `keep what ${nameOfColumn(table, number)} of ${sayTable(table.name)} stands for`
    const { sql, column } = this.moves.source({ from: rows }, 'told')
    const named = columns.map((each) => ({ each, name: this.nameInKeepsake(keepsake, each.id) }))
    const counted = this.keptType(this.typeWhenKept(keepsake, number))
    return [
      ...named.map(({ each, name }) => {
        const type = this.keptType(this.typeWhenKept(keepsake, each.id))
        return this.addPlainColumn(keepsake.name, name, type.sql, says)
      }),
      ...this.update({
        table: bareTable(table.id, keepsake.name),
        sets: named.map(({ each, name }) => ({
          column: name,
          value: this.toldValue(keepsake, each, column(each.id))
        })),
        from: sql,
        on: `own.${this.inKeepsake(keepsake, number)} = ${this.asType(column(number), counted)}`,
        says
      })
    ]
  }

  /** What a column has become, beside what it was. */
  private nameOfBecame(keepsake: Keepsake, id: string): string {
    return `${this.nameInKeepsake(keepsake, id)}_became`
  }
  private becameIn(keepsake: Keepsake, id: string): string {
    return this.speech.quote(this.nameOfBecame(keepsake, id))
  }

  /**
   * What a number is found by that the other way fills in, as it stands beside it: where it was given anew, the row has
   * its own again as long as this is the same. Nothing of what is no number.
   */
  private factsOf(keepsake: Keepsake, id: string): { own: string; name: string; column: string }[] {
    const refilled = keepsake.columns.find((each) => each.id === id)?.refilled
    if (!refilled || !numbersIn(refilled.by.from, refilled.column)) return []
    return refilled.by.on.map(({ own }, at) => {
      const column = `${this.nameInKeepsake(keepsake, id)}_${at + 1}_became`
      return { own, column, name: this.speech.quote(column) }
    })
  }

  /** Where no key stays, what values will become is worked out beforehand. */
  private becoming(keepsake: Keepsake): { sql: string; as: string }[] {
    const { quote } = this.speech
    const { table, columns } = keepsake
    return columns
      .filter(({ why }) => why === 'narrowed')
      .map(({ id }) => {
        const now = this.state.column(table, id)
        const after = byId(byId(this.input.to.tables).get(table)?.columns ?? []).get(id) ?? now
        const became = this.asType({ sql: quote(now.name), type: now.type }, after.type)
        const isFilled = after.required && !now.required && after.default !== undefined
        const filled = isFilled ? `coalesce(${became}, ${after.default})` : became
        return { sql: this.asKept(filled, after), as: this.becameIn(keepsake, id) }
      })
  }

  /** The place of a row among those that are the same in all that stays: in the order of what changes. */
  private sameNo({ table, key }: Keepsake, changing: readonly string[]): string {
    const { quote, rows } = this.speech
    const same = key.map((id) => quote(nameOfColumn(this.state.table(table), id)))
    const parts = same.length > 0 ? `PARTITION BY ${same.join(', ')} ` : ''
    const order = changing.length > 0 ? changing : same.slice(0, 1)
    return `row_number() OVER (${parts}ORDER BY ${order.join(', ') || `(SELECT NULL${rows.noTable ?? ''})`})`
  }

  /**
   * The condition under which a kept row is that of the table.
   * @param alias what the table is called
   * @param row what the keepsake is called
   */
  private isKept(keepsake: Keepsake, alias: string, row = 'kept'): string {
    return keepsake.key
      .map((id) => {
        const column = this.state.column(keepsake.table, id)
        const kept = `${row}.${this.inKeepsake(keepsake, id)}`
        const type = this.keptType(this.typeWhenKept(keepsake, id))
        const own = this.asKept(this.own(column, alias), column)
        const wanted = this.asType({ sql: kept, type }, this.keptType(column.type))
        return this.agree(wanted, own, keepsake.by === 'key' || column.required)
      })
      .join(' AND ')
  }

  private putBack({
    keepsake,
    columns: ids,
    whereEmpty
  }: Extract<KeepStep, { kind: 'putBack' }>): DraftStatement[] {
    const table = this.state.table(keepsake.table)
    const columns = ids.map((id) => this.state.column(keepsake.table, id))
    const where = whereEmpty && columns.map((column) => `${this.own(column)} IS NULL`).join(' AND ')
    const names = columns.map(({ name }) => name).join(', ')
    const sets = columns.map((column) => ({ column: column.name, value: this.kept(keepsake, column) }))
    return this.fromKeepsake(keepsake, sets, `put the kept ${names} of ${sayTable(table.name)} back`, where)
  }

  /** A kept value; of a reference only where what it refers to is still there. */
  private kept(keepsake: Keepsake, column: CatalogColumn): string {
    const value = this.fromKept(keepsake, 'kept', column.id, column)
    const wanted = byId(this.input.to.tables).get(keepsake.table)
    const isOptional = !byId(wanted?.columns ?? []).get(column.id)?.required
    const leads = (wanted?.foreignKeys ?? [])
      .filter((key) => key.columns.includes(column.id) && key.table !== keepsake.table)
      .flatMap((key) => this.leadsSomewhere(keepsake, key, 'kept') ?? [])
    return isOptional && leads.length > 0 ? `CASE WHEN ${leads.join(' AND ')} THEN ${value} END` : value
  }

  /** Sets columns of a table from its keepsake, whichever way its rows are found again. */
  protected fromKeepsake(
    keepsake: Keepsake,
    sets: Update['sets'],
    says: string,
    where?: string
  ): DraftStatement[] {
    const table = this.state.table(keepsake.table)
    const from = `${this.place(keepsake.name)} kept`
    if (keepsake.by === 'key')
      return this.update({
        table,
        sets,
        from,
        on: this.isKept(keepsake, 'own'),
        ...(where !== undefined && { where }),
        says
      })
    const { before, columns, after } = this.identify(table)
    const changing = keepsake.columns
      .filter(({ id, why }) => why === 'narrowed' && byId(table.columns).has(id))
      .map(({ id }) => this.speech.quote(nameOfColumn(table, id)))
    const ids = columns.map((column, at) => `own.${column} AS row_id_${at + 1}`)
    const numbered = `SELECT own.*, ${ids.join(', ')}, ${this.sameNo(keepsake, changing)} AS ${SAME_NO} FROM ${this.place(table.name)} own`
    const all = `SELECT numbered.row_id_1, ${columns
      .slice(1)
      .map((_, at) => `numbered.row_id_${at + 2}, `)
      .join(
        ''
      )}kept.* FROM (${numbered}) numbered\n    JOIN ${from} ON kept.${SAME_NO} = numbered.${SAME_NO}${keepsake.key.length > 0 ? ` AND ${this.isKept(keepsake, 'numbered')}` : ''}`
    return [
      ...before,
      ...this.update({
        table,
        sets,
        from: `(${all}) kept`,
        on: columns.map((column, at) => `own.${column} = kept.row_id_${at + 1}`).join(' AND '),
        ...(where !== undefined && { where }),
        says
      }),
      ...after
    ]
  }

  private noteNarrowed(keepsake: Keepsake, id: string): DraftStatement[] {
    const table = this.state.table(keepsake.table)
    const column = this.state.column(keepsake.table, id)
    const became = this.nameOfBecame(keepsake, id)
    const says = `keep what the values of ${sayTable(table.name)}.${column.name} have become`
    return [
      this.addPlainColumn(keepsake.name, became, this.keptType(column.type).sql, says),
      ...this.update({
        table: bareTable(table.id, keepsake.name),
        sets: [{ column: became, value: this.asKept(this.own(column, 'now'), column) }],
        from: `${this.place(table.name)} now`,
        on: this.isKept(keepsake, 'now', 'own'),
        says
      })
    ]
  }

  /** What the other way would fill a column with as things are, so that it is seen later whether it still would. */
  private noteRefilled(keepsake: Keepsake, id: string): DraftStatement[] {
    const { quote } = this.speech
    const before = byId(this.input.from.tables).get(keepsake.table)
    const refilled = keepsake.columns.find((each) => each.id === id)?.refilled
    const column = byId(before?.columns ?? []).get(id)
    if (!before || !refilled || !column) return []
    const table = this.state.table(keepsake.table)
    const now = (of: string): CatalogColumn => this.state.column(keepsake.table, of)
    const { sql, column: found } = this.returning.source(
      { from: this.numbers.kept(refilled.by.from) },
      'found'
    )
    const agree = refilled.by.on.map(({ own, other }) =>
      this.agree(this.own(now(own), 'now'), this.asType(found(other), now(own).type), now(own).required)
    )
    const keysNow = keepsake.key.map((key) => this.own(now(key), 'now'))
    const keys = keepsake.key.map((key, at) => `${keysNow[at]} AS ${this.inKeepsake(keepsake, key)}`)
    const became = this.nameOfBecame(keepsake, id)
    const type = this.keptType(column.type)
    const value = this.asType(found(refilled.column), type)
    // Of rows that are the same but for their number it is the first that the other way finds.
    const isNumber = numbersIn(refilled.by.from, refilled.column)
    const filling = isNumber ? `min(${value})` : value
    const perRow = isNumber ? `\n    GROUP BY ${keysNow.join(', ')}` : ''
    const rows = `SELECT ${keys.join(', ')}, ${filling} AS ${quote(became)}\n    FROM ${this.place(table.name)} now\n    JOIN ${sql} ON ${agree.join(' AND ')}${perRow}`
    const says = `see what ${sayTable(table.name)}.${column.name} would be filled with`
    return [
      ...this.noteFacts(keepsake, id, says),
      this.addPlainColumn(keepsake.name, became, type.sql, says),
      ...this.update({
        table: bareTable(before.id, keepsake.name),
        sets: [{ column: became, value: `found_now.${quote(became)}` }],
        from: `(${rows}) found_now`,
        on: keepsake.key
          .map((key) => {
            const kept = {
              sql: `own.${this.inKeepsake(keepsake, key)}`,
              type: this.keptType(this.typeWhenKept(keepsake, key))
            }
            return `${this.asType(kept, now(key).type)} = found_now.${this.inKeepsake(keepsake, key)}`
          })
          .join(' AND '),
        says
      })
    ]
  }

  private noteFacts(keepsake: Keepsake, id: string, says: string): DraftStatement[] {
    const table = this.state.table(keepsake.table)
    const facts = this.factsOf(keepsake, id).map((fact) => {
      const now = this.state.column(keepsake.table, fact.own)
      return { ...fact, now, type: this.keptType(this.typeWhenKept(keepsake, fact.own)) }
    })
    if (facts.length === 0) return []
    return [
      ...facts.map(({ column, type }) => this.addPlainColumn(keepsake.name, column, type.sql, says)),
      ...this.update({
        table: bareTable(keepsake.table, keepsake.name),
        sets: facts.map(({ column, now, type }) => ({
          column,
          value: this.asType({ sql: this.own(now, 'now'), type: now.type }, type)
        })),
        from: `${this.place(table.name)} now`,
        on: this.isKept(keepsake, 'now', 'own'),
        says
      })
    ]
  }

  /** What was kept of columns comes back where they are filled as they would have been when it was kept. */
  private putBackRefilled(keepsake: Keepsake, ids: readonly string[]): DraftStatement[] {
    const wanted = byId(this.input.to.tables).get(keepsake.table)
    const sets = ids.map((id) => {
      const column = this.state.column(keepsake.table, id)
      const value = this.fromKept(keepsake, 'kept', id, column)
      const became = this.keptAs(keepsake, this.becameIn(keepsake, id), id, column)
      const isSame = this.isAsItWould(keepsake, id, became)
      const isRequired = byId(wanted?.columns ?? []).get(id)?.required ?? false
      return { id, column: column.name, value, isSame, isRequired }
    })
    const leads = (wanted?.foreignKeys ?? [])
      .filter((key) => ids.some((id) => key.columns.includes(id)) && key.table !== keepsake.table)
      .flatMap((key) => this.leadsSomewhere(keepsake, key, 'kept') ?? [])
    const isAsItWould = sets.map(({ isSame }) => isSame).join(' AND ')
    const isAmong = this.isAmong(keepsake, ids)
    const isEmpty = sets.map(({ value }) => `${value} IS NULL`).join(' OR ')
    const conditions = [
      isAmong === undefined ? isAsItWould : `((${isEmpty}) AND ${isAsItWould} OR ${isAmong})`,
      ...sets.flatMap(({ isRequired, value }) => (isRequired ? [`${value} IS NOT NULL`] : [])),
      ...leads
    ]
    const names = sets.map(({ column }) => column).join(', ')
    return this.fromKeepsake(
      keepsake,
      sets.map(({ column, value }) => ({ column, value })),
      `put the kept ${names} of ${sayTable(this.state.table(keepsake.table).name)} back`,
      conditions.join(' AND ')
    )
  }

  /** The condition under which a column is filled as it would have been: with the same, or anew for the same reason. */
  private isAsItWould(keepsake: Keepsake, id: string, became: string): string {
    const column = this.state.column(keepsake.table, id)
    const isSame = this.speech.rows.sameOrEmpty(this.own(column), became)
    const facts = this.factsOf(keepsake, id).map(({ own, name }) => {
      const now = this.state.column(keepsake.table, own)
      return this.speech.rows.sameOrEmpty(this.own(now), this.keptAs(keepsake, name, own, now))
    })
    return facts.length === 0 ? isSame : `(${isSame} OR ${[`${became} IS NULL`, ...facts].join(' AND ')})`
  }

  /** A column of a keepsake, under another name there, as the value of a column that there is now. */
  private keptAs(keepsake: Keepsake, named: string, id: string, now: CatalogColumn): string {
    const type = this.keptType(this.typeWhenKept(keepsake, id))
    return this.asType({ sql: `kept.${named}`, type }, now.type)
  }

  /** A condition: what was kept is among the rows of which the first was taken. Nothing where none was. */
  private isAmong(keepsake: Keepsake, ids: readonly string[]): string | undefined {
    const taken = keepsake.columns.filter(({ id }) => ids.includes(id))
    const by = taken[0]?.refilled?.by
    if (!by?.among) return undefined
    const { sql, column } = this.moves.source({ from: by.among }, 'among_these')
    const now = (id: string): CatalogColumn => this.state.column(keepsake.table, id)
    const agree = by.on.map((each) => {
      const other = this.asType(column(each.other), now(each.own).type)
      return this.agree(this.own(now(each.own)), other, each.empty !== true)
    })
    const same = taken.flatMap(({ id, refilled }) => {
      if (!refilled) return []
      const value = this.fromKept(keepsake, 'kept', id, now(id))
      return [`${this.asType(column(refilled.column), now(id).type)} = ${value}`]
    })
    return `EXISTS (SELECT 1 FROM ${sql} WHERE ${[...agree, ...same].join(' AND ')})`
  }

  private putBackNarrowed(step: Extract<KeepStep, { kind: 'putBackNarrowed' }>): DraftStatement[] {
    const { keepsake, column: id } = step
    const column = this.state.column(keepsake.table, id)
    const { value, where } = this.narrowed(step)
    return this.fromKeepsake(
      keepsake,
      [{ column: column.name, value }],
      `put the kept values of ${sayTable(this.state.table(keepsake.table).name)}.${column.name} back`,
      where
    )
  }

  private takeBackNarrowed({
    keepsake,
    column: id,
    narrowed
  }: Extract<KeepStep, { kind: 'takeBackNarrowed' }>): DraftStatement[] {
    const column = this.state.column(keepsake.table, id)
    const became = { sql: `kept.${this.becameIn(keepsake, id)}`, type: this.keptType(narrowed.type) }
    return this.fromKeepsake(
      keepsake,
      [{ column: column.name, value: this.asType(became, column.type) }],
      `fill ${sayTable(this.state.table(keepsake.table).name)}.${column.name} again`,
      `${this.own(column)} IS NULL AND kept.${this.inKeepsake(keepsake, id)} IS NULL`
    )
  }

  /** What a narrowed value was, and when it comes back: where nobody has changed since what it has become. */
  protected narrowed(
    { keepsake, column: id, narrowed }: Extract<KeepStep, { kind: 'putBackNarrowed' }>,
    wanted?: CatalogType
  ): { value: string; where: string } {
    const column = this.state.column(keepsake.table, id)
    const became = { sql: `kept.${this.becameIn(keepsake, id)}`, type: this.keptType(narrowed.type) }
    return {
      value: this.fromKept(keepsake, 'kept', id, wanted ? { ...column, type: wanted } : column),
      where: this.speech.rows.sameOrEmpty(this.own(column), this.asType(became, column.type))
    }
  }
}
