import type { Catalog, CatalogTable, Statement } from '../catalog.ts'
import { fold } from '../../design/lookup.ts'
import { NameGiver } from '../names.ts'
import { columnById, sort, tableById, type CarryStep, type Keepsake, type MigrationInput, type Pair } from '../migration.ts'
import { createIndexes, createTable, quote } from './write.ts'
import { sqliteLiteral } from './types.ts'

interface Rebuild extends Pair<CatalogTable> { temporary: string }

/**
 * SQLite changes no constraint in place: each table whose definition differs is made anew under a
 * passing name, filled, and takes the old one's place (SQLite, "ALTER TABLE", 7). Foreign keys are off
 * meanwhile, said before the transaction begins, and checked before it ends; the check is a statement
 * that fails, so that the script stops wherever it is run.
 */
export function migrate(input: MigrationInput): Statement[] {
  const { from, to } = input
  const tables = sort(from.tables, to.tables)
  const names = new NameGiver(undefined)
  const taken = new Set(from.tables.map((table) => fold(table.name)))
  for (const table of [...from.tables, ...to.tables]) names.give(table.name)
  const changed = tables.kept.filter((pair) => createTable(pair.from) !== createTable(pair.to))
  const rebuilds = changed.map((pair): Rebuild => ({ ...pair, temporary: names.give(`new_${pair.to.name}`) }))
  const made = tables.made.map((table) => ({ table, temporary: taken.has(fold(table.name)) ? names.give(`new_${table.name}`) : table.name }))
  const temporary = new Map([...rebuilds.map((each): [string, string] => [each.to.id, each.temporary]), ...made.map((each): [string, string] => [each.table.id, each.temporary])])
  const steps: Statement[] = []
  const add = (sql: string, says: string): void => void steps.push({ sql, says })

  for (const { from: old } of tables.kept) for (const index of old.indexes) if (indexGoes(from, to, old, index.name)) add(`DROP INDEX ${quote(index.name)}`, `drop an index of ${old.name}`)
  for (const keepsake of input.keep) steps.push(...makeKeepsake(keepsake, from))
  for (const each of [...made.map(({ table, temporary: name }) => ({ to: table, name })), ...rebuilds.map((r) => ({ to: r.to, name: r.temporary }))]) {
    add(createTable(each.to, each.name), `make ${each.to.name}${each.name === each.to.name ? '' : ' under a passing name'}`)
  }
  for (const each of rebuilds) add(copy(each, input.restore), `copy the rows of ${each.to.name}`)
  for (const { table, temporary: name } of made) {
    const keepsake = input.restore.find((each) => each.table === table.id && each.columns.length === 0)
    if (keepsake) add(refill(table, name, keepsake), `put the kept rows of ${table.name} back`)
  }
  for (const carry of input.carries) steps.push(carryRows(carry, input, temporary))
  for (const each of rebuilds) for (const keepsake of input.keep.filter((k) => k.table === each.to.id)) steps.push(...noteNarrowed(keepsake, each))
  for (const table of [...tables.gone, ...rebuilds.map((each) => each.from)]) add(`DROP TABLE ${quote(table.name)}`, `drop the old ${table.name}`)
  for (const [id, name] of temporary) {
    const { name: final } = tableById(to, id)
    if (name !== final) add(`ALTER TABLE ${quote(name)} RENAME TO ${quote(final)}`, `put the new ${final} in its place`)
  }
  for (const table of to.tables) {
    for (const [at, index] of table.indexes.entries()) {
      const statement = createIndexes(table)[at]
      const before = from.tables.find((each) => each.id === table.id)
      const stays = before && !temporary.has(table.id) && !indexGoes(from, to, before, index.name) && before.indexes.some((each) => each.name === index.name)
      if (!stays && statement) steps.push(statement)
    }
  }
  for (const keepsake of input.restore) add(`DROP TABLE ${quote(keepsake.name)}`, `drop the keepsake ${keepsake.name}`)
  if (steps.length === 0) return []
  return [
    { sql: 'PRAGMA foreign_keys = OFF', says: 'references are checked at the end instead' },
    { sql: 'BEGIN IMMEDIATE', says: 'all of it, or nothing' },
    ...steps,
    ...checkReferences(),
    { sql: 'COMMIT', says: 'keep it' },
    { sql: 'PRAGMA foreign_keys = ON', says: 'references are checked again' }
  ]
}

/** An index goes with its table when that is made anew; else it goes where the new catalog has none of its name and columns. */
function indexGoes(from: Catalog, to: Catalog, old: CatalogTable, name: string): boolean {
  const table = to.tables.find((each) => each.id === old.id)
  const index = old.indexes.find((each) => each.name === name)
  if (!table || !index || !from.tables.includes(old)) return false
  const same = table.indexes.find((each) => each.name === name)
  return !same || same.columns.join('\0') !== index.columns.join('\0') || old.name !== table.name
}

const list = (names: readonly string[]): string => names.map(quote).join(', ')

