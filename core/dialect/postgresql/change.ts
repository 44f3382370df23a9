import type {
  Catalog,
  CatalogCheck,
  CatalogColumn,
  CatalogEnum,
  CatalogForeignKey,
  CatalogIndex,
  CatalogKey,
  CatalogTable
} from '../catalog.ts'
import {
  columnById,
  columnIds,
  sort,
  tableById,
  type Keepsake,
  type MigrationInput,
  type Pair
} from '../migration.ts'
import { quote } from './types.ts'

/** A constraint or an index, by what it is. */
export type Constraint =
  | { kind: 'primaryKey' | 'unique'; key: CatalogKey }
  | { kind: 'foreignKey'; key: CatalogForeignKey }
  | { kind: 'index'; key: CatalogIndex }
  | { kind: 'check'; key: CatalogCheck }

/** All that holds a table's rows, or speeds up looking for them. */
export function constraintsOf(table: CatalogTable): Constraint[] {
  return [
    ...(table.primaryKey ? [{ kind: 'primaryKey' as const, key: table.primaryKey }] : []),
    ...table.uniques.map((key) => ({ kind: 'unique' as const, key })),
    ...table.foreignKeys.map((key) => ({ kind: 'foreignKey' as const, key })),
    ...table.checks.map((key) => ({ kind: 'check' as const, key })),
    ...table.indexes.map((key) => ({ kind: 'index' as const, key }))
  ]
}

/**
 * What differs between the two states of a migration, as far as PostgreSQL must be told: what it makes
 * anew, and what a change of name is enough for.
 */
export class Change {
  readonly tables: ReturnType<typeof sort<CatalogTable>>
  readonly enums: ReturnType<typeof sort<CatalogEnum>>

  constructor(private readonly input: MigrationInput) {
    this.tables = sort(input.from.tables, input.to.tables)
    this.enums = sort(input.from.enums, input.to.enums)
  }

  /**
   * Lists whose values change are made anew: a value that is added cannot be used in the same transaction,
   * and none can be taken away.
   */
  remadeEnums(): Pair<CatalogEnum>[] {
    return this.enums.kept.filter(({ from, to }) => JSON.stringify(from.values) !== JSON.stringify(to.values))
  }

  /** The lists that are made in the course of it, new or anew. */
  madeEnums(): CatalogEnum[] {
    return [...this.enums.made, ...this.remadeEnums().map(({ to }) => to)]
  }

  /** The lists that go in the course of it, for good or to be made anew. */
  goneEnums(): CatalogEnum[] {
    return [...this.enums.gone, ...this.remadeEnums().map(({ from }) => from)]
  }

  /** Whether a column's type changes, in its name or in what it means. */
  retyped(from: CatalogColumn, to: CatalogColumn): boolean {
    if (
      this.enums.kept.some((pair) => quote(pair.from.name) === from.type && quote(pair.to.name) === to.type)
    )
      return this.remadeEnums().some(({ to: list }) => quote(list.name) === to.type)
    return from.type !== to.type
  }

  /** A keepsake outlives lists of values: what was one of a list is kept as text. */
  kept(type: string): string {
    return this.isList(type) ? 'text' : type
  }

  /** Whether the type is a list of values, before or after. */
  isList(type: string): boolean {
    return [...this.input.from.enums, ...this.input.to.enums].some((list) => quote(list.name) === type)
  }

  /** A column of a keepsake, as a value for a column of the type. */
  fromKeepsake(expression: string, type: string): string {
    return this.isList(type) ? `${expression}::${type}` : expression
  }

  /** Whether any column that stays changes its type. */
  anyRetyped(from: CatalogTable, to: CatalogTable): boolean {
    return sort(from.columns, to.columns).kept.some((pair) => this.retyped(pair.from, pair.to))
  }

