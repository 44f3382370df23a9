import type { Design, Table } from '../design/model.ts'
import type { Type } from '../design/type.ts'
import type { Default, Value } from '../design/value.ts'
import type { Catalog, CatalogTable, CatalogTrigger, Statement, Tables } from './catalog.ts'
import type { Remark } from './remark.ts'
import type { Facts, TypeContext, TypeWords } from './facts.ts'
import type { RowQuery } from '../design/row-query.ts'
import type { Printed, RowContext, RowOptions } from './rows.ts'
import type { MigrationInput } from './migration.ts'
import type { ChainWords } from './chain.ts'
import type { EffortFacts } from './effort.ts'
import type { Step, WayInputs } from './step.ts'
import type { InPlace } from './survival.ts'

export type DialectName = 'postgresql' | 'mariadb' | 'mysql' | 'sqlite' | 'sqlserver' | 'oracle'

/** Runs one statement on an engine and gives its rows. */
export type Query = (sql: string) => Promise<Record<string, unknown>[]>

/**
 * One dialect: what its engine can do, as data, with a writer and a reader. Everything that depends on
 * the engine asks here; nothing outside core/dialect knows a dialect by its name.
 */
export interface Dialect {
  name: DialectName
  title: string
  facts: Facts
  /** The same dialect, for the oldest version of its engine that a design is to run on. */
  for(design: Pick<Design, 'oldest'>): this
  /** A logical type as it is written here, and what is lost. */
  type(type: Type, context: TypeContext): TypeWords

  quote(name: string): string
  /** A table's name from a catalog, with its schema. */
  quoteTable(name: string): string
  literal(value: Value, type: Type): string
  /** A default as SQL; `generated` is not a default in SQL. */
  default(value: Default, type: Type): string | undefined

  /** A condition on a row of a table, as a design keeps it; `name` says a column by its id. */
  condition(kept: string, table: Table, name: (column: string) => string): string

  /** A value as what orders rows as the design does. */
  inOrder(sql: string, type: Type): string
  /** What stands behind the order of a SELECT of which the first row is wanted. */
  firstOnly: string

  /** A row query as SELECT; see ./rows.ts. */
  rows(query: RowQuery, context: RowContext, options?: RowOptions): Printed

  /**
   * The catalog that the design should come to on the version that it is for, and what the dialect cannot say.
   */
  catalog(design: Design): { catalog: Catalog; remarks: Remark[] }
  /**
   * The statements that make the catalog on an empty database, in an order that runs. External tables are
   * left out. `rows`: what puts rows in, which comes before triggers that would see to them.
   */
  create(catalog: Catalog, rows?: readonly Statement[]): Statement[]
  /** The statements that make its triggers, where its tables are there. */
  triggers(catalog: Catalog): Statement[]
  /** How the engine's own client takes a script. */
  client: Client
  /** How rows of a table are put in. */
  inserts: Inserts
  /** What the engine changes in place, which ./steps.ts asks. */
  inPlace: InPlace
  /** What steps cost in the engine, and who waits. */
  effort: EffortFacts
  /** The statements for the steps that lead from one state to another. */
  migrate(input: MigrationInput, steps: readonly Step[]): Statement[]
  /** A way that can be stopped anywhere and run again, where the engine keeps each statement at once. */
  restart?(ways: WayInputs, way: 'up' | 'down'): Statement[]
  /** All versions as scripts that look first where the database stands. */
  chain: ChainWords
  /** What proves it, where the engine runs here. */
  engine: EngineSide | undefined
}

/** How an engine's own client takes a script. */
export interface Client {
  /** What the client is told first. */
  begin: string[]
  /** A statement with what ends it. */
  end(sql: string): string
  /** What begins a statement that is a block of several, and ends otherwise than with a semicolon. */
  block?: RegExp
  /** Such a statement among plain ones, where that is not as among those of a migration. */
  endBlock?(sql: string): string
  /** Whether a migration can be taken back as a whole, for a person. */
  keeps: string
  /** What begins and ends definitions that are made all or not at all, where the engine takes them back. */
  whole?: [begin: string[], end: string]
  /** What definitions depend on, as the client is told it before them, each with what ends it. */
  settings?: string[]
  /**
   * What sees to it, within a whole, that all of a catalog is there, and so many rows of its tables and no more,
   * where the client goes on after an error.
   */
  guards?(catalog: Catalog, rows: ReadonlyMap<string, number>): [first: Statement[], last: Statement[]]
  /** What has to be known of the engine by whoever uses what was made. */
  remember?: string
  /** Drops a table that may not be there, or a view. */
  dropIfThere(name: string, what?: 'TABLE' | 'VIEW'): string
  /** What stands behind a statement that must be alone in what is sent, where one that makes a view must. */
  afterView?: string
}

