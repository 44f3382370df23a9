import type { Action, RowSecurity } from '../../design/model.ts'
import { bareTable, type Catalog, type CatalogTable } from '../catalog.ts'
import type { Query } from '../dialect.ts'
import { qualify, schemaOf } from '../qualified.ts'
import { fromPrinted, fromPrintedDefault, quote } from './types.ts'

/** pg_constraint.confdeltype and confupdtype (PostgreSQL manual, 53.13). */
const ACTION: Record<string, Action> = {
  a: 'NO ACTION',
  r: 'RESTRICT',
  c: 'CASCADE',
  n: 'SET NULL',
  d: 'SET DEFAULT'
}
/** pg_policy.polcmd (PostgreSQL manual, 53.38). */
const COMMAND: Record<string, string> = { r: 'SELECT', a: 'INSERT', w: 'UPDATE', d: 'DELETE', '*': 'ALL' }

const OURS = (namespace: string): string =>
  `${namespace} NOT IN (SELECT oid FROM pg_namespace WHERE nspname IN ('information_schema', 'pg_catalog', 'pg_toast') OR nspname LIKE 'pg\\_temp%' OR nspname LIKE 'pg\\_toast%')`

const TABLES = `SELECT c.oid::text AS id, c.relname AS name, CASE WHEN c.relnamespace <> current_schema()::regnamespace THEN n.nspname END AS schema, obj_description(c.oid, 'pg_class') AS note,
    CASE WHEN c.relrowsecurity AND c.relforcerowsecurity THEN 'forced' WHEN c.relrowsecurity THEN 'on' ELSE 'off' END AS security
  FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE ${OURS('c.relnamespace')} AND c.relkind IN ('r', 'p') AND NOT c.relispartition ORDER BY c.oid`

const COLUMNS = `SELECT a.attrelid::text AS table, a.attname AS name, format_type(a.atttypid, a.atttypmod) AS type, a.attnotnull AS required,
    a.attidentity <> '' AS generated, a.attgenerated <> '' AS computed, pg_get_expr(d.adbin, d.adrelid) AS default, col_description(a.attrelid, a.attnum) AS note
  FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid LEFT JOIN pg_attrdef d ON d.adrelid = a.attrelid AND d.adnum = a.attnum
  WHERE ${OURS('c.relnamespace')} AND c.relkind IN ('r', 'p') AND a.attnum > 0 AND NOT a.attisdropped
  ORDER BY a.attrelid, a.attnum`

const NAMES_OF = (table: string, columns: string): string =>
  `(SELECT json_agg(a.attname ORDER BY k.at)::text FROM unnest(${columns}) WITH ORDINALITY AS k(attnum, at) JOIN pg_attribute a ON a.attrelid = ${table} AND a.attnum = k.attnum)`

const CONSTRAINTS = `SELECT c.conrelid::text AS table, c.conname AS name, c.contype AS kind, c.confrelid::text AS refers, c.confdeltype AS on_delete, c.confupdtype AS on_update,
    c.convalidated AS validated, c.condeferrable AS deferrable, c.condeferred AS deferred, ${NAMES_OF('c.conrelid', 'c.conkey')} AS columns, ${NAMES_OF('c.confrelid', 'c.confkey')} AS targets,
    CASE WHEN c.contype = 'c' THEN pg_get_expr(c.conbin, c.conrelid) END AS condition
  FROM pg_constraint c WHERE ${OURS('c.connamespace')} AND c.contype IN ('p', 'u', 'f', 'c') AND c.conrelid <> 0 ORDER BY c.oid`

/** References with triggers on both sides that wait for the end, on the columns that the reference is by. */
const MINIMUMS = `SELECT c.conrelid::text AS table, c.conname AS name FROM pg_constraint c
    JOIN pg_trigger own ON own.tgrelid = c.conrelid JOIN pg_trigger its ON its.tgrelid = c.confrelid AND its.tgname = own.tgname
  WHERE ${OURS('c.connamespace')} AND c.contype = 'f' AND own.tgdeferrable AND own.tginitdeferred AND its.tgdeferrable AND its.tginitdeferred
    AND NOT own.tgisinternal AND NOT its.tgisinternal AND own.tgenabled <> 'D' AND its.tgenabled <> 'D' AND own.tgfoid = its.tgfoid
    AND own.tgattr::text = array_to_string(c.conkey, ' ') AND its.tgattr::text = array_to_string(c.confkey, ' ')`

