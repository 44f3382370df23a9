import type { RowSecurity } from '../design/model.ts'
import type { Adding, Fill, Requirement } from '../design/carry.ts'
import { once } from '../once.ts'
import type {
  CatalogCheck,
  CatalogColumn,
  CatalogEnum,
  CatalogForeignKey,
  CatalogIndex,
  CatalogKey,
  CatalogRowPolicy,
  CatalogSchema,
  CatalogTable,
  CatalogTrigger
} from './catalog.ts'
import type { Keepsake, MigrationInput } from './migration.ts'

/** A constraint, an index or a trigger, by what it is. */
export type Constraint =
  | { kind: 'primaryKey' | 'unique'; key: CatalogKey }
  | { kind: 'foreignKey'; key: CatalogForeignKey }
  | { kind: 'index'; key: CatalogIndex }
  | { kind: 'check'; key: CatalogCheck }
  | { kind: 'trigger'; key: CatalogTrigger }
export type ConstraintKind = Constraint['kind']

/**
 * One step of a migration, by ids and without a dialect. ./steps.ts works them out, ./state.ts says what
 * there is after each, and the dialects say them in their words. Names of tables are as in a catalog.
 */
export type Step = ShapeStep | RowStep

/** What changes the catalog. */
export type ShapeStep =
  | { kind: 'makeSchema'; schema: CatalogSchema }
  | { kind: 'renameSchema'; schema: string; name: string }
  | { kind: 'dropSchema'; name: string }
  | { kind: 'makeList'; list: CatalogEnum }
  /** Also its id, where another takes its place; `sql`: how it is written as a type from then on. */
  | { kind: 'renameList'; list: string; as: { id: string; name: string; sql: string } }
  | { kind: 'addToList'; list: string; values: string[] }
  | { kind: 'dropList'; list: string }
  /** With columns, keys and checks; references, indexes and row policies come by steps of their own. */
  | { kind: 'makeTable'; table: CatalogTable }
  /** Within its schema. */
  | { kind: 'renameTable'; table: string; name: string }
  | { kind: 'moveTable'; table: string; name: string }
  | { kind: 'noteTable'; table: string; note: string | undefined }
  | { kind: 'dropTable'; table: string }
  /** `after`: where it stands, in an engine that puts columns in order; undefined at the end. */
  | { kind: 'addColumn'; table: string; column: CatalogColumn; after?: string | undefined }
  | { kind: 'renameColumn'; table: string; column: string; name: string }
  /** Everything about it but its name. */
  | { kind: 'changeColumn'; table: string; column: CatalogColumn }
  | { kind: 'dropColumn'; table: string; column: string }
  | { kind: 'orderColumns'; table: string; order: string[] }
  | { kind: 'addConstraint'; table: string; constraint: Constraint }
  | { kind: 'renameConstraint'; table: string; of: ConstraintKind; id: string; name: string }
  | { kind: 'dropConstraint'; table: string; of: ConstraintKind; id: string }
  | { kind: 'setPolicies'; table: string; policies: CatalogRowPolicy[]; security: RowSecurity }

/** What moves rows. */
export type MoveStep =
  /** Nobody writes the tables from here on. */
  | { kind: 'lock'; tables: string[] }
  /** An intermediate result of the flow is worked out. */
  | { kind: 'stage'; result: string }
  /** What stands in the way of a restructuring stops it, before anything is changed. */
  | { kind: 'require'; requirement: Requirement }
  /** All rows of a table go: they are kept, and come back. */
  | { kind: 'clear'; table: string }
  /** Rows in which a column is empty get a number, from the largest on. */
  | { kind: 'number'; table: string; column: string }
  | { kind: 'fill'; fill: Fill }
  | { kind: 'addRows'; adding: Adding }
  /** The default goes where a column is empty. */
  | { kind: 'fillEmpty'; table: string; column: string }
  | { kind: 'unstage'; result: string }

