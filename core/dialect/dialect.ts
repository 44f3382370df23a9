import type { Action, Design } from '../design/model.ts'
import type { Type } from '../design/type.ts'
import type { Default, Value } from '../design/value.ts'
import type { Catalog, CatalogTable, Statement } from './catalog.ts'
import type { MigrationInput } from './migration.ts'

export type DialectName = 'postgresql' | 'sqlite'

/** Runs one statement on an engine and gives its rows. */
export type Query = (sql: string) => Promise<Record<string, unknown>[]>

/** What could not be said in the dialect, or is said with a loss; `table` is the design's id. */
export interface Remark { table: string; message: string }

/**
 * One dialect: what its engine can do, as data, with a writer and a reader. Everything that depends on
 * the engine asks here; nothing outside core/dialect knows a dialect by its name.
 */
export interface Dialect {
  name: DialectName
  title: string
  /** Whether the engine takes the action on delete and on update; the reason where it does not. */
  action(action: Action, on: 'delete' | 'update'): { can: true } | { can: false; why: string }
  /** The longest name, or none. */
  nameLimit: { most: number; of: 'bytes' | 'characters' } | undefined
  /** Whether a migration leaves columns in the design's order; else new ones come last. */
  ordersColumns: boolean

  quote(name: string): string
  literal(value: Value, type: Type): string
  /** A default as SQL; `generated` is not a default in SQL. */
  default(value: Default, type: Type): string | undefined

  /** One spelling for defaults of a type that mean the same to the engine. */
  oneDefault(sql: string, type: string): string

  /** The catalog that the design should come to, and what the dialect cannot say. */
  catalog(design: Design): { catalog: Catalog; remarks: Remark[] }
  /** The statements that make the catalog on an empty database, in an order that runs. */
  create(catalog: Catalog): Statement[]
  /** The statements that turn one catalog into another and keep the rows. */
  migrate(input: MigrationInput): Statement[]
  /** What lets generated columns go on after rows were put in with numbers of their own. */
  afterRows(table: CatalogTable): Statement[]
  /** What must be said on each connection before anything else. */
  onConnect: string[]
  /** Removes every table, so that a proof begins with nothing. */
  reset(query: Query): Promise<void>
  /** Reads what the engine has now. */
  read(query: Query): Promise<Catalog>
  /** A column of a row as text (or null) whatever its type, for {@link sameValue}. */
  selectText(column: string, type: Type): string
}

/** The statements as one script that a person can run and read: those of several lines stand by themselves. */
export function script(statements: readonly Statement[]): string {
  return statements.map(({ sql }, at) => {
    const alone = at > 0 && (sql.includes('\n') || (statements[at - 1]?.sql.includes('\n') ?? false))
    return `${alone ? '\n' : ''}${sql};\n`
  }).join('')
}
