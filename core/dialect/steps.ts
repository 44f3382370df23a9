import type { Adding, Fill } from '../design/carry.ts'
import { byId } from '../design/by-id.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import { resultsRead, tablesRead, type RowQuery } from '../design/row-query.ts'
import { groupBy } from '../group.ts'
import { NameGiver } from '../naming/fit.ts'
import { parentsFirst, type CatalogColumn, type CatalogTable } from './catalog.ts'
import { columnIn, type StepWords } from './course.ts'
import { ownTables, sort, type Keepsake, type MigrationInput, type BothStates } from './migration.ts'
import { RenamingCourse } from './renaming.ts'
import { constraintsOf, type Constraint, type ConstraintKind, type ShapeStep, type Step } from './step.ts'
import { same } from './replaced-lists.ts'

/**
 * The steps from one state to another, in the order that holds for every dialect: what is read is kept and
 * worked out first; constraints that change go; names change; what is new comes and gets its rows, while
 * everything is still there that they are read from; columns change; what is gone goes; constraints come.
 */
export function stepsOf(input: MigrationInput, words: StepWords): Step[] {
  return new Working(ownTables(input), words).all()
}

class Working extends RenamingCourse {
  all(): Step[] {
    const { input } = this
    this.lockWhatIsRead()
    for (const keepsake of input.restore) this.do({ kind: 'expect', keepsake })
    this.dropTriggers()
    this.addEarly()
    this.require((query) => resultsRead(query).length === 0)
    this.keep(({ late }) => !late)
    for (const { name } of input.flow.results) this.do({ kind: 'stage', result: name })
    this.require((query) => resultsRead(query).length > 0)
    this.clearTheWay()
    this.rename()
    this.make()
    this.addColumns()
    this.putBackColumns((id) => !this.isFilledWhereEmpty(id))
    for (const fill of input.flow.fills.filter((each) => this.isThere(each))) {
      // What was found elsewhere is seen to be what it would have been, before the rest is filled.
      if (fill.whereEmpty) this.putBackRefilled((id) => fill.columns.some((column) => column.id === id))
      this.do({ kind: 'fill', fill })
    }
    // What was kept of a row goes before what it would be filled with, be it nothing.
    this.putBackColumns((id) => this.isFilledWhereEmpty(id))
    this.putBackRefilled((id) => !this.isFilledWhereEmpty(id))
    this.keep(({ late }) => late === true)
    for (const adding of input.flow.adds) if (this.isThere(adding)) this.do({ kind: 'addRows', adding })
    this.addKeys()
    this.putBackRows()
    for (const { name } of input.flow.results) this.do({ kind: 'unstage', result: name })
    for (const pair of this.tables.kept) this.changeColumns(pair)
    for (const pair of this.tables.kept) this.compute(pair)
    this.drop()
    this.order()
    this.constrain()
    for (const table of this.after) this.describe(table)
    for (const keepsake of input.keep)
      for (const { id, refilled } of keepsake.columns)
        if (refilled && keepsake.by === 'key') this.do({ kind: 'noteRefilled', keepsake, column: id })
    // Last: rows that were not there are noted among those that were.
    for (const keepsake of input.keep) if (keepsake.returns.length > 0) this.do({ kind: 'mark', keepsake })
    for (const keepsake of input.restore) this.do({ kind: 'dropKeepsake', keepsake })
    return this.steps
  }

  private keep(isDue: (keepsake: Keepsake) => boolean): void {
    for (const keepsake of this.input.keep) if (isDue(keepsake)) this.do({ kind: 'keep', keepsake })
  }

  /** What must hold is looked for before anything is kept, or as soon as what it reads is worked out. */
  private require(isDue: (query: RowQuery) => boolean): void {
    for (const requirement of this.input.flow.requires)
      if (isDue(requirement.query)) this.do({ kind: 'require', requirement })
  }

