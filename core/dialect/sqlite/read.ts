import type { Action, Deferrable } from '../../design/model.ts'
import { tokens, type Token } from '../../sql/lexer.ts'
import { bareTable, type Catalog, type CatalogTable } from '../catalog.ts'
import type { Query } from '../dialect.ts'
import { quoteText } from '../quote.ts'
import type { Written } from '../written.ts'
import { quote } from './types.ts'

/**
 * Reads a database's tables back, by the pragmas SQLite has for it. The names of constraints stand only
 * in the text of CREATE TABLE, which is read for them.
 */
export async function read(query: Query): Promise<Catalog> {
  const tables = await query(
    "SELECT name, sql FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY rowid"
  )
  const found: CatalogTable[] = []
  for (const { name, sql } of tables) found.push(await readTable(query, String(name), String(sql)))
  return { schemas: [], enums: [], tables: found }
}

async function readTable(query: Query, name: string, sql: string): Promise<CatalogTable> {
  const columns = await query(
    `SELECT name, type, "notnull" AS required, dflt_value, pk, hidden FROM pragma_table_xinfo(${quoteText(name)}) ORDER BY cid`
  )
  const references = await query(
    `SELECT id, "table", "from", "to", on_update, on_delete FROM pragma_foreign_key_list(${quoteText(name)}) ORDER BY id, seq`
  )
  const indexes = await query(
    `SELECT name, origin, "unique" AS is_unique FROM pragma_index_list(${quoteText(name)}) ORDER BY seq DESC`
  )
  const constraints = constraintNames(sql)
  const computed = computedColumns(sql)
  const constraint = (kind: string, keyColumns: readonly string[]): NamedConstraint | undefined =>
    constraints.find((each) => each.kind === kind && each.columns.join('\0') === keyColumns.join('\0'))
  const named = (kind: string, keyColumns: readonly string[]): string =>
    constraint(kind, keyColumns)?.name ?? ''
  const keyColumns = columns
    .filter((column) => Number(column.pk) > 0)
    .sort((a, b) => Number(a.pk) - Number(b.pk))
    .map((column) => String(column.name))
  const counted = tokens(sql).some((token) => token.word === 'AUTOINCREMENT')
  const table: CatalogTable = {
    ...bareTable(name, name),
    checks: checksIn(sql),
    columns: columns.map((column) => ({
      id: String(column.name),
      name: String(column.name),
      type: { sql: String(column.type) },
      required: Number(column.required) === 1,
      default: column.dflt_value === null ? undefined : String(column.dflt_value),
      generated: counted && Number(column.pk) === 1,
      // Hidden 2 and 3 are computed columns (SQLite, "PRAGMA table_xinfo").
      computed: Number(column.hidden) >= 2 ? [computed.get(String(column.name)) ?? ''] : undefined,
      note: undefined
    })),
    primaryKey:
      keyColumns.length > 0 ? { id: '', name: named('PRIMARY', keyColumns), columns: keyColumns } : undefined
  }
  const triggers = await query(
    `SELECT name, sql FROM sqlite_schema WHERE type = 'trigger' AND tbl_name = ${quoteText(name)} ORDER BY rowid`
  )
  for (const trigger of triggers) {
    const does = { kind: 'found' as const, says: String(trigger.sql) }
    table.triggers.push({ id: '', name: String(trigger.name), column: '', does })
  }
  for (const index of indexes) {
    if (index.origin === 'pk') continue
    const places = await query(
      `SELECT name, "desc" AS descending FROM pragma_index_xinfo(${quoteText(String(index.name))}) WHERE key = 1 ORDER BY seqno`
    )
    const worked = await workedOutIn(query, String(index.name))
    const own = places.map(({ name }, at) => (name === null ? (worked[at] ?? '') : String(name)))
    if (index.origin === 'u') table.uniques.push({ id: '', name: named('UNIQUE', own), columns: own })
    else
      table.indexes.push({
        id: '',
        name: String(index.name),
        columns: own,
        unique: Number(index.is_unique) === 1,
        descending: places.map((column) => Number(column.descending) === 1),
        where: await conditionOf(query, String(index.name))
      })
  }
  for (const id of new Set(references.map((row) => row.id))) {
    const group = references.filter((row) => row.id === id)
    const [first] = group
    const own = group.map((row) => String(row.from))
    // Without columns, a reference is to the primary key.
    const isPlain = group.some((row) => row.to === null)
    const targets = isPlain
      ? await primaryKeyOf(query, String(first?.table))
      : group.map((row) => String(row.to))
    const deferrable = constraint('FOREIGN', own)?.deferrable
    table.foreignKeys.push({
      id: '',
      name: named('FOREIGN', own),
      columns: own,
      table: String(first?.table),
      refersTo: targets,
      onDelete: String(first?.on_delete) as Action,
      onUpdate: String(first?.on_update) as Action,
      ...(deferrable && { deferrable })
    })
  }
  return table
}

async function primaryKeyOf(query: Query, table: string): Promise<string[]> {
  const columns = await query(
    `SELECT name FROM pragma_table_xinfo(${quoteText(table)}) WHERE pk > 0 ORDER BY pk`
  )
  return columns.map(({ name }) => String(name))
}

