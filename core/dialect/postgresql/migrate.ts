import {
  waitsForEnd,
  type CatalogColumn,
  type CatalogForeignKey,
  type CatalogTable,
  type CatalogType
} from '../catalog.ts'
import { NOTHING_AROUND, type ScriptLine } from '../chain.ts'
import type { MigrationInput } from '../migration.ts'
import { nameParts, sayTable, schemaOf } from '../qualified.ts'
import { quoteText } from '../quote.ts'
import type { Speech } from '../speech.ts'
import { StepWriter, type RowId, type DraftStatement, type Update } from '../step-writer.ts'
import { isShapeStep, type Constraint, type ShapeStep, type Step } from '../step.ts'
import type { InPlace } from '../survival.ts'
import type { Facts } from '../facts.ts'
import { isBefore } from '../versions.ts'
import { constraintClause, sayConstraint } from '../write.ts'
import { fitName } from '../../naming/fit.ts'
import { createMinimum, dropMinimum, withoutOne } from './minimum.ts'
import { createTrigger, dropTrigger } from './trigger.ts'
import { cast, quote } from './types.ts'
import {
  columnType,
  counterOf,
  createIndex,
  createSchemas,
  createTable,
  createType,
  place,
  resetCounter,
  createRoles,
  rowPolicies,
  words
} from './write.ts'
import { same } from '../replaced-lists.ts'

/**
 * What PostgreSQL changes in place (PostgreSQL manual, ALTER TABLE): names of everything; the type under a
 * key or a whole index, and under a reference between texts. A condition is read anew under another type.
 */
export const inPlaceIn = ({ oldest }: Facts): InPlace => ({
  renames: ['primaryKey', 'unique', 'foreignKey', 'check', 'index'],
  renamesSchemas: true,
  namesAreOwn: false,
  ordersColumns: false,
  notesInside: false,
  stands: (what, from, to) => {
    if (isFreed(from, to) && isBefore(oldest, '13')) return false
    if (sameType(from.type, to.type)) return true
    if (what === 'primaryKey' || what === 'unique' || what === 'index') return !isList(from) && !isList(to)
    return what === 'foreignKey' && isText(from.type) && isText(to.type)
  },
  indexesReferences: false,
  referencesFollow: true,
  keysLater: true,
  remakes: () => false,
  // A value that is added cannot be used in the same transaction (PostgreSQL manual, ALTER TYPE).
  addsToList: (from, to, isUsed) => {
    const added = to.filter((value) => !from.includes(value))
    const stay = to.filter((value) => from.includes(value))
    return same(stay, from) && !added.some(isUsed)
  }
})

/** The longest name (PostgreSQL manual, 4.1.1). */
const LIMIT = { most: 63, of: 'bytes' } as const

/**
 * One transaction. What a row stands in the way of is refused within it, so that nothing is half done.
 */
export function migrate(
  input: MigrationInput,
  steps: readonly Step[],
  speech: Speech,
  around = NOTHING_AROUND
): ScriptLine[] {
  const written = new Writer(input, speech).write(steps)
  const lines = [
    ...around.first,
    ...(hasDeferred(input) ? written.flatMap(lookedAtBefore) : written),
    ...around.last
  ]
  if (lines.length === 0) return []
  return [
    { sql: 'BEGIN', says: 'all of it, or nothing' },
    ...(hasForced(input) ? SEES_ALL : []),
    ...(hasMoments(input) && steps.some(mayConvert) ? MOMENTS : []),
    ...lines,
    { sql: 'COMMIT', says: 'keep it' }
  ]
}

/** Refuses to read a table of which policies would hide rows (PostgreSQL manual, 20.11, row_security). */
const SEES_ALL: ScriptLine[] = [
  { sql: 'SET LOCAL row_security = off', says: 'move every row, or none: no policy may hide any' }
]
const hasForced = ({ from, to }: MigrationInput): boolean =>
  [...from.tables, ...to.tables].some(({ rowSecurity }) => rowSecurity === 'forced')

const hasDeferred = ({ from, to }: MigrationInput): boolean =>
  [...from.tables, ...to.tables].some(waitsForEnd)

/** A table is not altered while references of its rows are still to be looked at (PostgreSQL, error 55006). */
function lookedAtBefore(line: ScriptLine, at: number, all: readonly ScriptLine[]): ScriptLine[] {
  const isData = (each: ScriptLine | undefined): boolean =>
    /^(INSERT|UPDATE|DELETE|DO)\b/.test(each?.sql ?? '')
  if (isData(line) || !isData(all[at - 1])) return [line]
  const says = 'look at the references of what was put in'
  return [...['IMMEDIATE', 'DEFERRED'].map((when) => ({ sql: `SET CONSTRAINTS ALL ${when}`, says })), line]
}

