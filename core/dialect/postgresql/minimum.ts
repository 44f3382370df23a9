import { fitName } from '../../naming/fit.ts'
import type { CatalogForeignKey, CatalogTable, Statement, Tables } from '../catalog.ts'
import { sayTable, schemaOf } from '../qualified.ts'
import { quoteText } from '../quote.ts'
import { nameOfColumn } from '../written.ts'
import { quote } from './types.ts'
import { tableIn } from '../sql-words.ts'

/**
 * That each row referred to has at least one that refers to it: triggers on both tables that are looked at when the
 * transaction ends (PostgreSQL manual, CREATE TRIGGER, CONSTRAINT), so that a row and its first can come in turn.
 */

const LIMIT = { most: 63, of: 'bytes' } as const

/** What the triggers, and their function, are called after the reference. */
export const minimumName = (foreignKey: string): string => fitName(`${foreignKey}_min`, LIMIT)

interface Parts {
  name: string
  /** The function, in the schema of the table that refers. */
  call: string
  child: { table: string; columns: string[] }
  parent: { table: string; columns: string[] }
  says: string
}

function partsOf(table: CatalogTable, key: CatalogForeignKey, tables: Tables): Parts {
  const referred = tables.get(key.table) ?? table
  const names = (of: CatalogTable, ids: readonly string[]): string[] =>
    ids.map((id) => quote(nameOfColumn(of, id)))
  const name = minimumName(key.name)
  const schema = schemaOf(table.name)
  return {
    name: quote(name),
    call: schema === undefined ? quote(name) : `${quote(schema)}.${quote(name)}`,
    child: { table: tableIn({ quote }, table.name), columns: names(table, key.columns) },
    parent: { table: tableIn({ quote }, referred.name), columns: names(referred, key.refersTo) },
    says: `each ${sayTable(referred.name)} has at least one ${sayTable(table.name)}`
  }
}

/** Whether rows of the parent are without one: as a condition on what is called `one`. */
const isWithout = ({ child, parent }: Parts): string =>
  `NOT EXISTS (SELECT FROM ${child.table} AS other WHERE ${child.columns
    .map((column, at) => `other.${column} = one.${parent.columns[at]}`)
    .join(' AND ')})`

/**
 * The row referred to is held for the time being, so that of two transactions that each take one of the last two, the
 * second sees what the first has done.
 */
export function createMinimum(table: CatalogTable, key: CatalogForeignKey, tables: Tables): Statement[] {
  const parts = partsOf(table, key, tables)
  const { name, call, child, parent, says } = parts
  const places = parent.columns.map((_, at) => `place_${at + 1}`)
  const sets = (of: 'NEW' | 'OLD', columns: readonly string[]): string =>
    columns.map((column, at) => `    ${places[at]} := ${of}.${column};`).join('\n')
  // By the block's name, since a column may be called as a variable is.
  const isIt = parent.columns.map((column, at) => `one.${column} = held.${places[at]}`).join(' AND ')
  const body = [
    '<<held>>',
    'DECLARE',
    ...parent.columns.map((column, at) => `  ${places[at]} ${parent.table}.${column}%TYPE;`),
    'BEGIN',
    "  IF TG_ARGV[0] = 'referred to' THEN",
    sets('NEW', parent.columns),
    '  ELSE',
    sets('OLD', child.columns),
    '  END IF;',
    `  PERFORM FROM ${parent.table} AS one WHERE ${isIt} FOR NO KEY UPDATE;`,
    `  IF EXISTS (SELECT FROM ${parent.table} AS one WHERE ${isIt} AND ${isWithout(parts)}) THEN`,
    `    RAISE EXCEPTION USING ERRCODE = 'check_violation', CONSTRAINT = TG_NAME, MESSAGE = ${quoteText(says)};`,
    '  END IF;',
    '  RETURN NULL;',
    'END'
  ].join('\n')
  const trigger = (events: string, on: string, argument: string): string =>
    `CREATE CONSTRAINT TRIGGER ${name} AFTER ${events} ON ${on} DEFERRABLE INITIALLY DEFERRED\n  FOR EACH ROW EXECUTE FUNCTION ${call}(${quoteText(argument)})`
  return [
    {
      sql: `CREATE FUNCTION ${call}() RETURNS trigger LANGUAGE plpgsql SET search_path FROM CURRENT AS ${quoteText(`\n${body}\n`)}`,
      says: `see that ${says}`
    },
    {
      sql: trigger(`INSERT OR UPDATE OF ${parent.columns.join(', ')}`, parent.table, 'referred to'),
      says: `${says}: looked at where one comes`
    },
    {
      sql: trigger(`DELETE OR UPDATE OF ${child.columns.join(', ')}`, child.table, 'refers'),
      says: `${says}: looked at where one goes`
    }
  ]
}

export function dropMinimum(table: CatalogTable, key: CatalogForeignKey, tables: Tables): Statement[] {
  const { name, call, child, parent, says } = partsOf(table, key, tables)
  return [
    { sql: `DROP TRIGGER ${name} ON ${child.table}`, says: `no longer see that ${says}` },
    { sql: `DROP TRIGGER ${name} ON ${parent.table}`, says: `no longer see that ${says}` },
    { sql: `DROP FUNCTION ${call}()`, says: `no longer see that ${says}` }
  ]
}

/** The rows that there are and that are without one. */
export function withoutOne(
  table: CatalogTable,
  key: CatalogForeignKey,
  tables: Tables
): { rows: string; says: string } {
  const parts = partsOf(table, key, tables)
  return { rows: `SELECT FROM ${parts.parent.table} AS one WHERE ${isWithout(parts)}`, says: parts.says }
}