/** What keeps rows aside, and puts them back. */
export type KeepStep =
  /** A keepsake of the other way is there, or an empty one is made. */
  | { kind: 'expect'; keepsake: Keepsake }
  | { kind: 'keep'; keepsake: Keepsake }
  /** Which rows of a whole table the other way will make by itself. */
  | { kind: 'mark'; keepsake: Keepsake }
  /** Rows go that come back though they were not there. */
  | { kind: 'takeSurplus'; keepsake: Keepsake }
  /** All rows of a table come back. */
  | { kind: 'putBackRows'; keepsake: Keepsake }
  /** Columns get what was kept, in the rows that were there. */
  | { kind: 'putBack'; keepsake: Keepsake; columns: string[]; whereEmpty?: true }
  /** What narrowed values have become is kept beside what they were. */
  | { kind: 'noteNarrowed'; keepsake: Keepsake; column: string }
  /** What narrowed values were comes back, where they are still what they had become. */
  | { kind: 'putBackNarrowed'; keepsake: Keepsake; column: string; narrowed: CatalogColumn }
  /** What was made empty by that is what it had become again. */
  | { kind: 'takeBackNarrowed'; keepsake: Keepsake; column: string; narrowed: CatalogColumn }
  /** What the other way would fill a column with is noted beside what was kept of it. */
  | { kind: 'noteRefilled'; keepsake: Keepsake; column: string }
  /** What was kept of columns that have been filled together comes back, where that is still as it would be. */
  | { kind: 'putBackRefilled'; keepsake: Keepsake; columns: string[] }
  | { kind: 'dropKeepsake'; keepsake: Keepsake }

export type RowStep = MoveStep | KeepStep

/** A way of a migration, as it is written from. */
export interface WayInput {
  /** What it goes by in an account: the same whether it is a way there or a way back. */
  id: string
  input: MigrationInput
  steps: readonly Step[]
}
/** The two ways between two states. */
export type WayInputs = Record<'up' | 'down', WayInput>

/** All that holds a table's rows, speeds up looking for them, or sees to what they hold. */
export const constraintsOf = once((table: CatalogTable): readonly Constraint[] => [
  ...(table.primaryKey ? [{ kind: 'primaryKey' as const, key: table.primaryKey }] : []),
  ...table.uniques.map((key) => ({ kind: 'unique' as const, key })),
  ...table.foreignKeys.map((key) => ({ kind: 'foreignKey' as const, key })),
  ...table.checks.map((key) => ({ kind: 'check' as const, key })),
  ...table.indexes.map((key) => ({ kind: 'index' as const, key })),
  ...table.triggers.map((key) => ({ kind: 'trigger' as const, key }))
])

const constraintsById = once(
  (table: CatalogTable): ReadonlyMap<string, Constraint> =>
    new Map(constraintsOf(table).map((each) => [`${each.kind} ${each.key.id}`, each]))
)

/** A constraint of a table by its kind and id. */
export const constraintIn = (table: CatalogTable, kind: ConstraintKind, id: string): Constraint | undefined =>
  constraintsById(table).get(`${kind} ${id}`)

/** The id by which a list of values goes that another takes the place of, until it is dropped. */
export const asideId = (list: string): string => `${list}_aside`

const MOVE_STEPS: ReadonlySet<Step['kind']> = new Set<MoveStep['kind']>([
  'lock',
  'stage',
  'require',
  'clear',
  'number',
  'fill',
  'addRows',
  'fillEmpty',
  'unstage'
])

const KEEP_STEPS: ReadonlySet<Step['kind']> = new Set<KeepStep['kind']>([
  'expect',
  'keep',
  'mark',
  'takeSurplus',
  'putBackRows',
  'putBack',
  'noteNarrowed',
  'putBackNarrowed',
  'takeBackNarrowed',
  'noteRefilled',
  'putBackRefilled',
  'dropKeepsake'
])

export const isKeepStep = (step: Step): step is KeepStep => KEEP_STEPS.has(step.kind)

export const isShapeStep = (step: Step): step is ShapeStep => !MOVE_STEPS.has(step.kind) && !isKeepStep(step)
