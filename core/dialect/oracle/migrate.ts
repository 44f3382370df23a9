import { indented } from '../indent.ts'
import type { CatalogColumn, CatalogTable, CatalogType, Statement } from '../catalog.ts'
import type { ScriptLine } from '../chain.ts'
import type { MigrationInput } from '../migration.ts'
import { nameParts, qualify, sayTable, schemaOf } from '../qualified.ts'
import { quoteText } from '../quote.ts'
import type { Speech } from '../speech.ts'
import { accountOf, restartable, type Gate, type RestartWords } from '../restart.ts'
import { StepWriter, type RowId, type DraftStatement, type Update } from '../step-writer.ts'
import type { Constraint, ConstraintKind, ShapeStep, Step, WayInputs } from '../step.ts'
import type { InPlace } from '../survival.ts'
import { isWider } from './wider.ts'
import { commentsOn, constraintClause, createIndex, createTable, sayConstraint } from '../write.ts'
import { createTrigger, dropTrigger } from './trigger.ts'
import { quote } from './types.ts'
import { words } from './write.ts'
import { tableIn } from '../sql-words.ts'
import type { WayProgress } from '../distance.ts'

/**
 * What Oracle changes in place (Oracle, "ALTER TABLE"): names of everything; a type only to one that holds
 * more of the same; what is counted is so from its beginning, and a table stays with its user.
 */
export const inPlace: InPlace = {
  renames: ['primaryKey', 'unique', 'foreignKey', 'check', 'index'],
  renamesSchemas: false,
  namesAreOwn: false,
  ordersColumns: false,
  notesInside: false,
  stands: (what, from, to) => {
    if (from.type.sql !== to.type.sql && !isWider(from.type, to.type)) return false
    if (what === 'computed') return from.type.sql === to.type.sql && from.name === to.name
    return from.computed === undefined || to.computed !== undefined
  },
  indexesReferences: false,
  referencesFollow: true,
  keysLater: false,
  remakes: (from, to) =>
    schemaOf(from.name) !== schemaOf(to.name) ||
    from.columns.some((column) =>
      to.columns.some((each) => each.id === column.id && !column.generated && each.generated)
    ),
  addsToList: () => false
}

/** Each statement that changes a table is kept at once, so nothing can be taken back as a whole. */
export function migrate(input: MigrationInput, steps: readonly Step[], speech: Speech): Statement[] {
  const statements = new Writer(input, speech).write(steps)
  if (statements.length === 0) return []
  return [SESSION, ...statements, { sql: 'COMMIT', says: 'keep the rows as they are' }]
}

/** How moments and numbers become texts, and the other way round, goes by the session (Oracle, "ALTER SESSION"). */
const SESSION: Statement = {
  sql: [
    "ALTER SESSION SET TIME_ZONE = '+00:00'",
    "NLS_NUMERIC_CHARACTERS = '.,'",
    "NLS_DATE_FORMAT = 'YYYY-MM-DD'",
    "NLS_TIMESTAMP_FORMAT = 'YYYY-MM-DD HH24:MI:SS.FF'",
    "NLS_TIMESTAMP_TZ_FORMAT = 'YYYY-MM-DD HH24:MI:SS.FFTZH:TZM'"
  ].join('\n  '),
  says: 'moments and numbers are read and written alike, whoever runs this'
}

/** What a statement that was done already, or has nothing to do, is refused with (Oracle, "Error Messages"). */
const DONE_ALREADY = [
  [955, 'the name is taken'],
  [942, 'there is no such table'],
  [1430, 'the column is there'],
  [904, 'there is no such column'],
  [957, 'the column is called so'],
  [2260, 'there is a primary key'],
  [2261, 'there is such a unique key'],
  [2264, 'a constraint is called so'],
  [2275, 'there is such a reference'],
  [1408, 'the columns have an index'],
  [1418, 'there is no such index'],
  [2443, 'there is no such constraint'],
  [23292, 'there is no constraint of that name'],
  [1442, 'the column is required'],
  [1451, 'the column may be empty'],
  [30673, 'the column is not counted'],
  [4080, 'there is no such trigger']
] as const

