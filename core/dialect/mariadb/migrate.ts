import { indented } from '../indent.ts'
import { byId } from '../../design/by-id.ts'
import type {
  CatalogCheck,
  CatalogColumn,
  CatalogTable,
  CatalogTrigger,
  CatalogType,
  Statement
} from '../catalog.ts'
import type { ScriptLine } from '../chain.ts'
import type { MigrationInput } from '../migration.ts'
import type { Speech } from '../speech.ts'
import { State } from '../state.ts'
import { accountOf, restartable, type Gate, type RestartWords } from '../restart.ts'
import { StepWriter, type RowId, type DraftStatement, type Update } from '../step-writer.ts'
import type { Constraint, ConstraintKind, ShapeStep, Step, WayInputs } from '../step.ts'
import type { InPlace } from '../survival.ts'
import { constraintClause, createTable, indexColumns, sayConstraint } from '../write.ts'
import { nameOfColumn } from '../written.ts'
import { createTrigger, dropTrigger } from './trigger.ts'
import { createTriggers, dropTriggers } from './check-trigger.ts'
import { quote, quoteText } from './types.ts'
import { isCounted, words as mariadbWords } from './write.ts'
import { conditionOf, columnsOf, type Words } from '../sql-words.ts'
import type { WayProgress } from '../distance.ts'

/**
 * What MariaDB changes in place (MariaDB, "ALTER TABLE"): indexes are the only constraints that can be
 * called otherwise, and a reference holds the columns on both its sides to what they are.
 */
export const inPlace: InPlace = {
  renames: ['primaryKey', 'unique', 'index'],
  renamesSchemas: false,
  namesAreOwn: true,
  ordersColumns: true,
  notesInside: true,
  stands: (what, from, to) => {
    // What is no longer computed gets a column in its place.
    if (from.computed !== undefined && to.computed === undefined) return false
    const isSame = from.type.sql === to.type.sql
    if (what === 'foreignKey') return isSame && (from.required || !to.required)
    if (what === 'check' || what === 'computed') return isSame && from.name === to.name
    return true
  },
  indexesReferences: true,
  referencesFollow: true,
  keysLater: false,
  remakes: () => false,
  addsToList: () => false
}

/**
 * Each statement that changes a table is kept at once (MariaDB, "Atomic DDL"), so nothing can be taken back
 * as a whole; what a value stands in the way of is refused, whatever the server's mode is.
 */
export function migrate(input: MigrationInput, steps: readonly Step[], speech: Speech): Statement[] {
  const statements = new Writer(input, speech).write(steps)
  return statements.length === 0 ? [] : [STRICT, ...statements]
}

/** A way that goes on from where it was stopped. */
export function restart(
  ways: WayInputs,
  way: 'up' | 'down',
  speech: Speech,
  gate?: (course: WayProgress) => Gate,
  writer = (input: MigrationInput): Writer => new Writer(input, speech)
): ScriptLine[] {
  const account = quote(accountOf(ways))
  const of = (which: string): string => `(SELECT done FROM ${account} WHERE way = ${quoteText(which)})`
  const words: RestartWords = {
    account: `CREATE TABLE IF NOT EXISTS ${account} (way varchar(6) PRIMARY KEY, done int NOT NULL) ENGINE = InnoDB`,
    when: ({ way: which, atLeast, below }, statements, then) => {
      const isOne = below === atLeast + 1
      const condition = `${of(which)} ${isOne ? `= ${atLeast}` : `BETWEEN ${atLeast} AND ${below - 1}`}`
      const told = `UPDATE ${account} SET done = ${then} WHERE way = ${quoteText(which)}`
      const isRows = statements.every((sql) => /^(UPDATE|INSERT|DELETE)/.test(sql))
      // What changes rows is told of in one transaction with them; what changes tables can be done again.
      const body =
        isRows && statements.length > 0
          ? ['START TRANSACTION', ...statements, told, 'COMMIT']
          : [...statements, told]
      return `IF ${condition} THEN\n${body.map((sql) => `  ${indented(sql)};\n`).join('')}END IF`
    },
    done: of,
    begin: (which, other, all, only) =>
      `INSERT IGNORE INTO ${account} SELECT ${quoteText(which)}, 0 FROM dual\n  WHERE NOT EXISTS (SELECT 1 FROM ${account} AS stopped WHERE way = ${quoteText(other)} AND done < ${all})${only === undefined ? '' : `\n  AND ${only}`}`,
    settle: (from, to, done) => [
      `INSERT IGNORE INTO ${account} SELECT ${quoteText(to)}, ${done} FROM ${account} AS other WHERE way = ${quoteText(from)} AND done < 0`,
      `DELETE FROM ${account} WHERE way = ${quoteText(from)} AND done < 0`
    ],
    end: (other, all) => `DELETE FROM ${account} WHERE way = ${quoteText(other)} AND done >= ${all}`
  }
  return restartable(ways, way, writer, words, [STRICT], gate)
}

