import { indented } from '../indent.ts'
import type { CatalogColumn, CatalogTable, Statement } from '../catalog.ts'
import type { ScriptLine } from '../chain.ts'
import { inPlace as mariadbInPlace, one, restart as restartMariadb, STRICT } from '../mariadb/migrate.ts'
import { Writer as MariadbWriter, type Guarded, type Named } from '../mariadb/migrate.ts'
import { quote, quoteText } from '../mariadb/types.ts'
import type { MigrationInput } from '../migration.ts'
import type { Gate } from '../restart.ts'
import type { DraftStatement } from '../row-writer.ts'
import type { Speech } from '../speech.ts'
import type { Step, WayInputs } from '../step.ts'
import type { InPlace } from '../survival.ts'
import type { Words } from '../sql-words.ts'
import type { WayProgress } from '../distance.ts'

/** Whether a column is worked out, and when: nothing turns one way into another but by a column in its place. */
const isWorkedOutAlike = (one: CatalogColumn, other: CatalogColumn): boolean =>
  (one.computed === undefined) === (other.computed === undefined) && one.stored === other.stored

/** As in MariaDB (MySQL 8.4 Reference Manual, 15.1.9), but that a column is not made one that is computed. */
export const inPlace: InPlace = {
  ...mariadbInPlace,
  stands: (what, from, to) => isWorkedOutAlike(from, to) && mariadbInPlace.stands(what, from, to)
}

/**
 * What is done once as a whole: MySQL takes conditions in stored programs alone (MySQL 8.4 Reference Manual,
 * 15.6), so all of it stands in a procedure that is made, run and dropped.
 */
export function migrate(
  input: MigrationInput,
  steps: readonly Step[],
  speech: Speech,
  words: Words
): Statement[] {
  const statements = new Writer(input, speech, words).write(steps)
  return statements.length === 0 ? [] : [STRICT, ...asProcedure(statements)]
}

/** A way that goes on from where it was stopped. */
export function restart(
  ways: WayInputs,
  way: 'up' | 'down',
  speech: Speech,
  words: Words,
  gate?: (course: WayProgress) => Gate
): ScriptLine[] {
  const writer = (input: MigrationInput): Writer => new Writer(input, speech, words)
  const [strict, ...lines] = restartMariadb(ways, way, speech, gate, writer)
  // A procedure runs in the mode in which it was made (MySQL 8.4 Reference Manual, 15.1.17).
  return [...(strict ? [strict] : []), ...asProcedure(lines)]
}

const PROCEDURE = 'patient_key_way'

/** Statements as one procedure, which is run and dropped; what each is for stands before it. */
export function asProcedure(lines: readonly ScriptLine[]): ScriptLine[] {
  const body = lines.map(({ sql, says }) => {
    const said = says.replaceAll(/[\r\n]/g, ' ')
    return `  -- ${said}\n  ${indented(sql)};\n`
  })
  return [
    { sql: `DROP PROCEDURE IF EXISTS ${PROCEDURE}`, says: 'what was stopped may have left it' },
    { sql: `CREATE PROCEDURE ${PROCEDURE}()\nBEGIN\n${body.join('')}END`, says: 'all that is to be done' },
    { sql: `CALL ${PROCEDURE}()`, says: 'do it' },
    { sql: `DROP PROCEDURE ${PROCEDURE}`, says: 'it is needed no more' }
  ]
}

/** Where something of a name would be, in the information schema. */
const PLACES: Record<Named['what'], [view: string, column: string]> = {
  table: ['tables', 'table_name'],
  column: ['columns', 'column_name'],
  index: ['statistics', 'index_name'],
  constraint: ['table_constraints', 'constraint_name']
}

/** Says what MariaDB says, and looks by itself whether it is done already, where MySQL has no words for that. */
class Writer extends MariadbWriter {
  protected override guarded({ verb, only, is, rest, alters }: Guarded, says: string): DraftStatement {
    const [view, column] = PLACES[is.what]
    const there = `EXISTS (SELECT 1 FROM information_schema.${view} WHERE table_schema = database() AND table_name = ${quoteText(is.table)} AND ${column} = ${quoteText(is.name)})`
    const condition = only === 'there' ? there : `NOT ${there}`
    const sql = `${alters === undefined ? '' : `${alters} `}${verb} ${rest}`
    return one(`IF ${condition} THEN\n  ${indented(sql)};\nEND IF`, says)
  }

  protected override createAs(name: string, select: string, says: string): DraftStatement[] {
    return [
      one(`DROP TABLE IF EXISTS ${quote(name)}`, says),
      one(`CREATE TABLE ${quote(name)} ENGINE = InnoDB AS\n  ${select}`, says)
    ]
  }

  protected override change(
    table: CatalogTable,
    old: CatalogColumn,
    column: CatalogColumn
  ): DraftStatement[] {
    const isMadeComputed = column.computed !== undefined && !isWorkedOutAlike(old, column)
    if (!isMadeComputed) return super.change(table, old, column)
    const says = `${table.name}.${column.name} is computed`
    const at = table.columns.findIndex(({ id }) => id === old.id)
    const before = table.columns[at - 1]
    const place = before === undefined ? 'FIRST' : `AFTER ${quote(before.name)}`
    const changed = { ...table, columns: table.columns.map((each) => (each === old ? column : each)) }
    const rest = `${this.definition(column, changed)} ${place}`
    return [
      this.dropColumn(table, old.name, says),
      this.alterWhere('missing', table, 'ADD COLUMN', 'column', column.name, rest, says)
    ]
  }
}
