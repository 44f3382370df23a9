import { indented } from '../indent.ts'
import type { CatalogColumn, CatalogTable, CatalogType } from '../catalog.ts'
import { NOTHING_AROUND, type ScriptLine } from '../chain.ts'
import type { MigrationInput } from '../migration.ts'
import { nameParts, qualify, sayTable, schemaOf } from '../qualified.ts'
import type { Speech } from '../speech.ts'
import { StepWriter, type RowId, type DraftStatement, type Update } from '../step-writer.ts'
import type { ConstraintKind, ShapeStep, Step } from '../step.ts'
import type { InPlace } from '../survival.ts'
import { constraintClause, createIndex, createTable, sayConstraint } from '../write.ts'
import { createTrigger, dropTrigger } from './trigger.ts'
import { quote, quoteText } from './types.ts'
import { createSchema, describe, notes, OWN_SCHEMA, words } from './write.ts'
import { tableIn } from '../sql-words.ts'

/**
 * What SQL Server changes in place (Transact-SQL, "ALTER TABLE", "sp_rename"): nothing may lean on a column
 * that changes, no expression on one that is called otherwise, and what is counted is so from its beginning.
 */
export const inPlace: InPlace = {
  renames: ['primaryKey', 'unique', 'foreignKey', 'check', 'index'],
  renamesSchemas: false,
  namesAreOwn: false,
  ordersColumns: false,
  notesInside: false,
  stands: (what, from, to) => {
    const isSame = from.type.sql === to.type.sql && from.required === to.required
    const isSaid = what === 'check' || what === 'computed' || what === 'index'
    return isSame && from.computed === to.computed && (!isSaid || from.name === to.name)
  },
  indexesReferences: false,
  referencesFollow: true,
  keysLater: false,
  remakes: (from, to) =>
    from.columns.some((column) => to.columns.some((each) => isCountedAnew(column, each))),
  addsToList: () => false
}

const isCountedAnew = (one: CatalogColumn, other: CatalogColumn): boolean =>
  one.id === other.id && one.generated !== other.generated

/**
 * One transaction, over batches: whatever fails takes all of it back, and what stands behind is then passed
 * over, though the client may go on.
 */
export function migrate(
  input: MigrationInput,
  steps: readonly Step[],
  speech: Speech,
  around = NOTHING_AROUND
): ScriptLine[] {
  const lines = [...around.first, ...new Writer(input, speech).write(steps), ...around.last]
  if (lines.length === 0) return []
  return [
    {
      sql: 'SET XACT_ABORT, ANSI_NULLS, ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL, QUOTED_IDENTIFIER ON',
      says: 'what fails takes back everything'
    },
    { sql: 'BEGIN TRANSACTION', says: 'all of it, or nothing' },
    ...lines.map(({ sql, says }) => ({ sql: `${ONLY_WITHIN}${sql}`, says })),
    { sql: 'IF @@TRANCOUNT > 0 COMMIT TRANSACTION', says: 'keep it' },
    { sql: 'SET NOEXEC OFF', says: 'what comes after is carried out again' }
  ]
}

/** Without its transaction a batch is read and not carried out. */
const ONLY_WITHIN = 'IF @@TRANCOUNT = 0 SET NOEXEC ON;\n'