/** The places of an index as they are written, which is all that there is of what is worked out in it. */
async function workedOutIn(query: Query, index: string): Promise<string[]> {
  const [row] = await query(
    `SELECT sql FROM sqlite_schema WHERE type = 'index' AND name = ${quoteText(index)}`
  )
  const sql = String(row?.sql ?? '')
  const all = tokens(sql)
  const open = all.findIndex(({ word }) => word === '(')
  return open < 0 ? [] : partsOf(inside(sql, all, open)).map((part) => part.replace(/\s+(asc|desc)$/i, ''))
}

/** The parts of a list, between commas that stand in no parentheses of their own. */
function partsOf(list: string): string[] {
  const parts: string[] = []
  let depth = 0
  let start = 0
  for (const { word, at } of tokens(list)) {
    if (word === '(') depth++
    if (word === ')') depth--
    if (word !== ',' || depth > 0) continue
    parts.push(list.slice(start, at).trim())
    start = at + 1
  }
  return [...parts, list.slice(start).trim()]
}

/** The condition of an index on some of the rows stands only in its text. */
async function conditionOf(query: Query, index: string): Promise<Written | undefined> {
  const [row] = await query(
    `SELECT sql FROM sqlite_schema WHERE type = 'index' AND name = ${quoteText(index)}`
  )
  const sql = String(row?.sql ?? '')
  const where = tokens(sql).find((token) => token.word === 'WHERE')
  return where && [sql.slice(where.at + 'WHERE'.length).trim()]
}

/** What stands between the parenthesis at the place and the one that closes it. */
function inside(sql: string, all: readonly Token[], open: number): string {
  let depth = 0
  for (let at = open; at < all.length; at++) {
    const token = all[at] as Token
    if (token.word === '(') depth++
    if (token.word === ')' && --depth === 0) return sql.slice((all[open] as Token).at + 1, token.at)
  }
  return ''
}

function checksIn(sql: string): CatalogTable['checks'] {
  const all = tokens(sql)
  return all.flatMap((token, at) => {
    if (token.kind !== 'word' || token.word !== 'CHECK' || all[at + 1]?.word !== '(') return []
    const isNamed = all[at - 2]?.word === 'CONSTRAINT'
    return [{ id: '', name: isNamed ? (all[at - 1]?.text ?? '') : '', condition: [inside(sql, all, at + 1)] }]
  })
}

/** What each computed column is worked out from, by its name. */
function computedColumns(sql: string): Map<string, string> {
  const all = tokens(sql)
  const found = new Map<string, string>()
  let depth = 0
  let column = ''
  all.forEach((token, at) => {
    if (token.word === '(') depth++
    if (token.word === ')') depth--
    if (depth === 1 && (token.word === '(' || token.word === ',')) column = all[at + 1]?.text ?? ''
    if (depth === 1 && token.word === 'GENERATED' && all[at + 1]?.word === 'ALWAYS')
      found.set(column, inside(sql, all, at + 3))
  })
  return found
}

interface NamedConstraint {
  name: string
  kind: string
  columns: string[]
  deferrable: Deferrable | undefined
}

/** The constraints that have a name in a CREATE TABLE: kind (PRIMARY, UNIQUE, FOREIGN) and columns. */
export function constraintNames(sql: string): NamedConstraint[] {
  const found: NamedConstraint[] = []
  const all = tokens(sql)
  let depth = 0
  let column = ''
  for (let at = 0; at < all.length; at++) {
    const token = all[at] as Token
    if (token.word === '(') depth++
    if (token.word === ')') depth--
    if (depth === 1 && (token.word === '(' || token.word === ',')) column = all[at + 1]?.text ?? ''
    if (depth !== 1 || token.word !== 'CONSTRAINT') continue
    const kind = all[at + 2]?.word ?? ''
    const open = at + (kind === 'UNIQUE' ? 3 : 4)
    const columns: string[] = []
    if (all[open]?.word === '(')
      for (let i = open + 1; all[i] && all[i]?.word !== ')'; i++)
        if (all[i]?.word !== ',') columns.push((all[i] as Token).text)
    found.push({
      name: all[at + 1]?.text ?? '',
      kind,
      columns: columns.length > 0 ? columns : [column],
      deferrable: deferrableIn(restOf(all, open).map(({ word }) => word))
    })
  }
  return found
}

/** `NOT DEFERRABLE` is as if nothing were said (SQLite, "CREATE TABLE", foreign-key-clause). */
function deferrableIn(words: readonly string[]): Deferrable | undefined {
  const at = words.indexOf('DEFERRABLE')
  if (at < 0 || words[at - 1] === 'NOT') return undefined
  return words.includes('DEFERRED') ? 'deferred' : 'immediate'
}

/** What stands from a place to where the part of the list ends that it is in. */
function restOf(all: readonly Token[], from: number): Token[] {
  let depth = 0
  const end = all.findIndex(({ word }, at) => {
    if (at < from) return false
    if (word === '(') depth++
    if (word === ')') depth--
    return depth < 0 || (depth === 0 && word === ',')
  })
  return all.slice(from, end < 0 ? undefined : end)
}

/** Drops every table; references must not hold it up. */
export async function reset(query: Query): Promise<void> {
  await query('PRAGMA foreign_keys = OFF')
  for (const { name } of await query(
    "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\'"
  )) {
    await query(`DROP TABLE ${quote(String(name))}`)
  }
  await query('PRAGMA foreign_keys = ON')
}
