import { indented } from '../indent.ts'
import { byId } from '../../design/by-id.ts'
import type { CatalogColumn, CatalogTable, CatalogType, Statement } from '../catalog.ts'
import type { Line } from '../chain.ts'
import type { MigrationInput } from '../migration.ts'
import type { Speech } from '../speech.ts'
import { State } from '../state.ts'
import { accountOf, restartable, type Course, type Gate, type RestartWords } from '../restart.ts'
import { StepWriter, type RowId, type Said, type Update } from '../step-writer.ts'
import type { Constraint, ConstraintKind, ShapeStep, Step, WayInputs } from '../step.ts'
import type { InPlace } from '../survival.ts'
import { columnsOf, constraintClause, createTable, indexColumns, sayConstraint } from '../write.ts'
import { nameOfColumn } from '../written.ts'
import { quote, quoteText } from './types.ts'
import { isCounted, words } from './write.ts'

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
  if (statements.length === 0) return []
  return [STRICT, ...statements]
}

/** A way that goes on from where it was stopped. */
export function restart(
  ways: WayInputs,
  way: 'up' | 'down',
  speech: Speech,
  gate?: (course: Course) => Gate
): Line[] {
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
  return restartable(ways, way, (input) => new Writer(input, speech), words, [STRICT], gate)
}

export const STRICT: Statement = {
  sql: "SET SESSION sql_mode = 'STRICT_ALL_TABLES,NO_AUTO_VALUE_ON_ZERO,NO_ENGINE_SUBSTITUTION'",
  says: 'refuse what does not fit, and change nothing by itself'
}

/** Says every step so that it can be done again without harm. */
export class Writer extends StepWriter {
  protected shape(step: ShapeStep): Said[] {
    const { state } = this
    switch (step.kind) {
      case 'makeTable':
        return [
          one(
            createTable(step.table, this.tables, words).replace(
              /^CREATE TABLE/,
              'CREATE TABLE IF NOT EXISTS'
            ),
            `make ${step.table.name}`
          )
        ]
      case 'dropTable': {
        const { name } = state.table(step.table)
        return [one(`DROP TABLE IF EXISTS ${quote(name)}`, `drop ${name}`)]
      }
      case 'renameTable': {
        const { name } = state.table(step.table)
        return [
          one(`RENAME TABLE IF EXISTS ${quote(name)} TO ${quote(step.name)}`, `call ${name} ${step.name}`)
        ]
      }
      case 'noteTable': {
        const table = state.table(step.table)
        return [alter(table, `COMMENT = ${quoteText(step.note ?? '')}`, `say what ${table.name} is`)]
      }
      case 'addColumn':
        return this.add(state.table(step.table), step.column, step.after)
      case 'renameColumn': {
        const table = state.table(step.table)
        const { name } = state.column(step.table, step.column)
        const says = `call ${table.name}.${name} ${step.name}`
        return [alter(table, `RENAME COLUMN IF EXISTS ${quote(name)} TO ${quote(step.name)}`, says)]
      }
      case 'changeColumn':
        return this.change(state.table(step.table), state.column(step.table, step.column.id), step.column)
      case 'dropColumn': {
        const table = state.table(step.table)
        const { name } = state.column(step.table, step.column)
        return [alter(table, `DROP COLUMN IF EXISTS ${quote(name)}`, `drop ${name} of ${table.name}`)]
      }
      case 'orderColumns':
        return this.order(state.table(step.table), step.order)
      case 'addConstraint':
        return this.addConstraint(state.table(step.table), step)
      case 'renameConstraint': {
        const table = state.table(step.table)
        const { name } = state.constraint(step.table, step.of, step.id).key
        const says = `call ${name} ${step.name}`
        return [alter(table, `RENAME INDEX IF EXISTS ${quote(name)} TO ${quote(step.name)}`, says)]
      }
      case 'dropConstraint':
        return this.dropConstraint(state.table(step.table), step.of, step.id)
      // There are no schemas, no lists of values as types, and no row policies.
      default:
        return []
    }
  }

  /** A lock is given up at the next statement that changes a table (MariaDB, "LOCK TABLES"). */
  protected lock(): Said[] {
    return []
  }

  /** Also what passes is a table of its own, so that it is still there when the connection was lost. */
  protected createAs(name: string, select: string, says: string): Said[] {
    return [one(`CREATE OR REPLACE TABLE ${quote(name)} ENGINE = InnoDB AS\n  ${select}`, says)]
  }