class Writer extends StepWriter {
  protected shape(step: ShapeStep): DraftStatement[] {
    const { state } = this
    switch (step.kind) {
      case 'makeSchema':
        return [createSchema(step.schema.name)]
      case 'dropSchema':
        return [dropSchema(step.name)]
      case 'makeTable':
        return [one(createTable(step.table, this.tables, words), `make ${sayTable(step.table.name)}`)]
      case 'renameTable': {
        const { name } = state.table(step.table)
        return [
          rename(
            place(name),
            nameParts(step.name).at(-1) ?? '',
            undefined,
            `call ${sayTable(name)} ${sayTable(step.name)}`
          )
        ]
      }
      case 'moveTable': {
        const { name } = state.table(step.table)
        const schema = schemaOf(step.name) ?? OWN_SCHEMA
        return [
          one(
            `ALTER SCHEMA ${quote(schema)} TRANSFER ${place(name)}`,
            `move ${sayTable(name)} to the schema ${schema}`
          )
        ]
      }
      case 'noteTable': {
        const table = state.table(step.table)
        return describe(table, table.note, step.note)
      }
      case 'dropTable': {
        const { name } = state.table(step.table)
        return [one(`DROP TABLE ${place(name)}`, `drop ${sayTable(name)}`)]
      }
      case 'addColumn': {
        const { column } = step
        const table = state.table(step.table)
        const grown = { ...table, columns: [...table.columns, column] }
        // Rows that are there get a default only where it is said, or they could not be without.
        const all = column.default !== undefined && !column.required ? ' WITH VALUES' : ''
        return [
          alter(
            table,
            `ADD ${quote(column.name)} ${words.column(column, grown)}${all}`,
            `add ${column.name} to ${sayTable(table.name)}`
          )
        ]
      }
      case 'renameColumn': {
        const table = state.table(step.table)
        const { name } = state.column(step.table, step.column)
        return [
          rename(
            `${place(table.name)}.${quote(name)}`,
            step.name,
            'COLUMN',
            `call ${sayTable(table.name)}.${name} ${step.name}`
          )
        ]
      }
      case 'changeColumn':
        return this.change(state.table(step.table), state.column(step.table, step.column.id), step.column)
      case 'dropColumn': {
        const table = state.table(step.table)
        const column = state.column(step.table, step.column)
        const drop = alter(
          table,
          `DROP COLUMN ${quote(column.name)}`,
          `drop ${column.name} of ${sayTable(table.name)}`
        )
        return column.default === undefined ? [drop] : [dropDefault(table, column), drop]
      }
      case 'addConstraint': {
        const table = state.table(step.table)
        const { constraint } = step
        if (constraint.kind === 'trigger') return createTrigger(table, constraint.key, this.tables)
        if (constraint.kind === 'index') return [createIndex(table, constraint.key, words)]
        const clause = constraintClause(table, constraint, this.tables, words)
        return [alter(table, `ADD ${clause}`, sayConstraint(table, constraint, this.tables))]
      }
      case 'renameConstraint': {
        const table = state.table(step.table)
        const { name } = state.constraint(step.table, step.of, step.id).key
        const says = `call ${name} ${step.name}`
        return [
          step.of === 'index'
            ? rename(`${place(table.name)}.${quote(name)}`, step.name, 'INDEX', says)
            : rename(place(qualify(schemaOf(table.name), name)), step.name, 'OBJECT', says)
        ]
      }
      case 'dropConstraint':
        return this.dropConstraint(state.table(step.table), step.of, step.id)
      // There are no lists of values as types, no row policies, and columns come last.
      default:
        return []
    }
  }

  protected lock(tables: readonly CatalogTable[]): DraftStatement[] {
    return tables.map(({ name }) =>
      one(
        `SELECT TOP (1) 1 AS locked FROM ${place(name)} WITH (TABLOCKX, HOLDLOCK)`,
        'nobody writes what is being read'
      )
    )
  }

  protected createAs(name: string, select: string, says: string): DraftStatement[] {
    const rows = indented(select)
    return [one(`SELECT * INTO ${quote(name)}\nFROM (${rows}) AS kept`, says)]
  }

  protected stopWhere(rows: string, says: string): DraftStatement {
    const stop = `THROW 50000, ${quoteText(says)}, 1`
    return one(`IF EXISTS (${rows}) BEGIN; ${stop}; END`, `see that it can be: ${says}`)
  }

  protected createMissing(name: string, columns: string, says: string): DraftStatement {
    return one(
      `IF object_id(${quoteText(quote(name))}) IS NULL CREATE TABLE ${quote(name)} (${columns})`,
      says
    )
  }

  /** A column of its own, with a number in each row. */
  protected rowId(table: CatalogTable): RowId {
    const says = `tell the rows of ${sayTable(table.name)} apart`
    const numbered = `SELECT row_no, row_number() OVER (ORDER BY (SELECT NULL)) AS n FROM ${place(table.name)}`
    return {
      before: [
        one(`ALTER TABLE ${place(table.name)} ADD row_no bigint NULL`, says),
        one(`WITH numbered AS (${numbered})\nUPDATE numbered SET row_no = n`, says)
      ],
      columns: ['row_no'],
      after: [one(`ALTER TABLE ${place(table.name)} DROP COLUMN row_no`, says)]
    }
  }