const INDEXES = `SELECT i.indrelid::text AS table, c.relname AS name, i.indisunique AS unique, ${NAMES_OF('i.indrelid', '(i.indkey::int2[])[0:i.indnkeyatts - 1]')} AS columns,
    (SELECT json_agg((o.option & 1) = 1 ORDER BY o.at)::text FROM unnest((i.indoption::int2[])[0:i.indnkeyatts - 1]) WITH ORDINALITY AS o(option, at)) AS descending, pg_get_expr(i.indpred, i.indrelid) AS condition
  FROM pg_index i JOIN pg_class c ON c.oid = i.indexrelid
  WHERE ${OURS('c.relnamespace')} AND NOT EXISTS (SELECT 1 FROM pg_constraint k WHERE k.conindid = i.indexrelid AND k.contype IN ('p', 'u', 'x'))
  ORDER BY c.oid`

/** Triggers that are no constraints, by what runs them and what they run; pg_trigger.tgtype (PostgreSQL manual, 53.59). */
const TRIGGERS = `SELECT t.tgrelid::text AS table, t.tgname AS name, t.tgenabled AS enabled, ${NAMES_OF('t.tgrelid', 't.tgattr::int2[]')} AS columns, p.prosrc AS body,
    CASE WHEN t.tgtype & 64 <> 0 THEN 'INSTEAD OF' WHEN t.tgtype & 2 <> 0 THEN 'BEFORE' ELSE 'AFTER' END AS moment,
    concat_ws(' OR ', CASE WHEN t.tgtype & 4 <> 0 THEN 'INSERT' END, CASE WHEN t.tgtype & 8 <> 0 THEN 'DELETE' END, CASE WHEN t.tgtype & 16 <> 0 THEN 'UPDATE' END) AS events
  FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid JOIN pg_proc p ON p.oid = t.tgfoid
  WHERE ${OURS('c.relnamespace')} AND NOT t.tgisinternal AND t.tgconstraint = 0 ORDER BY t.oid`

const ENUMS = `SELECT t.typname AS name, json_agg(e.enumlabel ORDER BY e.enumsortorder)::text AS values
  FROM pg_type t JOIN pg_enum e ON e.enumtypid = t.oid WHERE ${OURS('t.typnamespace')} GROUP BY t.oid, t.typname ORDER BY t.oid`

const POLICIES = `SELECT p.polrelid::text AS table, p.polname AS name, p.polcmd AS command, (SELECT r.rolname FROM pg_roles r WHERE r.oid = p.polroles[1]) AS role,
    pg_get_expr(coalesce(p.polqual, p.polwithcheck), p.polrelid) AS condition,
    CASE WHEN p.polqual IS NOT NULL THEN pg_get_expr(p.polwithcheck, p.polrelid) END AS writes
  FROM pg_policy p JOIN pg_class c ON c.oid = p.polrelid WHERE ${OURS('c.relnamespace')} ORDER BY p.oid`

/**
 * Reads the tables of the current schema, and of those beside it, back from the catalog. A reference that
 * was not validated is read with that said in its name.
 */