  /** What is moved leads into a table that is there after. */
  private isThere({ table }: Fill | Adding): boolean {
    return byId(this.input.to.tables).has(table)
  }

  private lockWhatIsRead(): void {
    const { from, keep, flow } = this.input
    const queries = [
      ...flow.results.map(({ query }) => query),
      ...flow.adds.map(({ rows }) => rows),
      ...flow.fills.map((fill) => fill.from),
      ...flow.requires.map(({ query }) => query)
    ]
    const read = new Set([
      ...keep.map((keepsake) => keepsake.table),
      ...flow.fills.map((fill) => fill.table),
      ...queries.flatMap(tablesRead)
    ])
    const tables = from.tables.map(({ id }) => id).filter((id) => read.has(id))
    if (tables.length > 0) this.do({ kind: 'lock', tables })
  }

  /** New columns in the tables as they are, counted or put back, so that what is moved can be read by them. */
  private addEarly(): void {
    const { early, restore, to } = this.input
    for (const place of early) {
      const wanted = columnIn(byId(to.tables).get(place.table), place.column)
      if (!wanted) continue
      const name = this.freeIn(this.state.table(place.table), wanted.name)
      const keepsake = restore.find(
        (each) => each.table === place.table && each.columns.some(({ id }) => id === place.column)
      )
      const bare = loose({ ...wanted, name })
      const isCounted = this.isCounted(place.table, place.column)
      const begins = isCounted ? undefined : wanted.default
      this.do({ kind: 'addColumn', table: place.table, column: { ...bare, default: begins } })
      if (keepsake) this.do({ kind: 'putBack', keepsake, columns: [place.column] })
      if (isCounted) this.do({ kind: 'number', table: place.table, column: place.column })
    }
  }

  /** Whether rows are numbered by the column, which not every engine does by itself. */
  private isCounted(table: string, column: string): boolean {
    const after = tableOf(this.input.after, table)
    return (after && columnOf(after, column))?.default?.kind === 'generated'
  }

  /** What would see to rows while they are moved goes before anything else. */
  private dropTriggers(): void {
    for (const table of [...this.tables.gone, ...this.tables.kept.map(({ from }) => from)])
      for (const each of constraintsOf(table))
        if (each.kind === 'trigger' && !this.survival.of(table, each))
          this.do({ kind: 'dropConstraint', table: table.id, of: 'trigger', id: each.key.id })
  }

  private freeIn(table: CatalogTable, name: string): string {
    const { nameLimit, refusedInNames } = this.words.facts
    const names = new NameGiver(nameLimit, refusedInNames)
    for (const column of table.columns) names.give(column.name)
    return names.give(name)
  }

  /** Row policies and constraints that go, or that change in more than their names; references first. */
  private clearTheWay(): void {
    for (const { from, to } of this.tables.kept)
      if (isHeld(from) && !this.survival.ofPolicies(from, to))
        this.do({ kind: 'setPolicies', table: from.id, policies: [], security: 'off' })
    const come = new Set(this.after.flatMap(constraintsOf).map(({ key }) => key.name))
    const before = [...this.tables.gone, ...this.tables.kept.map(({ from }) => from)]
    const drops = before.flatMap((table) => {
      const after = byId(this.input.to.tables).get(table.id)
      return constraintsOf(table)
        .filter(({ kind }) => kind !== 'trigger')
        .filter((each) =>
          after
            ? !this.survival.of(table, each)
            : // The rest goes with its table, unless another is to be called so.
              each.kind === 'foreignKey' || (!this.words.inPlace.namesAreOwn && come.has(each.key.name))
        )
        .map((constraint) => ({ table: table.id, constraint }))
    })
    const RANK: Record<ConstraintKind, number> = {
      foreignKey: 0,
      check: 1,
      index: 2,
      unique: 3,
      primaryKey: 4,
      trigger: 5
    }
    drops.sort((a, b) => RANK[a.constraint.kind] - RANK[b.constraint.kind])
    for (const { table, constraint } of drops)
      this.do({ kind: 'dropConstraint', table, of: constraint.kind, id: constraint.key.id })
    for (const { from, to } of this.tables.kept)
      for (const column of this.survival.remade(from, to))
        this.do({ kind: 'dropColumn', table: from.id, column: column.id })
  }