/** A way that goes on from where it was stopped. */
export function restart(
  ways: WayInputs,
  way: 'up' | 'down',
  speech: Speech,
  gate?: (course: WayProgress) => Gate
): ScriptLine[] {
  const account = quote(accountOf(ways))
  const codes = DONE_ALREADY.map(([code]) => `-${code}`).join(', ')
  const words: RestartWords = {
    account: block(
      [
        `EXECUTE IMMEDIATE ${quoteText(`CREATE TABLE ${account} (way varchar2(6) PRIMARY KEY, done number NOT NULL, tried number NOT NULL)`)}`
      ],
      '-955'
    ),
    when: ({ way: which, atLeast, below }, statements, then) => {
      const of = `WHERE way = ${quoteText(which)}`
      const isBack = then < atLeast
      const run = statements.flatMap((sql) => [
        'BEGIN',
        `  ${isPlain(sql) ? `EXECUTE IMMEDIATE ${quoteText(sql)}` : indented(sql).replace(/;$/, '')};`,
        // Only what was tried before, and taking back, may find that there is nothing to do.
        `EXCEPTION WHEN OTHERS THEN IF ${isBack ? '' : `tried <> ${then} OR `}SQLCODE NOT IN (${codes}) THEN RAISE; END IF;`,
        'END;'
      ])
      const lines = [
        `UPDATE ${account} SET tried = ${then} ${of};`,
        'COMMIT;',
        ...run,
        `UPDATE ${account} SET done = ${then} ${of};`,
        'COMMIT;'
      ]
      return [
        'DECLARE come number; tried number;',
        'BEGIN',
        `  SELECT max(a.done), max(a.tried) INTO come, tried FROM ${account} a ${of};`,
        `  IF come BETWEEN ${atLeast} AND ${below - 1} THEN`,
        ...lines.map((line) => `    ${indented(line, 4)}`),
        '  END IF;',
        'END;'
      ].join('\n')
    },
    done: (which) => `(SELECT max(a.done) FROM ${account} a WHERE way = ${quoteText(which)})`,
    begin: (which, other, all, only) =>
      `INSERT INTO ${account} SELECT ${quoteText(which)}, 0, 0 FROM dual\n  WHERE NOT EXISTS (SELECT 1 FROM ${account} WHERE way = ${quoteText(which)} OR (way = ${quoteText(other)} AND done < ${all}))${only === undefined ? '' : `\n  AND ${only}`}`,
    settle: (from, to, done) => [
      `INSERT INTO ${account} SELECT ${quoteText(to)}, ${done}, ${done} FROM ${account} a WHERE way = ${quoteText(from)} AND done < 0 AND NOT EXISTS (SELECT 1 FROM ${account} WHERE way = ${quoteText(to)})`,
      `DELETE FROM ${account} WHERE way = ${quoteText(from)} AND done < 0`,
      'COMMIT'
    ],
    end: (other, all) => `DELETE FROM ${account} WHERE way = ${quoteText(other)} AND done >= ${all}`
  }
  return restartable(ways, way, (input) => new Writer(input, speech), words, [SESSION], gate)
}

/** Whether it is a statement of SQL, and not a block. */
const isPlain = (sql: string): boolean => !/^(BEGIN|DECLARE)\b/.test(sql)

const block = (lines: readonly string[], passed: string): string =>
  `BEGIN\n${lines.map((line) => `  ${line};\n`).join('')}EXCEPTION WHEN OTHERS THEN IF SQLCODE <> ${passed} THEN RAISE; END IF;\nEND;`

