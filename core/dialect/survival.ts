import { byId } from '../design/by-id.ts'
import {
  isSameTable,
  type CatalogColumn,
  type CatalogKey,
  type CatalogTable,
  type CatalogTrigger
} from './catalog.ts'
import type { MigrationInput } from './migration.ts'
import { constraintIn, constraintsOf, type Constraint, type ConstraintKind } from './step.ts'
import { columnsIn, sameWritten, type Written } from './written.ts'

/** What leans on columns, and may have to go while one of them changes. */
export type Leaning = ConstraintKind | 'computed' | 'policy'

/** What an engine changes in place; the rest is taken away, and made again when the change is done. */
export interface InPlace {
  /** The constraints that can be called otherwise. */
  renames: readonly ConstraintKind[]
  renamesSchemas: boolean
  /** Whether keys, checks and indexes of two tables may be called the same. */
  namesAreOwn: boolean
  /** Whether a table's columns have an order that can be chosen. */
  ordersColumns: boolean
  /** Whether a note stands in the definition of what it is about, and not beside it. */
  notesInside: boolean
  /** Whether what leans on a column stands while that becomes another. */
  stands(what: Leaning, from: CatalogColumn, to: CatalogColumn): boolean
  /** Whether a reference leans on an index of its own columns, so that it goes where that goes. */
  indexesReferences: boolean
  /** Whether a reference follows the table that it leads to when that is called otherwise. */
  referencesFollow: boolean
  /** Whether a new table is filled faster before it has its keys: where its rows lie in no order. */
  keysLater: boolean
  /** Whether a table has to be made anew for a change, so that nothing that hangs on it stands. */
  remakes(from: CatalogTable, to: CatalogTable): boolean
  /** Whether a list of values becomes the other by values that are added. */
  addsToList(from: readonly string[], to: readonly string[], isUsed: (value: string) => boolean): boolean
}

/** What of a table's constraints, policies and computed columns outlives a migration, by a change of name at most. */
export class Survival {
  private readonly known = new Map<string, Constraint | undefined>()

  constructor(
    private readonly input: MigrationInput,
    private readonly inPlace: InPlace,
    /** The lists of values that another takes the place of. */
    private readonly listsReplaced: ReadonlySet<string>
  ) {}

  /** What a constraint of a table as it was becomes, or nothing. */
  of(from: CatalogTable, constraint: Constraint): Constraint | undefined {
    const id = `${from.id} ${constraint.kind} ${constraint.key.id}`
    if (!this.known.has(id)) this.known.set(id, this.survivor(from, constraint))
    return this.known.get(id)
  }

  /** Whether row policies stay as they are. */
  ofPolicies(from: CatalogTable, to: CatalogTable): boolean {
    const mentioned = from.rowPolicies.flatMap(({ condition, writes }) => [
      condition,
      ...(writes ? [writes] : [])
    ])
    // Whoever changes the table is its owner, and is to see every row meanwhile.
    if (from.rowSecurity === 'forced' && !isSameTable(from, to)) return false
    return (
      from.rowSecurity === to.rowSecurity &&
      JSON.stringify(from.rowPolicies) === JSON.stringify(to.rowPolicies) &&
      mentioned.every((condition) => this.stands('policy', from, to, columnsIn(condition)))
    )
  }

  /** Computed columns that go for now: they are computed otherwise, or from what changes. */
  remade(from: CatalogTable, to: CatalogTable): CatalogColumn[] {
    return from.columns.filter((column) => this.isRemade(from, to, column))
  }

  private isRemade(from: CatalogTable, to: CatalogTable, column: CatalogColumn): boolean {
    const after = byId(to.columns).get(column.id)
    if (!after) return column.computed !== undefined
    if (after.computed === undefined) return false
    const isSame = sameWritten(column.computed, after.computed) && column.stored === after.stored
    if (!isSame || column.type.sql !== after.type.sql) return true
    return !this.stands('computed', from, to, columnsIn(after.computed))
  }

  private survivor(from: CatalogTable, constraint: Constraint): Constraint | undefined {
    const { inPlace } = this
    const to = byId(this.input.to.tables).get(from.id)
    if (!to || inPlace.remakes(from, to)) return undefined
    const { kind, key } = constraint
    const after = constraintIn(to, kind, key.id)
    if (!after || (key.name !== after.key.name && !inPlace.renames.includes(kind))) return undefined
    const isHeldAtEnd = constraint.kind === 'foreignKey' && constraint.key.atLeastOne
    if (isHeldAtEnd && !this.isLeftAlone(from.id, constraint.key.table)) return undefined
    if (constraint.kind === 'trigger') return this.triggerStays(from, constraint.key) ? after : undefined
    const stays = this.saysTheSame(constraint, after) && this.stands(kind, from, to, leansOn(constraint))
    if (!stays) return undefined
    return constraint.kind !== 'foreignKey' || this.referenceStays(from, constraint) ? after : undefined
  }