export const STRICT: Statement = {
  sql: "SET SESSION sql_mode = 'STRICT_ALL_TABLES,NO_AUTO_VALUE_ON_ZERO,NO_ENGINE_SUBSTITUTION'",
  says: 'refuse what does not fit, and change nothing by itself'
}

/** Says every step so that it can be done again without harm. */
export class Writer extends StepWriter {
  constructor(
    input: MigrationInput,
    speech: Speech,
    protected readonly words: Words = mariadbWords
  ) {
    super(input, speech)
  }

  protected shape(step: ShapeStep): DraftStatement[] {
    const { state } = this
    switch (step.kind) {
      case 'makeTable':
        return [
          one(
            createTable(step.table, this.tables, this.words).replace(
              /^CREATE TABLE/,
              'CREATE TABLE IF NOT EXISTS'
            ),
            `make ${step.table.name}`
          ),
          ...step.table.checks
            .filter(({ byTrigger }) => byTrigger)
            .flatMap((check) => madeByItself(step.table, check))
        ]
      case 'dropTable': {
        const { name } = state.table(step.table)
        return [one(`DROP TABLE IF EXISTS ${quote(name)}`, `drop ${name}`)]
      }
      case 'renameTable': {
        const { name } = state.table(step.table)
        return [
          this.guarded(
            {
              verb: 'RENAME TABLE',
              only: 'there',
              is: { what: 'table', table: name, name },
              rest: `${quote(name)} TO ${quote(step.name)}`
            },
            `call ${name} ${step.name}`
          )
        ]
      }
      case 'noteTable': {
        const table = state.table(step.table)
        return [this.alter(table, `COMMENT = ${quoteText(step.note ?? '')}`, `say what ${table.name} is`)]
      }
      case 'addColumn':
        return this.add(state.table(step.table), step.column, step.after)
      case 'renameColumn': {
        const table = state.table(step.table)
        const { name } = state.column(step.table, step.column)
        const says = `call ${table.name}.${name} ${step.name}`
        const rest = `${quote(name)} TO ${quote(step.name)}`
        return [this.alterWhere('there', table, 'RENAME COLUMN', 'column', name, rest, says)]
      }
      case 'changeColumn':
        return this.change(state.table(step.table), state.column(step.table, step.column.id), step.column)
      case 'dropColumn': {
        const table = state.table(step.table)
        const { name } = state.column(step.table, step.column)
        return [this.dropColumn(table, name, `drop ${name} of ${table.name}`)]
      }
      case 'orderColumns':
        return this.order(state.table(step.table), step.order)
      case 'addConstraint':
        return this.addConstraint(state.table(step.table), step)
      case 'renameConstraint': {
        const table = state.table(step.table)
        const { name } = state.constraint(step.table, step.of, step.id).key
        const says = `call ${name} ${step.name}`
        const rest = `${quote(name)} TO ${quote(step.name)}`
        return [this.alterWhere('there', table, 'RENAME INDEX', 'index', name, rest, says)]
      }
      case 'dropConstraint':
        return this.dropConstraint(state.table(step.table), step.of, step.id)
      // There are no schemas, no lists of values as types, and no row policies.
      default:
        return []
    }
  }

  /** A lock is given up at the next statement that changes a table (MariaDB, "LOCK TABLES"). */
  protected lock(): DraftStatement[] {
    return []
  }

  /** Also what passes is a table of its own, so that it is still there when the connection was lost. */
  protected createAs(name: string, select: string, says: string): DraftStatement[] {
    return [one(`CREATE OR REPLACE TABLE ${quote(name)} ENGINE = InnoDB AS\n  ${select}`, says)]
  }

  /** A message has at most 128 characters (MariaDB, "SIGNAL"). */
  protected stopWhere(rows: string, says: string): DraftStatement {
    const message = quoteText([...says].slice(0, 128).join(''))
    const stop = `SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = ${message}`
    return one(`IF EXISTS (${rows}) THEN ${stop}; END IF`, `see that it can be: ${says}`)
  }