/** How moments become others goes by the session (PostgreSQL manual, 8.5); here by what is said, until the end. */
const MOMENTS: ScriptLine[] = ["SET LOCAL TIME ZONE 'UTC'", "SET LOCAL datestyle = 'ISO'"].map((sql) => ({
  sql,
  says: 'moments are read and written alike, whoever runs this'
}))

/** Whether a step may make one type of another: it moves values, or says an expression. */
function mayConvert(step: Step): boolean {
  const says = ({ default: begins, computed }: CatalogColumn): boolean =>
    begins !== undefined || computed !== undefined
  switch (step.kind) {
    case 'changeColumn':
      return true
    case 'addColumn':
      return says(step.column)
    case 'makeTable':
      return step.table.columns.some(says) || step.table.checks.length > 0
    case 'addConstraint':
      return saysCondition(step.constraint)
    case 'setPolicies':
      return step.policies.length > 0
    case 'keep':
      return step.keepsake.by === 'row' || step.keepsake.told !== undefined
    case 'lock':
    case 'expect':
    case 'dropKeepsake':
      return false
    default:
      return !isShapeStep(step)
  }
}

const saysCondition = ({ kind, key }: Constraint): boolean =>
  kind === 'check' || kind === 'trigger' || (kind === 'index' && key.where !== undefined)

const hasMoments = ({ from, to }: MigrationInput): boolean =>
  [...from.tables, ...to.tables].some(({ columns }) =>
    columns.some(({ type }) => /^(date|time)/.test(type.sql))
  )

class Writer extends StepWriter {
  protected shape(step: ShapeStep): DraftStatement[] {
    const { state } = this
    switch (step.kind) {
      case 'makeSchema':
        return createSchemas([step.schema])
      case 'renameSchema': {
        const { name } = state.schema(step.schema)
        return [
          one(
            `ALTER SCHEMA ${quote(name)} RENAME TO ${quote(step.name)}`,
            `call the schema ${name} ${step.name}`
          )
        ]
      }
      case 'dropSchema':
        return [dropSchema(step.name)]
      case 'makeList':
        return [createType(step.list.name, step.list.values)]
      case 'renameList': {
        const name = state.lists.get(step.list)?.name ?? ''
        if (name === step.as.name) return []
        return [
          one(`ALTER TYPE ${quote(name)} RENAME TO ${quote(step.as.name)}`, `call ${name} ${step.as.name}`)
        ]
      }
      case 'addToList':
        return this.addToList(step.list, step.values)
      case 'dropList': {
        const name = state.lists.get(step.list)?.name ?? ''
        return [one(`DROP TYPE ${quote(name)}`, `drop the list of values ${name}`)]
      }
      case 'makeTable':
        return [one(createTable(step.table, this.tables), `make ${sayTable(step.table.name)}`)]
      case 'renameTable': {
        const { name, columns } = state.table(step.table)
        const to = nameParts(step.name).at(-1) ?? ''
        return [
          one(`ALTER TABLE ${place(name)} RENAME TO ${quote(to)}`, `call ${sayTable(name)} ${to}`),
          ...columns.filter(({ generated }) => generated).map((column) => callCounter(step.name, column))
        ]
      }
      case 'moveTable':
        return this.move(state.table(step.table), step.name)
      case 'noteTable': {
        const { name } = state.table(step.table)
        return [one(`COMMENT ON TABLE ${place(name)} IS ${text(step.note)}`, `say what ${sayTable(name)} is`)]
      }
      case 'dropTable': {
        const { name } = state.table(step.table)
        return [one(`DROP TABLE ${place(name)}`, `drop ${sayTable(name)}`)]
      }
      case 'addColumn':
        return [this.add(state.table(step.table), step.column)]
      case 'renameColumn': {
        const table = state.table(step.table)
        const column = state.column(step.table, step.column)
        const says = `call ${sayTable(table.name)}.${column.name} ${step.name}`
        const rename = `ALTER TABLE ${place(table.name)} RENAME COLUMN ${quote(column.name)} TO ${quote(step.name)}`
        const renamed = { ...column, name: step.name }
        return [one(rename, says), ...(column.generated ? [callCounter(table.name, renamed)] : [])]
      }
      case 'changeColumn': {
        const table = state.table(step.table)
        return this.change(table, state.column(step.table, step.column.id), step.column)
      }
      case 'dropColumn': {
        const table = state.table(step.table)
        const { name } = state.column(step.table, step.column)
        return [alter(table, `DROP COLUMN ${quote(name)}`, `drop ${name} of ${sayTable(table.name)}`)]
      }
      case 'orderColumns':
        return []
      case 'addConstraint':
        return this.constrain(state.table(step.table), step.constraint)
      case 'renameConstraint': {
        const table = state.table(step.table)
        const { name } = state.constraint(step.table, step.of, step.id).key
        const says = `call ${name} ${step.name}`
        return [
          step.of === 'index'
            ? one(`ALTER INDEX ${beside(table, name)} RENAME TO ${quote(step.name)}`, says)
            : one(
                `ALTER TABLE ${place(table.name)} RENAME CONSTRAINT ${quote(name)} TO ${quote(step.name)}`,
                says
              )
        ]
      }
      case 'dropConstraint': {
        const table = state.table(step.table)
        const constraint = state.constraint(step.table, step.of, step.id)
        if (constraint.kind === 'trigger') return dropTrigger(table, constraint.key)
        const { name } = constraint.key
        const says = `drop ${name} of ${sayTable(table.name)}`
        const held = table.foreignKeys.find(({ id, atLeastOne }) => id === step.id && atLeastOne)
        return [
          ...(held ? dropMinimum(table, held, this.tables) : []),
          step.of === 'index'
            ? one(`DROP INDEX ${beside(table, name)}`, says)
            : alter(table, `DROP CONSTRAINT ${quote(name)}`, says)
        ]
      }
      case 'setPolicies': {
        const table = state.table(step.table)
        const wanted = { ...table, rowPolicies: step.policies, rowSecurity: step.security }
        return [...dropPolicies(table), ...createRoles(step.policies), ...rowPolicies(wanted)]
      }
    }
  }