  /** A trigger names what it is about, would see to rows that are moved, and reads another table where it copies. */
  private triggerStays(from: CatalogTable, { does }: CatalogTrigger): boolean {
    const read = does.kind === 'copies' ? does.table : from.id
    const isTheirs = !byId(this.input.from.tables).has(read) && !byId(this.input.to.tables).has(read)
    return this.isLeftAlone(from.id) && (isTheirs || this.isLeftAlone(read))
  }

  /**
   * Whether tables stay to the last name and no row of theirs is moved. What is looked at when the transaction ends
   * names them as they are called, and would have to be looked at while they change.
   */
  private isLeftAlone(...ids: readonly string[]): boolean {
    const { from, to, flow, restore } = this.input
    const moved = new Set([...flow.adds, ...flow.fills, ...restore].map(({ table }) => table))
    return ids.every((id) => {
      const [before, after] = [byId(from.tables).get(id), byId(to.tables).get(id)]
      return before !== undefined && after !== undefined && isSameTable(before, after) && !moved.has(id)
    })
  }

  private saysTheSame(one: Constraint, other: Constraint): boolean {
    if (one.key === other.key) return true
    const says = ({ key }: Constraint): string => JSON.stringify({ ...key, name: '' })
    return says(one) === says(other)
  }

  private stands(what: Leaning, from: CatalogTable, to: CatalogTable, columns: readonly string[]): boolean {
    return columns.every((id) => {
      const [before, after] = [from, to].map((table) => byId(table.columns).get(id))
      if (!before || !after) return before === after
      if (this.isRemade(from, to, before) || this.isOfReplaced(before, what)) return false
      return this.inPlace.stands(what, before, after)
    })
  }

  /** A condition holds values of the list that it was written for; a reference, columns of one. A key has none. */
  private isOfReplaced({ type }: CatalogColumn, what: Leaning): boolean {
    const leans = what !== 'primaryKey' && what !== 'unique'
    return leans && type.list !== undefined && this.listsReplaced.has(type.list)
  }

  /** A reference leans on a key of the other table, and in some engines on an index of its own. */
  private referenceStays(from: CatalogTable, { key }: Extract<Constraint, { kind: 'foreignKey' }>): boolean {
    const referred = byId(this.input.from.tables).get(key.table)
    const becomes = byId(this.input.to.tables).get(key.table)
    if (this.inPlace.indexesReferences && !this.indexesStay(from, key.columns)) return false
    // Another system's table is in neither, and stays as it is.
    if (!referred || !becomes) return referred === becomes
    if (!this.inPlace.referencesFollow && referred.name !== becomes.name) return false
    if (!this.stands('foreignKey', referred, becomes, key.refersTo)) return false
    const isSet = ({ columns }: CatalogKey): boolean =>
      columns.length === key.refersTo.length && columns.every((id) => key.refersTo.includes(id))
    const keys = constraintsOf(referred).filter(
      (each) => (each.kind === 'primaryKey' || each.kind === 'unique') && isSet(each.key)
    )
    if (!keys.every((each) => this.of(referred, each))) return false
    return !this.inPlace.indexesReferences || this.indexesStay(referred, key.refersTo)
  }

  /** Whether every key and index that begins with the columns stays. */
  private indexesStay(table: CatalogTable, columns: readonly string[]): boolean {
    const begins = (each: Constraint): boolean =>
      each.kind !== 'check' &&
      each.kind !== 'foreignKey' &&
      each.kind !== 'trigger' &&
      columns.every((id) => each.key.columns.slice(0, columns.length).includes(id))
    return constraintsOf(table)
      .filter(begins)
      .every((each) => this.of(table, each))
  }
}

/** The columns that a constraint is about. */
function leansOn({ kind, key }: Constraint): readonly string[] {
  if (kind === 'trigger') return [key.column]
  const mentioned = (sql: Written | undefined): string[] => (sql ? columnsIn(sql) : [])
  if (kind === 'check') return mentioned(key.condition)
  return kind === 'index' ? [...key.columns, ...mentioned(key.where)] : key.columns
}