  protected createMissing(name: string, columns: string, says: string): DraftStatement {
    return one(`CREATE TABLE IF NOT EXISTS ${quote(name)} (${columns}) ENGINE = InnoDB`, says)
  }

  /** A column of its own, with a number in each row. */
  protected rowId(table: CatalogTable): RowId {
    const says = `tell the rows of ${table.name} apart`
    const dropped = this.alone(this.dropColumn(table, 'row_no', says))
    return {
      before: [
        { ...this.addPlainColumn(table.name, 'row_no', 'bigint', says), cleanup: dropped.sql },
        one(
          `UPDATE ${quote(table.name)} JOIN (SELECT @counted := 0) AS nothing SET ${saySets(leavingAlone(table, numbered))}`,
          says
        )
      ],
      columns: ['row_no'],
      after: [dropped]
    }
  }

  protected override remove(table: CatalogTable, where: string, says: string): DraftStatement[] {
    return [{ sql: `DELETE own FROM ${this.place(table.name)} own\n  WHERE ${where}`, says }]
  }

  protected update({ table, sets, from, on, where, says }: Update): DraftStatement[] {
    const values = leavingAlone(table, sets, 'own.')
      .map(({ column, value }) => `own.${quote(column)} = ${value}`)
      .join(', ')
    const condition = where === undefined ? '' : `\n  WHERE ${where}`
    return [
      one(`UPDATE ${quote(table.name)} AS own\n  JOIN ${from} ON ${on}\n  SET ${values}${condition}`, says)
    ]
  }

  protected override updateOwn(
    table: CatalogTable,
    sets: Update['sets'],
    ...rest: [where: string | undefined, says: string]
  ): DraftStatement {
    return super.updateOwn(table, leavingAlone(table, sets), ...rest)
  }

  /** A value is turned into what its column holds when it is put there, or refused. */
  protected convert(sql: string, _from: CatalogType, _to: CatalogType): string {
    return sql
  }

  protected override addPlainColumn(table: string, name: string, type: string, says: string): DraftStatement {
    return this.alone(
      this.alterWhere(
        'missing',
        { name: table },
        'ADD COLUMN',
        'column',
        name,
        `${quote(name)} ${type}`,
        says
      )
    )
  }

  protected override drop(place: string): string {
    return `DROP TABLE IF EXISTS ${place}`
  }

  private add(table: CatalogTable, column: CatalogColumn, after: string | undefined): DraftStatement[] {
    const says = `${column.computed === undefined ? 'add' : 'compute'} ${column.name} of ${table.name}`
    const place = after === undefined ? '' : ` AFTER ${quote(nameOfColumn(table, after))}`
    const grown = { ...table, columns: [...table.columns, column] }
    // A new column that must be filled would be, with a zero or an empty text.
    const isHeld = column.required && column.default === undefined && column.computed === undefined
    const first = isHeld ? { ...column, required: false, generated: false } : column
    const rest = `${this.definition(first, grown)}${place}`
    const added = this.alterWhere('missing', table, 'ADD COLUMN', 'column', column.name, rest, says)
    if (!isHeld) return [added]
    return [
      added,
      one(
        `ALTER TABLE ${quote(table.name)} MODIFY COLUMN ${this.definition(column, grown)}`,
        `require ${table.name}.${column.name}`
      )
    ]
  }

  protected change(table: CatalogTable, old: CatalogColumn, column: CatalogColumn): DraftStatement[] {
    const changed = { ...table, columns: table.columns.map((each) => (each === old ? column : each)) }
    if (old.computed === undefined || column.computed !== undefined)
      return [
        this.alter(
          table,
          `MODIFY COLUMN ${this.definition(column, changed)}`,
          `change ${table.name}.${column.name}`
        )
      ]
    // What is computed is nowhere kept: a column in its place takes what it comes to.
    const says = `${table.name}.${column.name} is no longer computed`
    const passing = { ...column, name: `${column.name.slice(0, 55)}_kept` }
    const [name, kept] = [quote(column.name), quote(passing.name)]
    const free = { ...passing, required: false, generated: false }
    const added = `${this.definition(free, table)} AFTER ${name}`
    const becomes = `${kept} ${this.definition(column, changed)}`
    return [
      {
        ...this.alone(this.alterWhere('missing', table, 'ADD COLUMN', 'column', passing.name, added, says)),
        cleanup: this.alone(this.dropColumn(table, passing.name, says)).sql
      },
      this.updateOwn(table, [{ column: passing.name, value: name }], undefined, says),
      this.alone(this.dropColumn(table, column.name, says)),
      this.alone(this.alterWhere('there', table, 'CHANGE COLUMN', 'column', passing.name, becomes, says))
    ]
  }

