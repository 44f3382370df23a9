import type { Catalog, CatalogIndex, CatalogTable, Statement } from '../catalog.ts'
import { fold } from '../../design/directory.ts'
import { NameGiver } from '../../naming/fit.ts'
import { columnById, ownTables, sort, tableById, type Keepsake, type MigrationInput } from '../migration.ts'
import { prepare, type PrepareWords } from '../prepare.ts'
import type { Adding } from '../../design/carry.ts'
import { MoveWriter } from '../moves.ts'
import type { Speech } from '../speech.ts'
import { quote } from './types.ts'
import { createIndexes, createTable, indexText } from './write.ts'

/**
 * A table that is made in the course of a migration: new, or anew where `from` is what it was. `name`:
 * what it is called until the old ones are gone.
 */
interface Making {
  from: CatalogTable | undefined
  to: CatalogTable
  name: string
}

/**
 * SQLite changes no constraint in place: each table whose definition differs is made anew under a
 * passing name, filled, and takes the old one's place (SQLite, "ALTER TABLE", 7). Foreign keys are off
 * meanwhile, said before the transaction begins, and checked before it ends; the check is a statement
 * that fails, so that the script stops wherever it is run.
 */
export function migrate(whole: MigrationInput, speech: Speech): Statement[] {
  const { steps: first, input } = prepare(ownTables(whole), prepareWords)
  const tables = sort(input.from.tables, input.to.tables)
  const makings = tablesToMake(input)
  const moves = writerOf(input, speech)
  const standing = tables.kept.filter((pair) => !makings.some((making) => making.to === pair.to))
  const steps = [
    ...first,
    ...standing.flatMap(({ from, to }) =>
      from.indexes
        .filter((index) => !hasIndex(to, from, index))
        .map((index) => ({ sql: `DROP INDEX ${quote(index.name)}`, says: `drop an index of ${from.name}` }))
    ),
    ...input.keep.map((keepsake) => makeKeepsake(keepsake, input.from)),
    ...makings.map(({ to, name }) => ({
      sql: createTable(to, name),
      says: `make ${to.name}${name === to.name ? '' : ' under a passing name'}`
    })),
    ...moves.results().map(({ name, select }) => ({
      sql: `CREATE TEMP TABLE ${quote(name)} AS\n  ${select}`,
      says: 'work out once what is read more than once'
    })),
    ...makings.flatMap((making) => fill(making, input, moves)),
    ...input.flow.adds.flatMap((adding) => addRows(adding, input, makings, moves)),
    ...makings.flatMap((making) =>
      input.keep
        .filter((keepsake) => keepsake.table === making.to.id)
        .flatMap((keepsake) => noteNarrowed(keepsake, making))
    ),
    ...[...tables.gone, ...makings.flatMap((making) => making.from ?? [])].map((table) => ({
      sql: `DROP TABLE ${quote(table.name)}`,
      says: `drop the old ${table.name}`
    })),
    ...makings
      .filter(({ to, name }) => name !== to.name)
      .map(({ to, name }) => ({
        sql: `ALTER TABLE ${quote(name)} RENAME TO ${quote(to.name)}`,
        says: `put the new ${to.name} in its place`
      })),
    ...makings.flatMap(({ to }) => createIndexes(to)),
    ...standing.flatMap(({ from, to }) =>
      createIndexes({ ...to, indexes: to.indexes.filter((index) => !hasIndex(from, to, index)) })
    ),
    ...moves.results().map(({ name }) => ({
      sql: `DROP TABLE temp.${quote(name)}`,
      says: 'what was worked out is in its place'
    })),
    ...input.restore.map((keepsake) => ({
      sql: `DROP TABLE ${quote(keepsake.name)}`,
      says: `drop the keepsake ${keepsake.name}`
    }))
  ]
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

/** SQLite numbers every row of a table; a table can have a column of the name that the number goes by. */
const ROW_NUMBERS = ['rowid', 'oid', '_rowid_']

const prepareWords: PrepareWords = {
  quote,
  place: quote,
  nameLimit: undefined,
  count(table, column) {
    const row = ROW_NUMBERS.find((name) => !table.columns.some((each) => fold(each.name) === name)) ?? 'rowid'
    const [place, name] = [quote(table.name), quote(column.name)]
    return {
      as: { ...column, required: false, generated: false },
      statements: [
        {
          sql: `ALTER TABLE ${place} ADD COLUMN ${name} ${column.type}`,
          says: `add ${column.name} to ${table.name}`
        },
        {
          sql: `UPDATE ${place} AS own SET ${name} = counted.n\n  FROM (SELECT ${row} AS r, row_number() OVER (ORDER BY ${row}) AS n FROM ${place}) AS counted\n  WHERE counted.r = own.${row}`,
          says: `count ${column.name} of ${table.name}`
        }
      ]
    }
  }
}

/** The tables that are new or whose definition differs; a passing name where theirs is still in use. */
function tablesToMake({ from, to }: MigrationInput): Making[] {
  const names = new NameGiver(undefined)
  for (const table of [...from.tables, ...to.tables]) names.give(table.name)
  const inUse = new Set(from.tables.map((table) => fold(table.name)))
  return to.tables.flatMap((table): Making[] => {
    const before = from.tables.find((each) => each.id === table.id)
    if (before && isSame(before, table)) return []
    return [
      {
        from: before,
        to: table,
        name: before || inUse.has(fold(table.name)) ? names.give(`new_${table.name}`) : table.name
      }
    ]
  })
}

/** Whether a table stays as it is: its definition, and which column is which. */
function isSame(before: CatalogTable, after: CatalogTable): boolean {
  const ids = (table: CatalogTable): string => table.columns.map(({ id }) => id).join()
  return ids(before) === ids(after) && createTable(before) === createTable(after)
}

function hasIndex(table: CatalogTable, of: CatalogTable, index: CatalogIndex): boolean {
  return table.indexes.some((other) => indexText(of, other) === indexText(of, index))
}

const list = (names: readonly string[]): string => names.map(quote).join(', ')

/** The columns of a keepsake are called by their ids, since names may change meanwhile. */
function makeKeepsake(keepsake: Keepsake, from: Catalog): Statement {
  const table = tableById(from, keepsake.table)
  const wanted =
    keepsake.columns.length === 0
      ? table.columns
      : [...keepsake.key, ...keepsake.columns.map((each) => each.id)].map((id) => columnById(table, id))
  return {
    sql: `CREATE TABLE ${quote(keepsake.name)} AS SELECT ${wanted.map((column) => `${quote(column.name)} AS ${quote(column.id)}`).join(', ')} FROM ${quote(table.name)}`,
    says:
      keepsake.columns.length === 0
        ? `keep the rows of ${table.name}`
        : `keep ${keepsake.columns.map((each) => each.name).join(', ')} of ${table.name}`
  }
}

function noteNarrowed(keepsake: Keepsake, making: Making): Statement[] {
  return keepsake.columns
    .filter((each) => each.why === 'narrowed')
    .flatMap(({ id }) => {
      const match = keepsake.key
        .map((key) => `n.${quote(columnById(making.to, key).name)} = ${quote(keepsake.name)}.${quote(key)}`)
        .join(' AND ')
      return [
        {
          sql: `ALTER TABLE ${quote(keepsake.name)} ADD COLUMN ${quote(`${id}_became`)}`,
          says: 'keep what the narrowed values became'
        },
        {
          sql: `UPDATE ${quote(keepsake.name)} SET ${quote(`${id}_became`)} = (SELECT n.${quote(columnById(making.to, id).name)} FROM ${quote(making.name)} AS n WHERE ${match})`,
          says: 'keep what the narrowed values became'
        }
      ]
    })
}

/**
 * The rows that a table has to begin with: copied from what it was, or put back from where they were kept.
 */
function fill(making: Making, input: MigrationInput, moves: MoveWriter): Statement[] {
  const { from, to, name } = making
  const { restore } = input
  if (from) return [{ sql: copy(from, to, name, input, moves), says: `copy the rows of ${to.name}` }]
  const keepsake = restore.find((each) => each.table === to.id && each.columns.length === 0)
  return keepsake ? [{ sql: refill(to, name, keepsake), says: `put the kept rows of ${to.name} back` }] : []
}

/**
 * INSERT … SELECT from the old table into the new one: what stays, what is put back, and defaults for what
 * is empty and must not be.
 */
function copy(
  from: CatalogTable,
  to: CatalogTable,
  name: string,
  { restore, flow }: MigrationInput,
  moves: MoveWriter
): string {
  const own = (id: string): string => `o.${quote(columnById(from, id).name)}`
  const fills = flow.fills
    .filter((each) => each.table === to.id)
    .map((each, at) => ({ fill: each, alias: `f${at + 1}`, ...moves.source(each, `f${at + 1}`) }))
  const keepsakes = restore.filter((each) => each.table === to.id && each.columns.length > 0)
  const given = to.columns.filter((column) => column.computed === undefined)
  const values = given.map((column) => {
    const old = from.columns.find((each) => each.id === column.id)
    const keepsake = keepsakes.find((each) => each.columns.some((kept) => kept.id === column.id))
    const kept = keepsake && `${quote(keepsake.name)}.${quote(column.id)}`
    const had = old && `o.${quote(old.name)}`
    const filled = fills.flatMap(({ fill: each, column: source }) =>
      each.columns.filter(({ id }) => id === column.id).map((taken) => source(taken.from).sql)
    )[0]
    let value = had ?? filled ?? kept ?? column.default ?? 'NULL'
    if (had && kept && keepsake.columns.some((each) => each.id === column.id && each.why === 'narrowed'))
      value = `CASE WHEN ${quote(keepsake.name)}.${quote(keepsake.key[0] as string)} IS NOT NULL AND ${had} IS ${quote(keepsake.name)}.${quote(`${column.id}_became`)} THEN ${kept} ELSE ${had} END`
    return column.required && !old?.required && column.default !== undefined && value !== column.default
      ? `coalesce(${value}, ${column.default})`
      : value
  })
  const joins = keepsakes.map((keepsake) => {
    const on = keepsake.key
      .map((id) => `${quote(keepsake.name)}.${quote(id)} = o.${quote(columnById(from, id).name)}`)
      .join(' AND ')
    return ` LEFT JOIN ${quote(keepsake.name)} ON ${on}`
  })
  for (const { fill: each, sql, column } of fills) {
    const on = moves.agreed(each, own, (id) => column(id).sql)
    joins.push(`\n  LEFT JOIN ${sql} ON ${on}`)
  }
  return `INSERT INTO ${quote(name)} (${list(given.map((column) => column.name))})\n  SELECT ${values.join(', ')}\n  FROM ${quote(from.name)} AS o${joins.join('')}`
}

function refill(table: CatalogTable, name: string, keepsake: Keepsake): string {
  const given = table.columns.filter((column) => column.computed === undefined)
  return `INSERT INTO ${quote(name)} (${list(given.map((column) => column.name))})\n  SELECT ${given.map((column) => quote(column.id)).join(', ')} FROM ${quote(keepsake.name)}`
}

/** Rows that come into a table, new or made anew, or as it stands. */
function addRows(
  adding: Adding,
  input: MigrationInput,
  makings: readonly Making[],
  moves: MoveWriter
): Statement[] {
  const target = input.to.tables.find((table) => table.id === adding.table)
  if (!target) return []
  const { columns, select } = moves.adding(adding, target)
  const name = makings.find((making) => making.to === target)?.name ?? target.name
  const names = columns.map(({ id }) => columnById(target, id).name)
  return [
    {
      sql: `INSERT INTO ${quote(name)} (${list(names)})\n  ${select(false)}`,
      says: `carry rows into ${target.name}`
    }
  ]
}

/** Nothing is renamed before everything has been read: tables and columns are called as they were. */
function writerOf(input: MigrationInput, speech: Speech): MoveWriter {
  return new MoveWriter(input, speech, {
    table: (id) => tableById(input.from, id).name,
    column: (id, table) => columnById(table, id).name,
    list: () => '',
    place: quote
  })
}

function checkReferences(): Statement[] {
  return [
    {
      sql: 'CREATE TEMP TABLE rows_without_what_they_refer_to (count INTEGER CHECK (count = 0))',
      says: 'check every reference'
    },
    {
      sql: 'INSERT INTO rows_without_what_they_refer_to SELECT count(*) FROM pragma_foreign_key_check',
      says: 'check every reference'
    },
    { sql: 'DROP TABLE rows_without_what_they_refer_to', says: 'check every reference' }
  ]
}