/** How rows are put in, with numbers of their own where the engine counts. */
export interface Inserts {
  /** How many rows go into one INSERT. */
  most: number
  /** What lets a column be given the numbers that the engine would count, where it is one of those put in. */
  before(table: CatalogTable, columns: readonly string[]): Statement[]
  /** What ends that. */
  after(table: CatalogTable, columns: readonly string[]): Statement[]
  /** What keeps the rows of the tables, and lets the engine count on behind them. */
  last(tables: readonly CatalogTable[]): Statement[]
}

/** Where the counter goes on from the largest number there is by itself. */
export const PLAIN_INSERTS: Inserts = { most: 200, before: () => [], after: () => [], last: () => [] }

/** Statements that end with a semicolon. */
export const PLAIN_CLIENT: Client = {
  begin: [],
  end: (sql) => `${sql};`,
  keeps: 'One transaction: all of it, or nothing.',
  dropIfThere: (name, what = 'TABLE') => `DROP ${what} IF EXISTS ${name}`
}

/** A dialect whose engine runs here. */
export type Provable = Dialect & { engine: EngineSide }

/** What a proof on a real engine asks of its dialect. */
export interface EngineSide {
  /** Whether a migration leaves columns in the design's order; else new ones come last. */
  ordersColumns: boolean
  /** One spelling for defaults of a type that mean the same to the engine. */
  oneDefault(sql: string, type: string): string
  /** One spelling for expressions that mean the same. */
  oneExpression(sql: string): string
  /** One spelling for types that are the same, as a person may spell one of the engine's own. */
  oneType(sql: string): string
  /** What its catalog prints of a text that it cannot print. */
  asPrinted?(text: string): string
  /** What must be said on each connection before anything else. */
  onConnect: string[]
  /** What a trigger does, as it is read back: once for each that the engine has for it. */
  sayTrigger(table: CatalogTable, trigger: CatalogTrigger, tables: Tables): string[]
  /** Removes everything that a proof may have made, so that the next begins with nothing. */
  reset(query: Query): Promise<void>
  /** Reads what the engine has now. */
  read(query: Query): Promise<Catalog>
  /** What has it take rows without looking where they refer to, and what has it look again; outside of transactions. */
  unheld: [begin: string, end: string]
  /** What has a transaction defer what can be deferred, once it has begun; nothing where nothing can be. */
  defer?: string
  /** What the engine refused a statement by, as it says itself; nothing where an error is no refusal of rows. */
  refusal(error: unknown): EngineRefusal | undefined
  /** A column of a row as text (or null) whatever its type, for comparing values. */
  selectText(column: string, type: Type): string
  /** What data access written for it says in the engine's own way. */
  code: CodeWords
}

/** What of a statement with bound values differs between engines, and between what their drivers take. */
export interface CodeWords {
  /** How the value that is bound at a place, counted from nothing, is said in SQL. */
  place(at: number): string
  /** The same, and how true and false are bound, as functions in TypeScript. */
  placeAt: string
  truth: string
  /** What stands behind a moment of the world's time that is said in that of UTC. */
  zone: string
  /** What stands behind INSERT INTO a table where no value is given. */
  noValues: string
}

/** Places without numbers, as several engines have them. */
export const PLAIN_CODE: CodeWords = {
  place: () => '?',
  placeAt: "(_at: number): string => '?'",
  truth: '(value: unknown): unknown => Number(value)',
  zone: '',
  noValues: ' DEFAULT VALUES'
}

/** A refusal as an engine says it: by what kind of constraint, and its name, where it says one. */
export interface EngineRefusal {
  kind: 'reference' | 'key' | 'required' | 'check' | 'other'
  name?: string
}

/** What an engine does with a referential action: takes it, or not, with the reason. */
export function actionIn(
  facts: Facts,
  action: Facts['lacks'][number]['action'],
  on: 'delete' | 'update'
): { can: true } | { can: false; why: string } {
  const lack = facts.lacks.find((each) => each.action === action && each.on.includes(on))
  return lack ? { can: false, why: lack.why } : { can: true }
}

/**
 * The statements as one script that a person can run and read: those of several lines stand by themselves.
 */
export function script(statements: readonly Statement[]): string {
  return statements
    .map(({ sql }, at) => {
      const alone = at > 0 && (sql.includes('\n') || (statements[at - 1]?.sql.includes('\n') ?? false))
      return `${alone ? '\n' : ''}${sql};\n`
    })
    .join('')
}