  /** Each column that does not stand behind the one that it is to stand behind goes there. */
  private order(table: CatalogTable, order: readonly string[]): DraftStatement[] {
    const standing = table.columns.map(({ id }) => id)
    return order.flatMap((id, at): DraftStatement[] => {
      if (standing[at] === id) return []
      standing.splice(standing.indexOf(id), 1)
      standing.splice(at, 0, id)
      const column = byId(table.columns).get(id)
      if (!column) return []
      const before = order[at - 1]
      const place = before === undefined ? 'FIRST' : `AFTER ${quote(nameOfColumn(table, before))}`
      return [
        this.alter(
          table,
          `MODIFY COLUMN ${this.definition(column, table)} ${place}`,
          `put the columns of ${table.name} in order`
        )
      ]
    })
  }

  private addConstraint(
    table: CatalogTable,
    step: Extract<ShapeStep, { kind: 'addConstraint' }>
  ): DraftStatement[] {
    const after = new State({ schemas: [], enums: [], tables: [table] })
    after.take(step)
    const { constraint } = step
    if (constraint.kind === 'trigger') return this.keeps(table, constraint.key)
    const says = sayConstraint(table, constraint, this.tables)
    if (constraint.kind === 'check' && constraint.key.byTrigger)
      return this.addTriggers(table, constraint.key, says)
    return [this.adds(table, constraint, says), ...this.recounted(table, after.table(table.id))]
  }

  /** Triggers look at no row that is there already. */
  private addTriggers(table: CatalogTable, check: CatalogCheck, says: string): DraftStatement[] {
    const condition = conditionOf({ quote }, table, check.condition)
    const breaking = `SELECT 1 FROM ${quote(table.name)} WHERE NOT (${condition})`
    return [this.stopWhere(breaking, says), ...madeByItself(table, check)]
  }

  private keeps(table: CatalogTable, trigger: CatalogTrigger): DraftStatement[] {
    return createTrigger(table, trigger, this.tables, 'IF NOT EXISTS ').map(({ sql, says }) =>
      one(`EXECUTE IMMEDIATE ${quoteText(sql)}`, says)
    )
  }

  private adds(
    table: CatalogTable,
    constraint: Exclude<Constraint, { kind: 'trigger' }>,
    says: string
  ): DraftStatement {
    const { words } = this
    const name = quote(constraint.key.name)
    switch (constraint.kind) {
      case 'primaryKey': {
        const columns = columnsOf(words, table, constraint.key.columns)
        return this.alterWhere('missing', table, 'ADD PRIMARY KEY', 'index', 'PRIMARY', `(${columns})`, says)
      }
      case 'unique': {
        const rest = `${name} (${columnsOf(words, table, constraint.key.columns)})`
        return this.alterWhere('missing', table, 'ADD UNIQUE INDEX', 'index', constraint.key.name, rest, says)
      }
      case 'index': {
        const rest = `${name} (${indexColumns(table, constraint.key, words)})`
        const verb = constraint.key.unique ? 'ADD UNIQUE INDEX' : 'ADD INDEX'
        return this.alterWhere('missing', table, verb, 'index', constraint.key.name, rest, says)
      }
      case 'check': {
        const rest = constraintClause(table, constraint, this.tables, words).replace(/^CONSTRAINT /, '')
        return this.alterWhere(
          'missing',
          table,
          'ADD CONSTRAINT',
          'constraint',
          constraint.key.name,
          rest,
          says
        )
      }
      case 'foreignKey': {
        const clause = constraintClause(table, constraint, this.tables, words)
        const [, ...parts] = clause.split(' FOREIGN KEY ')
        const verb = `ADD CONSTRAINT ${name} FOREIGN KEY`
        const rest = `${name} ${parts.join(' FOREIGN KEY ')}`
        return this.alterWhere('missing', table, verb, 'constraint', constraint.key.name, rest, says)
      }
    }
  }