  private make(): void {
    const { enums } = this.input.to
    const { made } = sort(this.input.from.enums, enums)
    for (const list of enums)
      if (made.includes(list) || this.replaced.has(list.id)) this.do({ kind: 'makeList', list })
    for (const table of parentsFirst(this.tables.made)) {
      const waits = this.keysWait(table) ? { primaryKey: undefined, uniques: [] } : {}
      const bare = {
        ...table,
        ...waits,
        foreignKeys: [],
        indexes: [],
        triggers: [],
        rowPolicies: [],
        rowSecurity: 'off' as const
      }
      const columns = table.columns.map((column) => this.asItComes(column))
      const note = this.words.inPlace.notesInside ? table.note : undefined
      this.do({ kind: 'makeTable', table: { ...bare, columns, note } })
    }
  }

  /** Whether the keys of a new table come when its rows are there, which is faster where rows lie in no order. */
  private keysWait({ id }: CatalogTable): boolean {
    return this.words.inPlace.keysLater && this.input.flow.adds.some(({ table }) => table === id)
  }

  /** The keys that have waited for rows; what is put back is found by them. */
  private addKeys(): void {
    for (const table of this.tables.made.filter((each) => this.keysWait(each)))
      for (const constraint of constraintsOf(table))
        if (constraint.kind === 'primaryKey' || constraint.kind === 'unique')
          this.do({ kind: 'addConstraint', table: table.id, constraint })
  }

  /**
   * Whole tables that come back: what was not there goes first, of those that refer to others before those; then comes
   * what was kept, of those that others refer to first.
   */
  private putBackRows(): void {
    const coming = parentsFirst(this.tables.made).flatMap(
      ({ id }) => this.input.restore.find((each) => each.table === id && each.by === 'table') ?? []
    )
    for (const keepsake of coming.toReversed())
      if (keepsake.returns.length > 0) this.do({ kind: 'takeSurplus', keepsake })
    for (const keepsake of coming) this.do({ kind: 'putBackRows', keepsake })
  }

  private addColumns(): void {
    for (const { to } of this.tables.kept) {
      for (const column of to.columns) {
        if (column.computed !== undefined || columnIn(this.state.table(to.id), column.id)) continue
        const first = this.getsItsValues(to, column) ? loose(column) : this.asItComes(column)
        this.do({ kind: 'addColumn', table: to.id, column: first, after: this.placeOf(to, column) })
      }
    }
  }

  private isFilledWhereEmpty(column: string): boolean {
    return this.input.flow.fills.some(
      (fill) => fill.whereEmpty && fill.columns.some(({ id }) => id === column)
    )
  }

  /** New columns of tables that stay get what was kept of them. */
  private putBackColumns(isWanted: (id: string) => boolean): void {
    for (const keepsake of this.input.restore) {
      const table = byId(this.input.to.tables).get(keepsake.table)
      const columns = keepsake.columns
        .filter(({ why, spare, refilled }) => why === 'dropped' && !spare && !refilled)
        .filter(({ id }) => this.isPlainNew(table, id))
        .filter(({ id }) => isWanted(id))
        .map(({ id }) => id)
      if (columns.length > 0) this.do({ kind: 'putBack', keepsake, columns })
      for (const column of columns)
        if (this.isCounted(keepsake.table, column)) this.do({ kind: 'number', table: keepsake.table, column })
    }
  }