  protected override remove(table: CatalogTable, where: string, says: string): DraftStatement[] {
    return [{ sql: `DELETE own FROM ${this.place(table.name)} own\n  WHERE ${where}`, says }]
  }

  protected update({ table, sets, from, on, where, says }: Update): DraftStatement[] {
    const values = sets.map(({ column, value }) => `${quote(column)} = ${value}`).join(', ')
    const condition = where === undefined ? '' : `\nWHERE ${where}`
    return [
      one(
        `UPDATE own SET ${values}\nFROM ${place(table.name)} AS own\nJOIN ${from} ON ${on}${condition}`,
        says
      )
    ]
  }

  protected override insert(
    table: CatalogTable,
    given: { name: string; value: string }[],
    rows: string,
    says: string
  ): DraftStatement[] {
    const isCounted = given.some(({ name }) =>
      table.columns.some((each) => each.generated && each.name === name)
    )
    return super
      .insert(table, given, rows, says)
      .map((said) => (isCounted ? { ...said, sql: withNumbers(table, said.sql) } : said))
  }

  /** A cast to a shorter text would cut it without a word; what is put in a column is refused. */
  protected convert(sql: string, from: CatalogType, to: CatalogType): string {
    if (isText(to) && isText(from)) return sql
    // 126: as ISO 8601 writes dates and times (Transact-SQL, "CAST and CONVERT").
    if (isText(to)) return `CONVERT(nvarchar(max), ${sql}, 126)`
    return `CAST(${isZoned(from) && !isZoned(to) ? inUtc(sql) : sql} AS ${to.sql})`
  }

  private change(table: CatalogTable, old: CatalogColumn, column: CatalogColumn): DraftStatement[] {
    const at = `${sayTable(table.name)}.${column.name}`
    const changed = { ...table, columns: table.columns.map((each) => (each === old ? column : each)) }
    if (old.generated !== column.generated) return this.remake(table, changed)
    const described = describe(table, old.note, column.note, column.name)
    if (old.computed !== undefined && column.computed === undefined)
      return [...this.uncompute(table, column), ...described]
    const retyped = old.type.sql !== column.type.sql
    const begins = old.default !== column.default
    const bare = `${quote(column.name)} ${column.type.sql} ${column.required ? 'NOT NULL' : 'NULL'}`
    return [
      ...(old.default !== undefined && (retyped || begins) ? [dropDefault(table, old)] : []),
      // A moment without its zone would be what the clock said there.
      ...(isZoned(old.type) && !isZoned(column.type)
        ? [
            one(
              `UPDATE ${place(table.name)} SET ${quote(column.name)} = ${inUtc(quote(column.name))}`,
              `${at} in UTC`
            )
          ]
        : []),
      ...(retyped || old.required !== column.required
        ? [alter(table, `ALTER COLUMN ${bare}`, `change ${at}`)]
        : []),
      ...(column.default !== undefined && (retyped || begins)
        ? [alter(table, `ADD DEFAULT ${column.default} FOR ${quote(column.name)}`, `default of ${at}`)]
        : []),
      ...described
    ]
  }

  /** A column in its place takes what it comes to. */
  private uncompute(table: CatalogTable, column: CatalogColumn): DraftStatement[] {
    const says = `${sayTable(table.name)}.${column.name} is no longer computed`
    const passing = `${column.name.slice(0, 100)}_kept`
    const required = { ...column, note: undefined }
    return [
      alter(table, `ADD ${quote(passing)} ${column.type.sql} NULL`, says),
      one(`UPDATE ${place(table.name)} SET ${quote(passing)} = ${quote(column.name)}`, says),
      one(`ALTER TABLE ${place(table.name)} DROP COLUMN ${quote(column.name)}`, says),
      rename(`${place(table.name)}.${quote(passing)}`, column.name, 'COLUMN', says),
      ...this.change(
        table,
        { ...required, computed: undefined, required: false, default: undefined },
        required
      )
    ]
  }