export async function read(query: Query): Promise<Catalog> {
  const tables = new Map<string, CatalogTable>()
  const schemas = new Set<string>()
  for (const { id, name, schema, note, security } of await query(TABLES)) {
    if (schema !== null) schemas.add(String(schema))
    const qualified = qualify(schema === null ? undefined : String(schema), String(name))
    tables.set(String(id), {
      ...bareTable(qualified, qualified),
      note: textOf(note),
      rowSecurity: String(security) as RowSecurity
    })
  }
  for (const row of await query(COLUMNS)) {
    const type = fromPrinted(String(row.type))
    const computed = row.computed === true
    tables.get(String(row.table))?.columns.push({
      id: String(row.name),
      name: String(row.name),
      type: { sql: type },
      required: row.required === true,
      generated: row.generated === true,
      note: textOf(row.note),
      default: computed
        ? undefined
        : fromPrintedDefault(row.default === null ? null : String(row.default), type),
      computed: computed ? [String(row.default)] : undefined
    })
  }
  for (const row of await query(CONSTRAINTS)) {
    const table = tables.get(String(row.table))
    const name = String(row.name) + (row.validated === false ? ' (not validated)' : '')
    if (row.kind === 'c') table?.checks.push({ id: '', name, condition: [String(row.condition)] })
    if (row.kind === 'c') continue
    const key = { id: '', name, columns: namesIn(row.columns) }
    if (row.kind === 'p' && table) table.primaryKey = key
    else if (row.kind === 'u') table?.uniques.push(key)
    else
      table?.foreignKeys.push({
        ...key,
        table: tables.get(String(row.refers))?.name ?? '',
        refersTo: namesIn(row.targets),
        onDelete: ACTION[String(row.on_delete)] ?? 'NO ACTION',
        onUpdate: ACTION[String(row.on_update)] ?? 'NO ACTION',
        ...(row.deferrable === true && {
          deferrable: row.deferred === true ? ('deferred' as const) : ('immediate' as const)
        })
      })
  }
  for (const row of await query(MINIMUMS)) {
    const table = tables.get(String(row.table))
    const held = table?.foreignKeys.find(({ name }) => name === String(row.name))
    if (held) held.atLeastOne = true
  }
  for (const row of await query(INDEXES)) {
    tables.get(String(row.table))?.indexes.push({
      id: '',
      name: String(row.name),
      columns: namesIn(row.columns),
      unique: row.unique === true,
      descending: JSON.parse(String(row.descending)) as boolean[],
      where: row.condition === null ? undefined : [String(row.condition)]
    })
  }
  for (const row of await query(TRIGGERS)) {
    const name = String(row.name)
    const columns = row.columns === null ? [] : namesIn(row.columns)
    const of = columns.length === 0 ? '' : ` OF ${columns.map(quote).join(', ')}`
    const off = row.enabled === 'D' ? ' (switched off)' : ''
    const says = `${name} ${String(row.moment)} ${String(row.events)}${of}${off}\n${String(row.body).trim()}`
    tables.get(String(row.table))?.triggers.push({ id: '', name, column: '', does: { kind: 'found', says } })
  }
  for (const row of await query(POLICIES)) {
    tables.get(String(row.table))?.rowPolicies.push({
      id: '',
      name: String(row.name),
      command: COMMAND[String(row.command)] ?? '',
      role: textOf(row.role),
      condition: [String(row.condition)],
      writes: row.writes === null ? undefined : [String(row.writes)]
    })
  }
  const enums = (await query(ENUMS)).map((row) => ({
    id: '',
    name: String(row.name),
    values: namesIn(row.values)
  }))
  return { schemas: [...schemas].map((name) => ({ id: name, name })), enums, tables: [...tables.values()] }
}

const textOf = (value: unknown): string | undefined =>
  value === null || value === undefined ? undefined : String(value)
const namesIn = (json: unknown): string[] => JSON.parse(String(json)) as string[]

/** What triggers run, by their quoted names. */
const TRIGGER_FUNCTIONS = `SELECT quote_ident(p.proname) AS name FROM pg_proc p
  WHERE p.pronamespace = current_schema()::regnamespace AND p.prorettype = 'trigger'::regtype`

/** Drops every table, trigger, type and further schema that is not the engine's own. */
export async function reset(query: Query): Promise<void> {
  const { tables, enums } = await read(query)
  const here = tables.filter((table) => schemaOf(table.name) === undefined)
  if (here.length > 0) await query(`DROP TABLE ${here.map((table) => quote(table.name)).join(', ')} CASCADE`)
  for (const { name } of await query(TRIGGER_FUNCTIONS))
    await query(`DROP FUNCTION ${String(name)}() CASCADE`)
  for (const { nspname } of await query(
    `SELECT nspname FROM pg_namespace WHERE ${OURS('oid')} AND nspname <> current_schema()`
  ))
    await query(`DROP SCHEMA ${quote(String(nspname))} CASCADE`)
  if (enums.length > 0) await query(`DROP TYPE ${enums.map((each) => quote(each.name)).join(', ')} CASCADE`)
}