  /** What was kept of columns that are filled by now. */
  private putBackRefilled(isWanted: (id: string) => boolean): void {
    for (const keepsake of this.input.restore) {
      const table = byId(this.input.to.tables).get(keepsake.table)
      const refilled = keepsake.columns.filter(
        (each) => each.refilled && columnIn(table, each.id) && isWanted(each.id)
      )
      for (const together of groupBy(refilled, (each) => each.refilled?.by).values()) {
        const columns = together.map(({ id }) => id)
        if (keepsake.by === 'key') this.do({ kind: 'putBackRefilled', keepsake, columns })
        // Where no key tells whose a kept value is, what was filled in is surer to be the row's, or what it refers to.
        else if (columns.some((id) => isInKey(table, id)))
          this.do({ kind: 'putBack', keepsake, columns, whereEmpty: true })
        else this.do({ kind: 'putBack', keepsake, columns })
      }
    }
  }

  /** Where notes stand beside what they are about, they come when it is there. */
  private asItComes(column: CatalogColumn): CatalogColumn {
    return this.words.inPlace.notesInside ? column : { ...column, note: undefined }
  }

  private isPlainNew(table: CatalogTable | undefined, id: string): boolean {
    const isEarly = this.input.early.some((place) => place.column === id)
    return !isEarly && columnIn(table, id)?.computed === undefined && columnIn(table, id) !== undefined
  }

  /** Whether the rows that are there get a new column by what is moved or put back, and nothing else. */
  private getsItsValues({ id }: CatalogTable, column: CatalogColumn): boolean {
    const gives = (each: { table: string; columns: readonly { id: string; spare?: true }[] }): boolean =>
      each.table === id && each.columns.some((one) => one.id === column.id && !one.spare)
    const isLeft = column.default === undefined || column.generated
    return this.input.flow.fills.some(gives) || (isLeft && this.input.restore.some(gives))
  }

  /** The column behind which a new one stands, where the engine puts them in order. */
  private placeOf(to: CatalogTable, column: CatalogColumn): string | undefined {
    if (!this.words.inPlace.ordersColumns) return undefined
    const now = this.state.table(to.id)
    const before = to.columns.slice(0, to.columns.indexOf(column)).reverse()
    return before.find(({ id }) => columnIn(now, id))?.id
  }

  private changeColumns({ to }: BothStates<CatalogTable>): void {
    const { keep, restore } = this.input
    for (const column of to.columns) {
      const now = columnIn(this.state.table(to.id), column.id)
      if (!now || sameColumn(now, column)) continue
      const fills = column.required && !now.required && column.default !== undefined
      if (fills) {
        const first = { ...column, required: false, generated: false }
        if (!sameColumn(now, first)) this.do({ kind: 'changeColumn', table: to.id, column: first })
        this.do({ kind: 'fillEmpty', table: to.id, column: column.id })
      }
      this.do({ kind: 'changeColumn', table: to.id, column })
    }
    for (const keepsake of keep.filter(({ table, by }) => table === to.id && by === 'key'))
      for (const { id } of keepsake.columns.filter(({ why, spare }) => why === 'narrowed' && !spare))
        if (columnIn(this.state.table(to.id), id)) this.do({ kind: 'noteNarrowed', keepsake, column: id })
    for (const keepsake of restore.filter(({ table }) => table === to.id))
      for (const { id } of keepsake.columns.filter(({ why, spare }) => why === 'narrowed' && !spare)) {
        const narrowed = columnIn(byId(this.input.from.tables).get(to.id), id)
        if (narrowed) this.do({ kind: 'putBackNarrowed', keepsake, column: id, narrowed })
      }
  }

  /** What is computed comes last: any of the others may be what it is computed from. */
  private compute({ to }: BothStates<CatalogTable>): void {
    for (const column of to.columns) {
      if (column.computed === undefined || columnIn(this.state.table(to.id), column.id)) continue
      const after = this.placeOf(to, column)
      this.do({ kind: 'addColumn', table: to.id, column: this.asItComes(column), after })
      for (const keepsake of this.input.keep.filter(({ table, by }) => table === to.id && by === 'key'))
        if (keepsake.columns.some(({ id }) => id === column.id))
          this.do({ kind: 'noteNarrowed', keepsake, column: column.id })
    }
  }