  /** What others are writing is in what is read, or waits (PostgreSQL manual, 13.2.1). */
  protected lock(tables: readonly CatalogTable[]): DraftStatement[] {
    const names = tables.map(({ name }) => place(name)).join(', ')
    return [one(`LOCK TABLE ${names} IN ACCESS EXCLUSIVE MODE`, 'nobody writes what is being read')]
  }

  protected createAs(name: string, select: string, says: string, passing: boolean): DraftStatement[] {
    if (!passing) return [one(`CREATE TABLE ${quote(name)} AS ${select}`, says)]
    return [one(`CREATE TEMP TABLE ${quote(name)} ON COMMIT DROP AS\n  ${select}`, says)]
  }

  protected stopWhere(rows: string, says: string): DraftStatement {
    const stop = `RAISE EXCEPTION USING MESSAGE = ${quoteText(says)}`
    const block = `BEGIN IF EXISTS (${rows}) THEN ${stop}; END IF; END`
    return one(`DO ${quoteText(block)}`, `see that it can be: ${says}`)
  }

  protected createMissing(name: string, columns: string, says: string): DraftStatement {
    return one(`CREATE TABLE IF NOT EXISTS ${quote(name)} (${columns})`, says)
  }

  /** Where a row stands, until it is changed (PostgreSQL manual, 5.5). */
  protected rowId(): RowId {
    return { before: [], columns: ['ctid'], after: [] }
  }

  protected update({ table, sets, from, on, where, says }: Update): DraftStatement[] {
    const values = sets.map(({ column, value }) => `${quote(column)} = ${value}`).join(', ')
    const condition = where === undefined ? on : `${on} AND ${where}`
    return [
      one(`UPDATE ${place(table.name)} AS own SET ${values}\n  FROM ${from}\n  WHERE ${condition}`, says)
    ]
  }

  protected override insert(
    table: CatalogTable,
    ...rest: Parameters<StepWriter['insert']> extends [unknown, ...infer R] ? R : never
  ): DraftStatement[] {
    const [given] = rest
    const isCounted = given.some(({ name }) =>
      table.columns.some((each) => each.generated && each.name === name)
    )
    return [...super.insert(table, ...rest), ...(isCounted ? resetCounter(table) : [])]
  }

  protected convert(sql: string, from: CatalogType, to: CatalogType): string {
    return cast(sql, from.sql, to.sql)
  }

  /** A keepsake outlives lists of values: what was one of a list is kept as text. */
  protected override keptType(type: CatalogType): CatalogType {
    return type.list === undefined ? type : { sql: 'text' }
  }