  private dropConstraint(table: CatalogTable, kind: ConstraintKind, id: string): DraftStatement[] {
    const constraint = this.state.constraint(table.id, kind, id)
    if (constraint.kind === 'trigger') return dropTrigger(table, constraint.key)
    const { key } = constraint
    const { name } = key
    if ('byTrigger' in key) return dropTriggers(table, key)
    const says = `drop ${name} of ${table.name}`
    const after = new State({ schemas: [], enums: [], tables: [table] })
    after.take({ kind: 'dropConstraint', table: table.id, of: kind, id })
    const uncounted = this.recounted(table, after.table(table.id))
    const drops = (verb: string, what: Named['what'], of = name): DraftStatement =>
      this.alterWhere('there', table, verb, what, of, quote(of), says)
    switch (constraint.kind) {
      case 'primaryKey':
        return [...uncounted, drops('DROP INDEX', 'index', 'PRIMARY')]
      case 'unique':
      case 'index':
        return [...uncounted, drops('DROP INDEX', 'index')]
      case 'check':
        return [drops('DROP CONSTRAINT', 'constraint')]
      case 'foreignKey':
        // The engine makes an index for a reference that has none, and calls it as that is called.
        return [drops('DROP FOREIGN KEY', 'constraint'), drops('DROP INDEX', 'index')]
    }
  }

  /** Columns that are counted from now on, or no longer, because a key comes or goes. */
  private recounted(before: CatalogTable, after: CatalogTable): DraftStatement[] {
    return before.columns
      .filter((column) => isCounted(before, column) !== isCounted(after, column))
      .map((column) =>
        this.alter(
          after,
          `MODIFY COLUMN ${this.definition(column, after)}`,
          `${after.name}.${column.name} is counted by its key`
        )
      )
  }

  protected dropColumn(table: CatalogTable, name: string, says: string): DraftStatement {
    return this.alterWhere('there', table, 'DROP COLUMN', 'column', name, quote(name), says)
  }

  /** A clause of ALTER TABLE that is done only where something is there, or is missing. */
  protected alterWhere(
    only: Guarded['only'],
    table: Pick<CatalogTable, 'name'>,
    verb: string,
    what: Named['what'],
    name: string,
    rest: string,
    says: string
  ): DraftStatement {
    const is: Named = { what, table: table.name, name }
    return this.guarded({ verb, only, is, rest, alters: `ALTER TABLE ${quote(table.name)}` }, says)
  }

  protected alter(table: Pick<CatalogTable, 'name'>, sql: string, says: string): DraftStatement {
    return { alters: `ALTER TABLE ${quote(table.name)}`, sql, says }
  }

  /** What is done only where something is there, or is missing, so that it can be done again. */
  protected guarded({ verb, only, rest, alters }: Guarded, says: string): DraftStatement {
    const sql = `${verb} ${only === 'there' ? 'IF EXISTS' : 'IF NOT EXISTS'} ${rest}`
    return alters === undefined ? one(sql, says) : { alters, sql, says }
  }

  /** A clause as a statement of its own. */
  protected alone({ alters, ...said }: DraftStatement): DraftStatement {
    return alters === undefined ? said : { ...said, sql: `${alters} ${said.sql}` }
  }

  protected definition(column: CatalogColumn, table: CatalogTable): string {
    return `${quote(column.name)} ${this.words.column(column, table)}`
  }
}

const numbered: Update['sets'] = [{ column: 'row_no', value: '(@counted := @counted + 1)' }]

const saySets = (sets: Update['sets']): string =>
  sets.map(({ column, value }) => `${quote(column)} = ${value}`).join(', ')

/** A column that is renewed by itself is not where it is said to be what it is (MariaDB, "TIMESTAMP"). */
function leavingAlone({ columns }: CatalogTable, sets: Update['sets'], own = ''): Update['sets'] {
  const renewed = columns.filter(({ renewed: now }) => now !== undefined).map(({ name }) => name)
  const left = renewed.filter((name) => !sets.some(({ column }) => column === name))
  return [...sets, ...left.map((name) => ({ column: name, value: `${own}${quote(name)}` }))]
}

/** Triggers, which are not made among conditions but as statements of their own. */
const madeByItself = (table: CatalogTable, check: CatalogCheck): DraftStatement[] =>
  createTriggers(table, check, 'IF NOT EXISTS ').map(({ sql, says }) =>
    one(`EXECUTE IMMEDIATE ${quoteText(sql)}`, says)
  )

/** What can be there or not, in a table. */
export interface Named {
  what: 'table' | 'column' | 'index' | 'constraint'
  table: string
  name: string
}

/** A statement, or a clause of one, that depends on whether something is there. */
export interface Guarded {
  verb: string
  only: 'there' | 'missing'
  is: Named
  rest: string
  alters?: string
}

export const one = (sql: string, says: string): DraftStatement => ({ sql, says })