  /** A message has at most 128 characters (MariaDB, "SIGNAL"). */
  protected stopWhere(rows: string, says: string): Said {
    const message = quoteText([...says].slice(0, 128).join(''))
    const stop = `SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = ${message}`
    return one(`IF EXISTS (${rows}) THEN ${stop}; END IF`, `see that it can be: ${says}`)
  }

  protected createMissing(name: string, columns: string, says: string): Said {
    return one(`CREATE TABLE IF NOT EXISTS ${quote(name)} (${columns}) ENGINE = InnoDB`, says)
  }

  /** A column of its own, with a number in each row. */
  protected rowId(table: CatalogTable): RowId {
    const says = `tell the rows of ${table.name} apart`
    return {
      before: [
        {
          sql: `ALTER TABLE ${quote(table.name)} ADD COLUMN IF NOT EXISTS row_no bigint`,
          says,
          cleanup: `ALTER TABLE ${quote(table.name)} DROP COLUMN IF EXISTS row_no`
        },
        one(
          `UPDATE ${quote(table.name)} JOIN (SELECT @counted := 0) AS nothing SET row_no = (@counted := @counted + 1)`,
          says
        )
      ],
      columns: ['row_no'],
      after: [one(`ALTER TABLE ${quote(table.name)} DROP COLUMN IF EXISTS row_no`, says)]
    }
  }

  protected update({ table, sets, from, on, where, says }: Update): Said[] {
    const values = sets.map(({ column, value }) => `own.${quote(column)} = ${value}`).join(', ')
    const condition = where === undefined ? '' : `\n  WHERE ${where}`
    return [
      one(`UPDATE ${quote(table.name)} AS own\n  JOIN ${from} ON ${on}\n  SET ${values}${condition}`, says)
    ]
  }

  /** A value is turned into what its column holds when it is put there, or refused. */
  protected convert(sql: string, _from: CatalogType, _to: CatalogType): string {
    return sql
  }

  protected override addPlainColumn(table: string, name: string, type: string, says: string): Said {
    return one(`ALTER TABLE ${quote(table)} ADD COLUMN IF NOT EXISTS ${quote(name)} ${type}`, says)
  }

  protected override drop(place: string): string {
    return `DROP TABLE IF EXISTS ${place}`
  }

  private add(table: CatalogTable, column: CatalogColumn, after: string | undefined): Said[] {
    const says = `${column.computed === undefined ? 'add' : 'compute'} ${column.name} of ${table.name}`
    const place = after === undefined ? '' : ` AFTER ${quote(nameOfColumn(table, after))}`
    const grown = { ...table, columns: [...table.columns, column] }
    // A new column that must be filled would be, with a zero or an empty text.
    const isHeld = column.required && column.default === undefined && column.computed === undefined
    const first = isHeld ? { ...column, required: false, generated: false } : column
    const added = alter(table, `ADD COLUMN IF NOT EXISTS ${definition(first, grown)}${place}`, says)
    if (!isHeld) return [added]
    return [
      added,
      one(
        `ALTER TABLE ${quote(table.name)} MODIFY COLUMN ${definition(column, grown)}`,
        `require ${table.name}.${column.name}`
      )
    ]
  }

  private change(table: CatalogTable, old: CatalogColumn, column: CatalogColumn): Said[] {
    const changed = { ...table, columns: table.columns.map((each) => (each === old ? column : each)) }
    if (old.computed === undefined || column.computed !== undefined)
      return [
        alter(table, `MODIFY COLUMN ${definition(column, changed)}`, `change ${table.name}.${column.name}`)
      ]
    // What is computed is nowhere kept: a column in its place takes what it comes to.
    const says = `${table.name}.${column.name} is no longer computed`
    const passing = { ...column, name: `${column.name.slice(0, 55)}_kept` }
    const [name, kept] = [quote(column.name), quote(passing.name)]
    const alters = `ALTER TABLE ${quote(table.name)}`
    return [
      {
        sql: `${alters} ADD COLUMN IF NOT EXISTS ${definition({ ...passing, required: false, generated: false }, table)} AFTER ${name}`,
        says,
        cleanup: `${alters} DROP COLUMN IF EXISTS ${kept}`
      },
      one(`UPDATE ${quote(table.name)} SET ${kept} = ${name}`, says),
      one(`${alters} DROP COLUMN IF EXISTS ${name}`, says),
      one(`${alters} CHANGE COLUMN IF EXISTS ${kept} ${definition(column, changed)}`, says)
    ]
  }