  /** Values that are added, each beside the one that it stands next to. */
  private addToList(id: string, values: readonly string[]): DraftStatement[] {
    const list = this.state.lists.get(id)
    return values.flatMap((value, at): DraftStatement[] => {
      if (!list || list.values.includes(value)) return []
      const [before, after] = [
        values[at - 1],
        values.slice(at + 1).find((each) => list.values.includes(each))
      ]
      const beside =
        before !== undefined
          ? ` AFTER ${quoteText(before)}`
          : after !== undefined
            ? ` BEFORE ${quoteText(after)}`
            : ''
      return [
        one(
          `ALTER TYPE ${quote(list.name)} ADD VALUE ${quoteText(value)}${beside}`,
          `${list.name} gets ${value}`
        )
      ]
    })
  }

  /** A table takes its constraints along, and its counters, which get names that are free there first. */
  private move(table: CatalogTable, name: string): DraftStatement[] {
    const schema = schemaOf(name) ?? 'public'
    const counted = table.columns.filter((column) => column.generated)
    return [
      ...counted.map((column) => renameCounter(table.name, column, `${column.id}_${table.id}_seq`)),
      one(
        `ALTER TABLE ${place(table.name)} SET SCHEMA ${quote(schema)}`,
        `move ${sayTable(table.name)} to the schema ${schema}`
      ),
      ...counted.map((column) => callCounter(name, column))
    ]
  }

  private add(table: CatalogTable, column: CatalogColumn): DraftStatement {
    const says = `${column.computed === undefined ? 'add' : 'compute'} ${column.name} of ${sayTable(table.name)}`
    return alter(table, `ADD COLUMN ${quote(column.name)} ${columnType(column, table)}`, says)
  }

  private change(table: CatalogTable, old: CatalogColumn, column: CatalogColumn): DraftStatement[] {
    const at = `${sayTable(table.name)}.${column.name}`
    const clause = (sql: string, says: string): DraftStatement =>
      alter(table, `ALTER COLUMN ${quote(column.name)} ${sql}`, says)
    if (isFreed(old, column) && isBefore(this.speech.facts.oldest, '13'))
      return this.inItsPlace(table, old, column)
    const retyped = !sameType(old.type, column.type)
    const said: DraftStatement[] = []
    if (isFreed(old, column)) said.push(clause('DROP EXPRESSION', `${at} is no longer computed`))
    if (old.generated && !column.generated) {
      const alone = clause('DROP IDENTITY', `${at} is no longer generated`)
      // Before PostgreSQL 16 a type that cannot be counted is refused in the statement that ends the counting.
      said.push(retyped ? { ...alone, alters: undefined, sql: `${alone.alters} ${alone.sql}` } : alone)
    }
    if (retyped) {
      const says = `make ${at} ${column.type.sql}`
      if (old.default !== undefined) said.push(clause('DROP DEFAULT', says))
      said.push(clause(`TYPE ${column.type.sql}${using(old, column)}`, says))
    }
    if ((retyped && column.default !== undefined) || old.default !== column.default)
      said.push(
        clause(
          column.default === undefined ? 'DROP DEFAULT' : `SET DEFAULT ${column.default}`,
          `default of ${at}`
        )
      )
    if (!old.required && column.required) said.push(clause('SET NOT NULL', `require ${at}`))
    if (old.required && !column.required) said.push(clause('DROP NOT NULL', `${at} may be empty`))
    if (!old.generated && column.generated) {
      said.push(clause('ADD GENERATED BY DEFAULT AS IDENTITY', `${at} is generated`))
      said.push(...resetCounter({ ...table, columns: [column] }))
    }
    if (old.note !== column.note)
      said.push(
        one(
          `COMMENT ON COLUMN ${place(table.name)}.${quote(column.name)} IS ${text(column.note)}`,
          `say what ${at} is`
        )
      )
    return said
  }

  /** A column in its place that takes what was computed, where it cannot be told to compute no more. */
  private inItsPlace(table: CatalogTable, old: CatalogColumn, column: CatalogColumn): DraftStatement[] {
    const at = `${sayTable(table.name)}.${column.name}`
    const says = `${at} is no longer computed`
    const kept = fitName(`${column.name}_kept`, LIMIT)
    const free = { ...column, name: kept, required: false, generated: false, default: undefined }
    const value = this.asType({ sql: quote(old.name), type: old.type }, column.type)
    return [
      one(`ALTER TABLE ${place(table.name)} ADD COLUMN ${quote(kept)} ${columnType(free, table)}`, says),
      one(`UPDATE ${place(table.name)} SET ${quote(kept)} = ${value}`, says),
      one(`ALTER TABLE ${place(table.name)} DROP COLUMN ${quote(old.name)}`, says),
      one(`ALTER TABLE ${place(table.name)} RENAME COLUMN ${quote(kept)} TO ${quote(column.name)}`, says),
      ...this.change(table, { ...free, name: column.name, note: undefined }, column)
    ]
  }

