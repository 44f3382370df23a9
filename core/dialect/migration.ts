import type { Fill, Flow } from '../design/carry.ts'
import type { RowQuery, TypedColumn } from '../design/row-query.ts'
import type { Design } from '../design/model.ts'
import type { Value } from '../design/value.ts'
import type { Catalog } from './catalog.ts'

/**
 * Where a migration keeps what the other side has no place for: a table beside the others, made by one way
 * and put back and removed by the other. Its columns are called by their ids, since names may change
 * meanwhile.
 */
export interface Keepsake {
  name: string
  /** Id of the table. */
  table: string
  /**
   * How rows are found again: not at all, because the whole table goes; by a key that stays; or by all
   * columns that stay, and in order among those that are the same in them.
   */
  by: 'table' | 'key' | 'row'
  /** Ids of the columns of that key, or of those that stay. */
  key: string[]
  /** This way fills that key in: it is kept after that. */
  late?: true
  columns: {
    id: string
    name: string
    /**
     * Dropped; or changed so that some values become others: to a type that holds less, or filled where
     * they were empty.
     */
    why: 'dropped' | 'narrowed'
    /** The other way looks it up elsewhere: it is kept for when this one is stopped and taken back. */
    spare?: true
    /** The other way fills it, though maybe not with what it was: how, over what there is after this way. */
    refilled?: Refilled
  }[]
  /**
   * Of a whole table: the rows that the other way makes by itself, the columns that they have, and those that have in
   * all of them what the column begins with; `told`: what they have of what numbers stand for.
   */
  returns: { rows: RowQuery; given: string[]; begins: string[]; told?: string[] }[]
  /**
   * Of a whole table that the other way numbers: what the numbers stand for there, where the table does not say it
   * itself. A number that a carry gives is no identity: the row has it again by what it stood for.
   */
  told?: NumberFacts
}

/** What numbers stand for: rows over the state before, with the number and what it is given for. */
export interface NumberFacts {
  rows: RowQuery
  number: string
  /** `empty`: what this way puts where nothing was told, so that the row is found by it. */
  columns: (TypedColumn & { empty?: Value })[]
}

/** What a column is filled with from elsewhere: a column of rows that agree with its own row. */
export interface Refilled {
  /** Columns that are filled together have the same. */
  by: Refilling
  column: string
}

/** Rows, and how they agree with those that are filled. */
export interface Refilling {
  from: RowQuery
  on: Fill['on']
  /** Where one of several is taken, all of them: what was there comes back as long as it is among them. */
  among?: RowQuery
}

/** A column of a table, by ids. */
export interface ColumnOfTable {
  table: string
  column: string
}

export interface MigrationInput {
  from: Catalog
  to: Catalog
  /** Made before anything is dropped. */
  keep: Keepsake[]
  /** Put back, where they are there, and removed. */
  restore: Keepsake[]
  /** What is moved, as queries over `state`: the design before, with the columns that come early. */
  flow: Flow
  state: Design
  /** The design after. */
  after: Design
  /**
   * New columns that must be there before anything is looked up, or kept: the engine counts them, or they
   * are put back.
   */
  early: ColumnOfTable[]
}

/** What a migration is about: another system's tables are not, but references to them are. */
export function ownTables(input: MigrationInput): MigrationInput {
  const own = (catalog: Catalog): Catalog => ({
    ...catalog,
    tables: catalog.tables.filter((table) => !table.external)
  })
  const gone = new Set(input.from.tables.filter((table) => table.external).map((table) => table.id))
  const come = new Set(input.to.tables.filter((table) => table.external).map((table) => table.id))
  // A table that changes hands is neither made nor dropped.
  const kept = (catalog: Catalog, others: ReadonlySet<string>): Catalog => ({
    ...catalog,
    tables: catalog.tables.filter((table) => !others.has(table.id))
  })
  return { ...input, from: kept(own(input.from), come), to: kept(own(input.to), gone) }
}

/** The two states of an entity that stays. */
export interface BothStates<T> {
  from: T
  to: T
}

/** What of a list of entities goes, comes and stays, by id. */
export function sort<T extends { id: string }>(
  from: readonly T[],
  to: readonly T[]
): { gone: T[]; made: T[]; kept: BothStates<T>[] } {
  const before = new Map(from.map((each) => [each.id, each]))
  const after = new Set(to.map((each) => each.id))
  return {
    gone: from.filter((each) => !after.has(each.id)),
    made: to.filter((each) => !before.has(each.id)),
    kept: to.flatMap((each) => {
      const old = before.get(each.id)
      return old ? [{ from: old, to: each }] : []
    })
  }
}