class Writer extends StepWriter {
  protected shape(step: ShapeStep): DraftStatement[] {
    const { state } = this
    switch (step.kind) {
      case 'makeTable':
        return [one(createTable(step.table, this.tables, words), `make ${sayTable(step.table.name)}`)]
      case 'renameTable': {
        const { name } = state.table(step.table)
        const to = nameParts(step.name).at(-1) ?? ''
        return [one(`ALTER TABLE ${place(name)} RENAME TO ${quote(to)}`, `call ${sayTable(name)} ${to}`)]
      }
      case 'moveTable': {
        const table = state.table(step.table)
        return this.remake(table, { ...table, name: step.name })
      }
      case 'noteTable': {
        const { name } = state.table(step.table)
        return [
          one(
            `COMMENT ON TABLE ${place(name)} IS ${quoteText(step.note ?? '')}`,
            `say what ${sayTable(name)} is`
          )
        ]
      }
      case 'dropTable': {
        const { name } = state.table(step.table)
        return [one(`DROP TABLE ${place(name)}`, `drop ${sayTable(name)}`)]
      }
      case 'addColumn': {
        const table = state.table(step.table)
        const { column } = step
        const grown = { ...table, columns: [...table.columns, column] }
        return [
          alter(
            table,
            `ADD (${quote(column.name)} ${words.column(column, grown)})`,
            `add ${column.name} to ${sayTable(table.name)}`
          )
        ]
      }
      case 'renameColumn': {
        const table = state.table(step.table)
        const { name } = state.column(step.table, step.column)
        return [
          alter(
            table,
            `RENAME COLUMN ${quote(name)} TO ${quote(step.name)}`,
            `call ${sayTable(table.name)}.${name} ${step.name}`
          )
        ]
      }
      case 'changeColumn':
        return this.change(state.table(step.table), state.column(step.table, step.column.id), step.column)
      case 'dropColumn': {
        const table = state.table(step.table)
        const { name } = state.column(step.table, step.column)
        return [alter(table, `DROP COLUMN ${quote(name)}`, `drop ${name} of ${sayTable(table.name)}`)]
      }
      case 'addConstraint':
        return this.constrain(state.table(step.table), step.constraint)
      case 'renameConstraint': {
        const table = state.table(step.table)
        const { name } = state.constraint(step.table, step.of, step.id).key
        const says = `call ${name} ${step.name}`
        return [
          step.of === 'index'
            ? one(`ALTER INDEX ${beside(table, name)} RENAME TO ${quote(step.name)}`, says)
            : alter(table, `RENAME CONSTRAINT ${quote(name)} TO ${quote(step.name)}`, says)
        ]
      }
      case 'dropConstraint':
        return this.dropConstraint(state.table(step.table), step.of, step.id)
      // A schema is a user, and is there already; there are no lists of values as types and no row policies.
      default:
        return []
    }
  }

  /** A lock is given up at the next statement that changes a table (Oracle, "LOCK TABLE"). */
  protected lock(): DraftStatement[] {
    return []
  }

  protected createAs(name: string, select: string, says: string): DraftStatement[] {
    // What a way that was past had not cleared away yet makes room.
    const clears = block([`EXECUTE IMMEDIATE ${quoteText(`DROP TABLE ${quote(name)}`)}`], '-942')
    return [one(clears, says), one(`CREATE TABLE ${quote(name)} AS\n  ${select}`, says)]
  }

  protected stopWhere(rows: string, says: string): DraftStatement {
    const lines = [
      'DECLARE found number;',
      'BEGIN',
      `  SELECT count(*) INTO found FROM (${rows}) WHERE ROWNUM = 1;`,
      `  IF found > 0 THEN RAISE_APPLICATION_ERROR(-20001, ${quoteText(says)}); END IF;`,
      'END;'
    ]
    return one(lines.join('\n'), `see that it can be: ${says}`)
  }