/** The columns of a keepsake are called by their ids, since names may change meanwhile. */
function makeKeepsake(keepsake: Keepsake, from: Catalog): Statement[] {
  const table = tableById(from, keepsake.table)
  const wanted = keepsake.columns.length === 0 ? table.columns : [...keepsake.key, ...keepsake.columns.map((each) => each.id)].map((id) => columnById(table, id))
  return [{
    sql: `CREATE TABLE ${quote(keepsake.name)} AS SELECT ${wanted.map((column) => `${quote(column.name)} AS ${quote(column.id)}`).join(', ')} FROM ${quote(table.name)}`,
    says: keepsake.columns.length === 0 ? `keep the rows of ${table.name}` : `keep ${keepsake.columns.map((each) => each.name).join(', ')} of ${table.name}`
  }]
}

function noteNarrowed(keepsake: Keepsake, rebuild: Rebuild): Statement[] {
  return keepsake.columns.filter((each) => each.why === 'narrowed').flatMap(({ id }) => {
    const match = keepsake.key.map((key) => `n.${quote(columnById(rebuild.to, key).name)} = ${quote(keepsake.name)}.${quote(key)}`).join(' AND ')
    return [
      { sql: `ALTER TABLE ${quote(keepsake.name)} ADD COLUMN ${quote(`${id}_became`)}`, says: 'keep what the narrowed values became' },
      { sql: `UPDATE ${quote(keepsake.name)} SET ${quote(`${id}_became`)} = (SELECT n.${quote(columnById(rebuild.to, id).name)} FROM ${quote(rebuild.temporary)} AS n WHERE ${match})`, says: 'keep what the narrowed values became' }
    ]
  })
}

/** INSERT … SELECT from the old table into the new one: what stays, what is put back, and defaults for what is empty and must not be. */
function copy({ from, to, temporary }: Rebuild, restore: readonly Keepsake[]): string {
  const keepsakes = restore.filter((each) => each.table === to.id && each.columns.length > 0)
  const values = to.columns.map((column) => {
    const old = from.columns.find((each) => each.id === column.id)
    const keepsake = keepsakes.find((each) => each.columns.some((kept) => kept.id === column.id))
    const kept = keepsake && `${quote(keepsake.name)}.${quote(column.id)}`
    const own = old && `o.${quote(old.name)}`
    let value = own ?? kept ?? column.default ?? 'NULL'
    if (own && kept) value = `CASE WHEN ${quote(keepsake.name)}.${quote(keepsake.key[0] as string)} IS NOT NULL AND ${own} IS ${quote(keepsake.name)}.${quote(`${column.id}_became`)} THEN ${kept} ELSE ${own} END`
    return column.required && !old?.required && column.default !== undefined && value !== column.default ? `coalesce(${value}, ${column.default})` : value
  })
  const joins = keepsakes.map((keepsake) => {
    const on = keepsake.key.map((id) => `${quote(keepsake.name)}.${quote(id)} = o.${quote(columnById(from, id).name)}`).join(' AND ')
    return ` LEFT JOIN ${quote(keepsake.name)} ON ${on}`
  })
  return `INSERT INTO ${quote(temporary)} (${list(to.columns.map((column) => column.name))})\n  SELECT ${values.join(', ')}\n  FROM ${quote(from.name)} AS o${joins.join('')}`
}

function refill(table: CatalogTable, name: string, keepsake: Keepsake): string {
  return `INSERT INTO ${quote(name)} (${list(table.columns.map((column) => column.name))})\n  SELECT ${table.columns.map((column) => quote(column.id)).join(', ')} FROM ${quote(keepsake.name)}`
}

function carryRows(carry: CarryStep, input: MigrationInput, temporary: ReadonlyMap<string, string>): Statement {
  const source = tableById(input.from, carry.source)
  const target = tableById(input.to, carry.target)
  const values = carry.columns.map((each) => ('from' in each ? quote(columnById(source, each.from).name) : sqliteLiteral(each.value, each.type)))
  const where = carry.where.map((id) => `${quote(columnById(source, id).name)} IS NOT NULL`).join(' AND ')
  return {
    sql: `INSERT INTO ${quote(temporary.get(target.id) ?? target.name)} (${list(carry.columns.map((each) => columnById(target, each.to).name))})\n  SELECT ${values.join(', ')} FROM ${quote(source.name)}${where && ` WHERE ${where}`}`,
    says: `carry rows of ${source.name} into ${target.name}`
  }
}

function checkReferences(): Statement[] {
  return [
    { sql: 'CREATE TEMP TABLE rows_without_what_they_refer_to (count INTEGER CHECK (count = 0))', says: 'check every reference' },
    { sql: 'INSERT INTO rows_without_what_they_refer_to SELECT count(*) FROM pragma_foreign_key_check', says: 'check every reference' },
    { sql: 'DROP TABLE rows_without_what_they_refer_to', says: 'check every reference' }
  ]
}

