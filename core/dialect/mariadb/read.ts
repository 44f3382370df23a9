import type { Action } from '../../design/model.ts'
import { bareTable, type Catalog, type CatalogTable } from '../catalog.ts'
import { checkIn } from './check-trigger.ts'
import type { Query } from '../dialect.ts'
import { quote } from './types.ts'

const TABLES =
  "SELECT TABLE_NAME AS name, TABLE_COMMENT AS note FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE() AND TABLE_TYPE = 'BASE TABLE' ORDER BY CREATE_TIME, TABLE_NAME"
const COLUMNS = `SELECT TABLE_NAME AS tbl, COLUMN_NAME AS name, COLUMN_TYPE AS type, IS_NULLABLE AS nullable, COLUMN_DEFAULT AS dflt, EXTRA AS extra, GENERATION_EXPRESSION AS computed, COLUMN_COMMENT AS note
  FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE() ORDER BY TABLE_NAME, ORDINAL_POSITION`
const INDEXES = `SELECT TABLE_NAME AS tbl, INDEX_NAME AS name, COLUMN_NAME AS col, NON_UNIQUE AS repeats, COLLATION AS direction
  FROM information_schema.STATISTICS WHERE TABLE_SCHEMA = DATABASE() ORDER BY TABLE_NAME, INDEX_NAME, SEQ_IN_INDEX`
const CHECKS =
  'SELECT TABLE_NAME AS tbl, CONSTRAINT_NAME AS name, CHECK_CLAUSE AS clause FROM information_schema.CHECK_CONSTRAINTS WHERE CONSTRAINT_SCHEMA = DATABASE() ORDER BY TABLE_NAME, CONSTRAINT_NAME'
const TRIGGERS =
  'SELECT EVENT_OBJECT_TABLE AS tbl, EVENT_MANIPULATION AS event, ACTION_TIMING AS moment, TRIGGER_NAME AS name FROM information_schema.TRIGGERS WHERE TRIGGER_SCHEMA = DATABASE() ORDER BY TRIGGER_NAME'
const REFERENCES = `SELECT k.TABLE_NAME AS tbl, k.CONSTRAINT_NAME AS name, k.COLUMN_NAME AS col, k.REFERENCED_TABLE_NAME AS refers, k.REFERENCED_COLUMN_NAME AS target, r.DELETE_RULE AS on_delete, r.UPDATE_RULE AS on_update
  FROM information_schema.KEY_COLUMN_USAGE k JOIN information_schema.REFERENTIAL_CONSTRAINTS r ON r.CONSTRAINT_SCHEMA = k.CONSTRAINT_SCHEMA AND r.CONSTRAINT_NAME = k.CONSTRAINT_NAME AND r.TABLE_NAME = k.TABLE_NAME
  WHERE k.TABLE_SCHEMA = DATABASE() AND k.REFERENCED_TABLE_NAME IS NOT NULL ORDER BY k.TABLE_NAME, k.CONSTRAINT_NAME, k.ORDINAL_POSITION`

/**
 * Integers are printed with a width that says nothing; tinyint(1) alone is what a truth value is written
 * as.
 */
const plainType = (type: string): string =>
  type === 'tinyint(1)' ? type : type.replace(/^(tinyint|smallint|int|bigint)\(\d+\)/, '$1')