  private drop(): void {
    for (const { to } of this.tables.kept)
      for (const { id } of sort(this.state.table(to.id).columns, to.columns).gone)
        this.do({ kind: 'dropColumn', table: to.id, column: id })
    for (const { id } of this.tables.gone) this.do({ kind: 'dropTable', table: id })
    for (const { id } of sort(this.input.from.enums, this.input.to.enums).gone)
      this.do({ kind: 'dropList', list: id })
    for (const id of this.replaced.values()) this.do({ kind: 'dropList', list: id })
    const wanted = new Set(this.input.to.schemas.map(({ name }) => name))
    for (const { name } of this.state.catalog.schemas)
      if (!wanted.has(name)) this.do({ kind: 'dropSchema', name })
  }

  private order(): void {
    if (!this.words.inPlace.ordersColumns) return
    for (const { to } of this.tables.kept) {
      const order = to.columns.map(({ id }) => id)
      const now = this.state.table(to.id).columns.map(({ id }) => id)
      if (!same(order, now)) this.do({ kind: 'orderColumns', table: to.id, order })
    }
  }

  private constrain(): void {
    const missing = this.after.flatMap((table) => {
      const there = constraintsOf(this.state.table(table.id))
      const isThere = ({ kind, key }: Constraint): boolean =>
        there.some((each) => each.kind === kind && each.key.id === key.id)
      return constraintsOf(table)
        .filter((each) => !isThere(each))
        .map((constraint): Extract<ShapeStep, { kind: 'addConstraint' }> => ({
          kind: 'addConstraint',
          table: table.id,
          constraint
        }))
    })
    const RANK: Record<ConstraintKind, number> = {
      primaryKey: 0,
      unique: 1,
      check: 2,
      index: 3,
      foreignKey: 4,
      trigger: 5
    }
    missing.sort((a, b) => RANK[a.constraint.kind] - RANK[b.constraint.kind])
    for (const step of missing) this.do(step)
  }

  /** Notes and row policies. */
  private describe(table: CatalogTable): void {
    const now = this.state.table(table.id)
    if (now.note !== table.note) this.do({ kind: 'noteTable', table: table.id, note: table.note })
    for (const column of table.columns)
      if (columnIn(this.state.table(table.id), column.id)?.note !== column.note)
        this.do({ kind: 'changeColumn', table: table.id, column })
    const { rowPolicies: policies, rowSecurity: security } = table
    const isSame = JSON.stringify(now.rowPolicies) === JSON.stringify(policies)
    if (!isSame || now.rowSecurity !== security)
      this.do({ kind: 'setPolicies', table: table.id, policies, security })
  }
}

/** Whether rows of a table are held to policies, or would be. */
const isHeld = ({ rowPolicies, rowSecurity }: CatalogTable): boolean =>
  rowPolicies.length > 0 || rowSecurity !== 'off'

/** A column as it comes where it gets its values later: empty. */
const loose = (column: CatalogColumn): CatalogColumn => ({
  ...column,
  required: false,
  generated: false,
  default: undefined,
  computed: undefined,
  note: undefined
})

/** Whether both are the same but for the name and the note. */
function sameColumn(one: CatalogColumn, other: CatalogColumn): boolean {
  const facts = (column: CatalogColumn): string => {
    const { type, required, default: begins, generated, computed, stored, renewed } = column
    return JSON.stringify([type.sql, type.list, required, begins, generated, computed, stored, renewed])
  }
  return facts(one) === facts(other)
}

/** Whether a column is in a key of the table, or in a reference. */
const isInKey = (table: CatalogTable | undefined, id: string): boolean =>
  [table?.primaryKey, ...(table?.uniques ?? []), ...(table?.foreignKeys ?? [])].some((key) =>
    key?.columns.includes(id)
  )
