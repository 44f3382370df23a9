import type { Action } from '../../design/model.ts'
import type { Catalog, CatalogTable } from '../catalog.ts'
import type { Query } from '../dialect.ts'
import { fromPrinted, fromPrintedDefault } from './types.ts'
import { quote } from './write.ts'

/** pg_constraint.confdeltype and confupdtype (PostgreSQL manual, 53.13). */
const ACTION: Record<string, Action> = { a: 'NO ACTION', r: 'RESTRICT', c: 'CASCADE', n: 'SET NULL', d: 'SET DEFAULT' }

const TABLES = `SELECT c.oid::text AS id, c.relname AS name FROM pg_class c
  WHERE c.relnamespace = current_schema()::regnamespace AND c.relkind = 'r' ORDER BY c.oid`

const COLUMNS = `SELECT a.attrelid::text AS table, a.attname AS name, format_type(a.atttypid, a.atttypmod) AS type, a.attnotnull AS required,
    a.attidentity <> '' AS generated, pg_get_expr(d.adbin, d.adrelid) AS default
  FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid LEFT JOIN pg_attrdef d ON d.adrelid = a.attrelid AND d.adnum = a.attnum
  WHERE c.relnamespace = current_schema()::regnamespace AND c.relkind = 'r' AND a.attnum > 0 AND NOT a.attisdropped
  ORDER BY a.attrelid, a.attnum`

const NAMES_OF = (table: string, columns: string): string =>
  `(SELECT json_agg(a.attname ORDER BY k.at)::text FROM unnest(${columns}) WITH ORDINALITY AS k(attnum, at) JOIN pg_attribute a ON a.attrelid = ${table} AND a.attnum = k.attnum)`

const CONSTRAINTS = `SELECT c.conrelid::text AS table, c.conname AS name, c.contype AS kind, r.relname AS refers, c.confdeltype AS on_delete, c.confupdtype AS on_update,
    c.convalidated AS validated, ${NAMES_OF('c.conrelid', 'c.conkey')} AS columns, ${NAMES_OF('c.confrelid', 'c.confkey')} AS targets
  FROM pg_constraint c LEFT JOIN pg_class r ON r.oid = c.confrelid
  WHERE c.connamespace = current_schema()::regnamespace AND c.contype IN ('p', 'u', 'f') ORDER BY c.oid`

const INDEXES = `SELECT i.indrelid::text AS table, c.relname AS name, ${NAMES_OF('i.indrelid', 'i.indkey::int2[]')} AS columns
  FROM pg_index i JOIN pg_class c ON c.oid = i.indexrelid
  WHERE c.relnamespace = current_schema()::regnamespace AND NOT EXISTS (SELECT 1 FROM pg_constraint k WHERE k.conindid = i.indexrelid AND k.contype IN ('p', 'u', 'x'))
  ORDER BY c.oid`

/** Reads the tables of the current schema back from the catalog. A reference that was not validated is read with that said in its name. */
export async function read(query: Query): Promise<Catalog> {
  const tables = new Map<string, CatalogTable>()
  for (const { id, name } of await query(TABLES)) tables.set(String(id), { id: '', name: String(name), columns: [], primaryKey: undefined, uniques: [], foreignKeys: [], indexes: [] })
  for (const row of await query(COLUMNS)) {
    const type = fromPrinted(String(row.type))
    tables.get(String(row.table))?.columns.push({
      id: '', name: String(row.name), type, required: row.required === true, generated: row.generated === true,
      default: fromPrintedDefault(row.default === null ? null : String(row.default), type)
    })
  }
  for (const row of await query(CONSTRAINTS)) {
    const table = tables.get(String(row.table))
    const key = { id: '', name: String(row.name) + (row.validated === false ? ' (not validated)' : ''), columns: namesIn(row.columns) }
    if (row.kind === 'p' && table) table.primaryKey = key
    else if (row.kind === 'u') table?.uniques.push(key)
    else table?.foreignKeys.push({
      ...key, table: String(row.refers), refersTo: namesIn(row.targets),
      onDelete: ACTION[String(row.on_delete)] ?? 'NO ACTION', onUpdate: ACTION[String(row.on_update)] ?? 'NO ACTION'
    })
  }
  for (const row of await query(INDEXES)) tables.get(String(row.table))?.indexes.push({ id: '', name: String(row.name), columns: namesIn(row.columns) })
  return { tables: [...tables.values()] }
}

const namesIn = (json: unknown): string[] => JSON.parse(String(json)) as string[]

/** Drops every table of the current schema. */
export async function reset(query: Query): Promise<void> {
  const names = (await query(TABLES)).map((row) => quote(String(row.name)))
  if (names.length > 0) await query(`DROP TABLE ${names.join(', ')} CASCADE`)
}