/** Reads the tables of the current database back, by the information schema. */
export async function read(query: Query): Promise<Catalog> {
  const tables = new Map<string, CatalogTable>()
  for (const row of await query(TABLES))
    tables.set(String(row.name), { ...bareTable(String(row.name), String(row.name)), note: textOf(row.note) })
  for (const row of await query(COLUMNS)) {
    const computed = textOf(row.computed)
    tables.get(String(row.tbl))?.columns.push({
      id: String(row.name),
      name: String(row.name),
      type: { sql: plainType(String(row.type)) },
      required: row.nullable === 'NO',
      generated: /auto_increment/i.test(String(row.extra)),
      note: textOf(row.note),
      renewed: /on update (\S+)/i.exec(String(row.extra))?.[1],
      computed: computed === undefined ? undefined : [computed],
      // A column without a default reads as the word NULL, or as nothing where it is required.
      default:
        computed !== undefined || row.dflt === null || row.dflt === 'NULL' ? undefined : String(row.dflt)
    })
  }
  for (const row of await query(CHECKS))
    tables
      .get(String(row.tbl))
      ?.checks.push({ id: '', name: String(row.name), condition: [String(row.clause)] })
  for (const [name, { checks, triggers }] of await triggersRead(query)) {
    tables.get(name)?.checks.push(...checks)
    tables.get(name)?.triggers.push(...triggers)
  }
  for (const row of await query(REFERENCES)) {
    const table = tables.get(String(row.tbl))
    const known = table?.foreignKeys.find((key) => key.name === row.name)
    if (known) {
      known.columns.push(String(row.col))
      known.refersTo.push(String(row.target))
    } else
      table?.foreignKeys.push({
        id: '',
        name: String(row.name),
        columns: [String(row.col)],
        table: String(row.refers),
        refersTo: [String(row.target)],
        onDelete: String(row.on_delete) as Action,
        onUpdate: String(row.on_update) as Action
      })
  }
  for (const row of await query(INDEXES)) addToIndex(tables.get(String(row.tbl)), row)
  // InnoDB makes an index for a reference that has none, and calls it as the reference is called.
  for (const table of tables.values())
    table.indexes = table.indexes.filter((index) => !table.foreignKeys.some((key) => key.name === index.name))
  return { schemas: [], enums: [], tables: [...tables.values()].map(uniquesAsKeys) }
}

type Triggered = Pick<CatalogTable, 'checks' | 'triggers'>

/** What triggers do, by their tables: the checks that they hold where rows are made and changed, and what else. */
async function triggersRead(query: Query): Promise<Map<string, Triggered>> {
  const half = new Map<string, string>()
  const found = new Map<string, Triggered>()
  for (const { tbl, event, moment, name } of await query(TRIGGERS)) {
    // The information schema has their bodies without the backslashes that they were written with.
    const [shown] = await query(`SHOW CREATE TRIGGER ${quote(String(name))}`)
    const statement = String(shown?.['SQL Original Statement'])
    const of = found.get(String(tbl)) ?? { checks: [], triggers: [] }
    found.set(String(tbl), of)
    const check = moment === 'AFTER' ? checkIn(statement) : undefined
    if (!check) {
      const [, body = statement] = /FOR EACH ROW\n([\s\S]*)$/.exec(statement) ?? []
      const says = `${String(name)} ${String(moment)} ${String(event)}\n${body}`
      of.triggers.push({ id: '', name: String(name), column: '', does: { kind: 'found', says } })
      continue
    }
    const key = JSON.stringify([tbl, check])
    const other = half.get(key)
    half.set(key, String(event))
    if (other !== undefined && other !== event)
      of.checks.push({ id: '', name: check.name, condition: [check.condition], byTrigger: true })
  }
  return found
}

/** A unique index that runs upwards and a unique key are one thing to MariaDB. */
export function uniquesAsKeys(table: CatalogTable): CatalogTable {
  const keys = table.indexes.filter((index) => index.unique && !index.descending.includes(true))
  return {
    ...table,
    uniques: [...table.uniques, ...keys.map(({ id, name, columns }) => ({ id, name, columns }))],
    indexes: table.indexes.filter((index) => !keys.includes(index))
  }
}

function addToIndex(table: CatalogTable | undefined, row: Record<string, unknown>): void {
  if (!table) return
  const name = String(row.name)
  const column = String(row.col)
  if (name === 'PRIMARY') {
    if (table.primaryKey) table.primaryKey.columns.push(column)
    else table.primaryKey = { id: '', name, columns: [column] }
    return
  }
  const known = table.indexes.find((index) => index.name === name)
  const down = row.direction === 'D'
  if (known) {
    known.columns.push(column)
    known.descending.push(down)
  } else
    table.indexes.push({
      id: '',
      name,
      columns: [column],
      descending: [down],
      unique: Number(row.repeats) === 0,
      where: undefined
    })
}

const textOf = (value: unknown): string | undefined =>
  value === null || value === undefined || value === '' ? undefined : String(value)

/** Drops every table of the current database; references must not hold it up. */
export async function reset(query: Query): Promise<void> {
  const names = (await query(TABLES)).map((row) => quote(String(row.name)))
  if (names.length === 0) return
  await query('SET foreign_key_checks = 0')
  await query(`DROP TABLE ${names.join(', ')}`)
  await query('SET foreign_key_checks = 1')
}