  /** Each column that does not stand behind the one that it is to stand behind goes there. */
  private order(table: CatalogTable, order: readonly string[]): Said[] {
    const standing = table.columns.map(({ id }) => id)
    return order.flatMap((id, at): Said[] => {
      if (standing[at] === id) return []
      standing.splice(standing.indexOf(id), 1)
      standing.splice(at, 0, id)
      const column = byId(table.columns).get(id)
      if (!column) return []
      const before = order[at - 1]
      const place = before === undefined ? 'FIRST' : `AFTER ${quote(nameOfColumn(table, before))}`
      return [
        alter(
          table,
          `MODIFY COLUMN ${definition(column, table)} ${place}`,
          `put the columns of ${table.name} in order`
        )
      ]
    })
  }

  private addConstraint(table: CatalogTable, step: Extract<ShapeStep, { kind: 'addConstraint' }>): Said[] {
    const after = new State({ schemas: [], enums: [], tables: [table] })
    after.take(step)
    const { constraint } = step
    return [
      alter(table, `ADD ${this.clause(table, constraint)}`, sayConstraint(table, constraint, this.tables)),
      ...recounted(table, after.table(table.id))
    ]
  }

  private clause(table: CatalogTable, constraint: Constraint): string {
    if (constraint.kind === 'primaryKey')
      return `PRIMARY KEY IF NOT EXISTS (${columnsOf(words, table, constraint.key.columns)})`
    if (constraint.kind === 'unique') {
      const { name, columns } = constraint.key
      return `UNIQUE INDEX IF NOT EXISTS ${quote(name)} (${columnsOf(words, table, columns)})`
    }
    if (constraint.kind === 'index') {
      const { name, unique } = constraint.key
      const columns = indexColumns(table, constraint.key, words)
      return `${unique ? 'UNIQUE ' : ''}INDEX IF NOT EXISTS ${quote(name)} (${columns})`
    }
    const clause = constraintClause(table, constraint, this.tables, words)
    return constraint.kind === 'check'
      ? clause.replace(/^CONSTRAINT/, 'CONSTRAINT IF NOT EXISTS')
      : clause.replace(' FOREIGN KEY (', ` FOREIGN KEY IF NOT EXISTS ${quote(constraint.key.name)} (`)
  }

  private dropConstraint(table: CatalogTable, kind: ConstraintKind, id: string): Said[] {
    const { name } = this.state.constraint(table.id, kind, id).key
    const says = `drop ${name} of ${table.name}`
    const after = new State({ schemas: [], enums: [], tables: [table] })
    after.take({ kind: 'dropConstraint', table: table.id, of: kind, id })
    const uncounted = recounted(table, after.table(table.id))
    switch (kind) {
      case 'primaryKey':
        return [...uncounted, alter(table, 'DROP INDEX IF EXISTS `PRIMARY`', says)]
      case 'unique':
      case 'index':
        return [...uncounted, alter(table, `DROP INDEX IF EXISTS ${quote(name)}`, says)]
      case 'check':
        return [alter(table, `DROP CONSTRAINT IF EXISTS ${quote(name)}`, says)]
      case 'foreignKey':
        // The engine makes an index for a reference that has none, and calls it as that is called.
        return [
          alter(table, `DROP FOREIGN KEY IF EXISTS ${quote(name)}`, says),
          alter(table, `DROP INDEX IF EXISTS ${quote(name)}`, says)
        ]
    }
  }
}

const one = (sql: string, says: string): Said => ({ sql, says })

const alter = (table: CatalogTable, sql: string, says: string): Said => ({
  alters: `ALTER TABLE ${quote(table.name)}`,
  sql,
  says
})

const definition = (column: CatalogColumn, table: CatalogTable): string =>
  `${quote(column.name)} ${words.column(column, table)}`

/** Columns that are counted from now on, or no longer, because a key comes or goes. */
function recounted(before: CatalogTable, after: CatalogTable): Said[] {
  return before.columns
    .filter((column) => isCounted(before, column) !== isCounted(after, column))
    .map((column) =>
      alter(
        after,
        `MODIFY COLUMN ${definition(column, after)}`,
        `${after.name}.${column.name} is counted by its key`
      )
    )
}