  /** What is counted is so from the beginning: the table is made anew. Nothing hangs on it by then. */
  private remake(table: CatalogTable, changed: CatalogTable): DraftStatement[] {
    const says = `make ${sayTable(table.name)} anew, with other columns counted`
    const [bare = ''] = nameParts(table.name).reverse()
    const fresh = { ...changed, name: qualify(schemaOf(table.name), `new_${bare.slice(0, 120)}`) }
    const made = { ...fresh, primaryKey: undefined, uniques: [], checks: [], foreignKeys: [], indexes: [] }
    const names = changed.columns
      .filter((each) => each.computed === undefined)
      .map((each) => quote(each.name))
      .join(', ')
    const copy = `INSERT INTO ${place(fresh.name)} (${names})\nSELECT ${names} FROM ${place(table.name)}`
    const isCounted = changed.columns.some((each) => each.generated)
    return [
      one(createTable(made, this.tables, words), says),
      one(isCounted ? withNumbers(fresh, copy) : copy, says),
      one(`DROP TABLE ${place(table.name)}`, says),
      rename(place(fresh.name), bare, undefined, says),
      ...notes(changed)
    ]
  }

  private dropConstraint(table: CatalogTable, kind: ConstraintKind, id: string): DraftStatement[] {
    const constraint = this.state.constraint(table.id, kind, id)
    if (constraint.kind === 'trigger') return dropTrigger(table, constraint.key)
    const { name } = constraint.key
    const says = `drop ${name} of ${sayTable(table.name)}`
    return [
      kind === 'index'
        ? one(`DROP INDEX ${quote(name)} ON ${place(table.name)}`, says)
        : alter(table, `DROP CONSTRAINT ${quote(name)}`, says)
    ]
  }
}

const one = (sql: string, says: string): DraftStatement => ({ sql, says })

const place = (name: string): string => tableIn(words, name)

const alter = (table: CatalogTable, sql: string, says: string): DraftStatement =>
  one(`ALTER TABLE ${place(table.name)} ${sql}`, says)

const isZoned = ({ sql }: CatalogType): boolean => sql === 'datetimeoffset'

/** The same moment, as a clock in UTC says it (Transact-SQL, "SWITCHOFFSET"). */
const inUtc = (sql: string): string => `SWITCHOFFSET(${sql}, '+00:00')`

const isText = ({ sql }: CatalogType): boolean => /^n(var)?char/.test(sql)

/** The place is read as it is written in SQL, the new name is taken as it is. */
function rename(
  what: string,
  to: string,
  kind: 'COLUMN' | 'INDEX' | 'OBJECT' | undefined,
  says: string
): DraftStatement {
  const of = kind === undefined ? '' : `, N'${kind}'`
  return one(`EXEC sp_rename ${quoteText(what)}, ${quoteText(to)}${of}`, says)
}

/** Rows that bring numbers for what is counted. */
const withNumbers = (table: CatalogTable, sql: string): string =>
  `SET IDENTITY_INSERT ${place(table.name)} ON;\n${sql};\nSET IDENTITY_INSERT ${place(table.name)} OFF`

/** A default is a constraint, with a name that the engine has made up. */
function dropDefault(table: CatalogTable, column: CatalogColumn): DraftStatement {
  const where = `object_id(${quoteText(place(table.name))})`
  return one(
    `DECLARE @drop nvarchar(max) = (\n  SELECT ${quoteText(`ALTER TABLE ${place(table.name)} DROP CONSTRAINT `)} + quotename(d.name)\n  FROM sys.default_constraints AS d\n  WHERE d.parent_object_id = ${where} AND col_name(d.parent_object_id, d.parent_column_id) = ${quoteText(column.name)}\n);\nEXEC(@drop)`,
    `drop the default of ${sayTable(table.name)}.${column.name}`
  )
}

/** Others may have put something there. */
function dropSchema(name: string): DraftStatement {
  const isUsed = `SELECT 1 FROM sys.objects WHERE schema_id = schema_id(${quoteText(name)})`
  return one(
    `IF NOT EXISTS (${isUsed}) EXEC(${quoteText(`DROP SCHEMA ${quote(name)}`)})`,
    `drop the schema ${name} where nothing is in it`
  )
}