  /**
   * Whether a condition on the table must be said again: a column under it has another type, or is made
   * anew.
   */
  unsettles(from: CatalogTable, to: CatalogTable): boolean {
    return this.anyRetyped(from, to) || from.columns.some((column) => this.isRemade(from, to, column.id))
  }

  /**
   * A computed column that is computed otherwise, or newly computed, is made anew; one that leans on a
   * column whose type changes as well.
   */
  isRemade(from: CatalogTable, to: CatalogTable, id: string): boolean {
    const [before, after] = [from, to].map((table) => table.columns.find((column) => column.id === id))
    if (!before || !after) return before?.computed !== undefined && after === undefined
    return after.computed !== undefined && (before.computed !== after.computed || this.anyRetyped(from, to))
  }

  /** Whether the row policies are to be said again. */
  policiesChange(from: CatalogTable, to: CatalogTable): boolean {
    return (
      JSON.stringify(from.rowPolicies) !== JSON.stringify(to.rowPolicies) ||
      (from.rowPolicies.length > 0 && this.unsettles(from, to))
    )
  }

  /** The constraint that this one becomes by a change of name at the most. */
  survivor(from: CatalogTable, to: CatalogTable, constraint: Constraint): Constraint | undefined {
    const said = this.shape(this.input.from, from, constraint, to)
    return constraintsOf(to).find(
      (other) =>
        other.kind === constraint.kind &&
        other.key.id === constraint.key.id &&
        this.shape(this.input.to, to, other, from) === said
    )
  }

  /**
   * What a constraint says, by ids; where types change, on either side of a reference or under a
   * condition, it is another.
   */
  private shape(
    catalog: Catalog,
    table: CatalogTable,
    constraint: Constraint,
    counterpart: CatalogTable
  ): string {
    const { kind, key } = constraint
    const [before, after] = catalog === this.input.from ? [table, counterpart] : [counterpart, table]
    const unsettled = this.unsettles(before, after) && catalog === this.input.from
    if (kind === 'check') return JSON.stringify([kind, key.condition, unsettled])
    const ids = columnIds(table, key)
    const remade = ids.some((id) => this.isRemade(before, after, id)) && catalog === this.input.from
    const own = ids.map(
      (id) => `${id}:${kind === 'foreignKey' ? table.columns.find((column) => column.id === id)?.type : ''}`
    )
    if (kind === 'index')
      return JSON.stringify([
        kind,
        own,
        remade,
        key.unique,
        key.descending,
        key.where,
        key.where !== undefined && unsettled
      ])
    if (kind !== 'foreignKey') return JSON.stringify([kind, own, remade])
    const referred = catalog.tables.find((each) => each.name === key.table)
    const target = referred
      ? [referred.id, columnIds(referred, { columns: key.refersTo }), this.keyShape(referred, key.refersTo)]
      : [key.table, key.refersTo]
    return JSON.stringify([kind, own, target, key.onDelete, key.onUpdate])
  }

  /** A reference leans on a key: where that is dropped and made again, so is the reference. */
  private keyShape(referred: CatalogTable, columns: readonly string[]): string {
    const key = [referred.primaryKey, ...referred.uniques].find(
      (each) =>
        each && each.columns.length === columns.length && each.columns.every((name) => columns.includes(name))
    )
    return key ? JSON.stringify([key === referred.primaryKey, key.id, columnIds(referred, key)]) : ''
  }

  /** Where a column that comes back was kept. */
  restoredBy(table: CatalogTable, column: CatalogColumn): Keepsake | undefined {
    return this.input.restore.find(
      (keepsake) =>
        keepsake.table === table.id &&
        keepsake.columns.some((each) => each.id === column.id && each.why === 'dropped')
    )
  }

  /** The type of a column when types have changed: as it will be, or as it was where it goes. */
  typeNow(table: string, column: string): string {
    const after = this.input.to.tables
      .find((each) => each.id === table)
      ?.columns.find((each) => each.id === column)
    return (after ?? columnById(tableById(this.input.from, table), column)).type
  }
}