  /** 955: there is one already (Oracle, "Database Error Messages"). */
  protected createMissing(name: string, columns: string, says: string): DraftStatement {
    const create = quoteText(`CREATE TABLE ${quote(name)} (${columns})`)
    return one(
      `BEGIN\n  EXECUTE IMMEDIATE ${create};\nEXCEPTION WHEN OTHERS THEN IF SQLCODE <> -955 THEN RAISE; END IF;\nEND;`,
      says
    )
  }

  /** Where a row stands (Oracle, "ROWID Pseudocolumn"). */
  protected rowId(): RowId {
    return { before: [], columns: ['ROWID'], after: [] }
  }

  /** What a row goes by cannot be set as well, so what else must hold stands behind the values. */
  protected update({ table, sets, from, on, where, says }: Update): DraftStatement[] {
    const values = sets.map(({ column, value }) => `own.${quote(column)} = ${value}`).join(', ')
    const condition = where === undefined ? '' : ` WHERE ${where}`
    return [
      one(
        `MERGE INTO ${place(table.name)} own\n  USING ${from} ON (${on})\n  WHEN MATCHED THEN UPDATE SET ${values}${condition}`,
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
    const counted = table.columns.filter(
      (each) => each.generated && given.some(({ name }) => name === each.name)
    )
    return [...super.insert(table, given, rows, says), ...counted.map((column) => countOn(table, column))]
  }

  protected convert(sql: string, from: CatalogType, to: CatalogType): string {
    if (isText(from) && isText(to)) return sql
    if (to.sql === 'clob') return `to_clob(${sql})`
    if (isText(to)) return `to_char(${sql})`
    if (isZoned(from) && !isZoned(to)) return `CAST(SYS_EXTRACT_UTC(${sql}) AS ${to.sql})`
    if (isZoned(to) && /^(date|timestamp)/.test(from.sql))
      return `FROM_TZ(CAST(${sql} AS timestamp), '+00:00')`
    return from.sql === 'clob' ? `CAST(to_char(${sql}) AS ${to.sql})` : `CAST(${sql} AS ${to.sql})`
  }

  /** Only what changes is said: a column that is required already cannot be made so. */
  private change(table: CatalogTable, old: CatalogColumn, column: CatalogColumn): DraftStatement[] {
    const at = `${sayTable(table.name)}.${column.name}`
    const changed = { ...table, columns: table.columns.map((each) => (each === old ? column : each)) }
    if (!old.generated && column.generated) return this.remake(table, changed)
    const retyped = old.type.sql !== column.type.sql
    const isOther =
      (retyped && !isWider(old.type, column.type)) ||
      (old.computed !== undefined && column.computed === undefined)
    if (isOther) return this.replace(table, old, column)
    const parts = [
      ...(retyped ? [column.type.sql] : []),
      ...(old.default === column.default || column.generated ? [] : [`DEFAULT ${column.default ?? 'NULL'}`]),
      ...(old.required === column.required ? [] : [column.required ? 'NOT NULL' : 'NULL'])
    ]
    return [
      ...(old.generated && !column.generated
        ? [alter(table, `MODIFY (${quote(column.name)} DROP IDENTITY)`, `${at} is no longer generated`)]
        : []),
      ...(parts.length > 0
        ? [alter(table, `MODIFY (${quote(column.name)} ${parts.join(' ')})`, `change ${at}`)]
        : []),
      ...(old.note === column.note ? [] : [comment(table, column)])
    ]
  }

  /** A type that is another is had by a column in its place. */
  private replace(table: CatalogTable, old: CatalogColumn, column: CatalogColumn): DraftStatement[] {
    const says = `make ${sayTable(table.name)}.${column.name} ${column.type.sql}`
    const passing = `${column.name.slice(0, 60)}_kept`
    const bare = { ...column, required: false, default: undefined, note: undefined, generated: false }
    const [name, kept] = [quote(column.name), quote(passing)]
    return [
      alter(table, `ADD (${kept} ${column.type.sql})`, says),
      one(`UPDATE ${place(table.name)} SET ${kept} = ${this.convert(name, old.type, column.type)}`, says),
      alter(table, `DROP COLUMN ${name}`, says),
      alter(table, `RENAME COLUMN ${kept} TO ${name}`, says),
      ...this.change(table, bare, column)
    ]
  }

  /** What cannot be had in place: the table is made anew. Nothing hangs on it by then. */
  private remake(table: CatalogTable, changed: CatalogTable): DraftStatement[] {
    const says = `make ${sayTable(table.name)} anew`
    const bare = nameParts(changed.name).at(-1) ?? ''
    const moves = table.name !== changed.name
    const name = moves ? changed.name : qualify(schemaOf(table.name), `new_${bare.slice(0, 100)}`)
    const made = {
      ...changed,
      name,
      primaryKey: undefined,
      uniques: [],
      checks: [],
      foreignKeys: [],
      indexes: []
    }
    const names = changed.columns
      .filter((each) => each.computed === undefined)
      .map((each) => quote(each.name))
      .join(', ')
    return [
      one(createTable(made, this.tables, words), says),
      one(`INSERT INTO ${place(name)} (${names})\n  SELECT ${names} FROM ${place(table.name)}`, says),
      ...changed.columns.filter((each) => each.generated).map((column) => countOn(made, column)),
      one(`DROP TABLE ${place(table.name)}`, says),
      ...(moves ? [] : [one(`ALTER TABLE ${place(name)} RENAME TO ${quote(bare)}`, says)]),
      ...commentsOn(changed, words, quoteText)
    ]
  }

  private constrain(table: CatalogTable, constraint: Constraint): DraftStatement[] {
    if (constraint.kind === 'trigger') return createTrigger(table, constraint.key, this.tables)
    if (constraint.kind === 'index') return [createIndex(table, constraint.key, words)]
    const clause = constraintClause(table, constraint, this.tables, words)
    return [alter(table, `ADD ${clause}`, sayConstraint(table, constraint, this.tables))]
  }

  private dropConstraint(table: CatalogTable, kind: ConstraintKind, id: string): DraftStatement[] {
    const constraint = this.state.constraint(table.id, kind, id)
    if (constraint.kind === 'trigger') return dropTrigger(table, constraint.key)
    const { name } = constraint.key
    const says = `drop ${name} of ${sayTable(table.name)}`
    return [
      kind === 'index'
        ? one(`DROP INDEX ${beside(table, name)}`, says)
        : alter(table, `DROP CONSTRAINT ${quote(name)}`, says)
    ]
  }
}

const one = (sql: string, says: string): DraftStatement => ({ sql, says })

const place = (name: string): string => tableIn(words, name)

const alter = (table: CatalogTable, sql: string, says: string): DraftStatement =>
  one(`ALTER TABLE ${place(table.name)} ${sql}`, says)

/** What stands in a table's schema. */
const beside = (table: CatalogTable, name: string): string => place(qualify(schemaOf(table.name), name))

const isZoned = ({ sql }: CatalogType): boolean => sql === 'timestamp with time zone'

const isText = ({ sql }: CatalogType): boolean => /^(varchar2|char|clob)/.test(sql)

/** What is counted goes on from the largest number there is. */
function countOn(table: CatalogTable, column: CatalogColumn): DraftStatement {
  const counted = `${quote(column.name)} GENERATED BY DEFAULT AS IDENTITY (START WITH LIMIT VALUE)`
  return alter(
    table,
    `MODIFY (${counted})`,
    `count ${sayTable(table.name)}.${column.name} on from the largest number there is`
  )
}

function comment(table: CatalogTable, { name, note }: CatalogColumn): DraftStatement {
  return one(
    `COMMENT ON COLUMN ${place(table.name)}.${quote(name)} IS ${quoteText(note ?? '')}`,
    `say what ${sayTable(table.name)}.${name} is`
  )
}