  private constrain(table: CatalogTable, constraint: Constraint): DraftStatement[] {
    if (constraint.kind === 'trigger') return createTrigger(table, constraint.key, this.tables)
    if (constraint.kind === 'index') return [createIndex(table, constraint.key)]
    const clause = constraintClause(table, constraint, this.tables, words)
    const added = alter(table, `ADD ${clause}`, sayConstraint(table, constraint, this.tables))
    const isHeld = constraint.kind === 'foreignKey' && constraint.key.atLeastOne
    return isHeld ? [added, ...this.holdMinimum(table, constraint.key)] : [added]
  }

  /** Triggers look at no row that is there already. */
  private holdMinimum(table: CatalogTable, key: CatalogForeignKey): DraftStatement[] {
    const { rows, says } = withoutOne(table, key, this.tables)
    return [this.stopWhere(rows, says), ...createMinimum(table, key, this.tables)]
  }
}

/** Whether a column was computed and is no longer: DROP EXPRESSION came with PostgreSQL 13. */
const isFreed = (from: CatalogColumn, to: CatalogColumn): boolean =>
  from.computed !== undefined && to.computed === undefined

const one = (sql: string, says: string): DraftStatement => ({ sql, says })

const alter = (table: CatalogTable, sql: string, says: string): DraftStatement => ({
  alters: `ALTER TABLE ${place(table.name)}`,
  sql,
  says
})

const text = (note: string | undefined): string => (note === undefined ? 'NULL' : quoteText(note))

/** What stands in a table's schema. */
const beside = (table: CatalogTable, name: string): string => {
  const schema = schemaOf(table.name)
  return schema === undefined ? quote(name) : `${quote(schema)}.${quote(name)}`
}

const isList = ({ type }: CatalogColumn): boolean => type.list !== undefined

const isText = ({ sql }: CatalogType): boolean => /^(text|varchar|char)/.test(sql)

/** A list of values stays the same type under another name. */
const sameType = (one: CatalogType, other: CatalogType): boolean =>
  one.list === undefined && other.list === undefined ? one.sql === other.sql : one.list === other.list

/** Texts are taken as they are, so that one that is too long is refused and not cut. */
const using = (old: CatalogColumn, { name, type }: CatalogColumn): string =>
  isText(old.type) && isText(type) ? '' : ` USING ${cast(quote(name), old.type.sql, type.sql)}`

/** Others may have put something there. */
function dropSchema(name: string): DraftStatement {
  const isUsed = `SELECT FROM pg_class WHERE relnamespace = to_regnamespace(${quoteText(quote(name))})`
  const drop = `BEGIN IF NOT EXISTS (${isUsed}) THEN DROP SCHEMA ${quote(name)}; END IF; END`
  return one(`DO ${quoteText(drop)}`, `drop the schema ${name} where nothing is in it`)
}

/** A counter is called after its table and its column, as the engine calls a new one. */
function callCounter(table: string, column: CatalogColumn): DraftStatement {
  const name = `${nameParts(table).at(-1) ?? ''}_${column.name}_seq`
  return renameCounter(table, column, fitName(name, LIMIT))
}

function renameCounter(table: string, column: CatalogColumn, name: string): DraftStatement {
  const schema = schemaOf(table) ?? 'public'
  const isFree = `to_regclass(quote_ident(${quoteText(schema)}) || '.' || quote_ident(${quoteText(name)})) IS NULL`
  const rename = `EXECUTE 'ALTER SEQUENCE ' || ${counterOf(table, column.name)} || ' RENAME TO ' || quote_ident(${quoteText(name)})`
  return one(
    `DO ${quoteText(`BEGIN IF ${isFree} THEN ${rename}; END IF; END`)}`,
    `call the counter of ${sayTable(table)}.${column.name} ${name}`
  )
}

function dropPolicies(table: CatalogTable): DraftStatement[] {
  const drops = table.rowPolicies.map(({ name }) =>
    one(
      `DROP POLICY ${quote(name)} ON ${place(table.name)}`,
      `drop the row policy ${name} of ${sayTable(table.name)}`
    )
  )
  if (table.rowSecurity === 'off') return drops
  const says = `hold ${sayTable(table.name)} to no row policies`
  const alters = `ALTER TABLE ${place(table.name)}`
  return [
    ...drops,
    ...(table.rowSecurity === 'forced' ? [one(`${alters} NO FORCE ROW LEVEL SECURITY`, says)] : []),
    one(`${alters} DISABLE ROW LEVEL SECURITY`, says)
  ]
}
