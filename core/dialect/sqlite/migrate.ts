import type { Catalog, CatalogIndex, CatalogTable, Statement } from '../catalog.ts'
import { byId } from '../../design/by-id.ts'
import { NameGiver } from '../../naming/fit.ts'
import { columnById, ownTables, sort, tableById, type Keepsake, type MigrationInput } from '../migration.ts'
import type { Adding } from '../../design/carry.ts'
import { MoveWriter } from '../moves.ts'
import { isShapeStep, type Step } from '../step.ts'
import type { InPlace } from '../survival.ts'
import type { Speech } from '../speech.ts'
import { quoteText } from '../quote.ts'
import { prepare } from './prepare.ts'
import { quote } from './types.ts'
import { createIndexes, createTable } from './write.ts'

/** A table that is made in the course of a migration: new, or anew where `from` is what it was. */
interface Making {
  from: CatalogTable | undefined
  to: CatalogTable
}

/** SQLite changes nothing of a table in place but its indexes (SQLite, "ALTER TABLE"). */
export const inPlace: InPlace = {
  renames: [],
  renamesSchemas: false,
  ordersColumns: true,
  notesInside: false,
  stands: (_what, from, to) =>
    from.name === to.name &&
    from.type.sql === to.type.sql &&
    (from.computed === undefined) === (to.computed === undefined),
  indexesReferences: false,
  referencesFollow: false,
  remakes: () => false,
  addsToList: () => false
}

/**
 * SQLite changes no constraint in place: each table whose definition differs is set aside under a passing
 * name, made anew and filled from there (SQLite, "ALTER TABLE", 7). Its own client goes on after an error,
 * so whatever may fail takes all of it back (ON CONFLICT ROLLBACK); what comes after that finds nothing
 * that was set aside, and so can drop nothing. Foreign keys are off meanwhile, said before the transaction
 * begins, and checked before it ends.
 */
export function migrate(whole: MigrationInput, logical: readonly Step[], speech: Speech): Statement[] {
  const { steps: first, input: given } = prepare(ownTables(whole))
  const known = byId(whole.to.tables)
  const tables = sort(given.from.tables, given.to.tables)
  const makings = tablesToMake(given, logical)
  const aside = new Aside(given, [...tables.gone, ...makings.flatMap((making) => making.from ?? [])])
  const input = { ...given, restore: given.restore.map((each) => aside.keepsake(each)) }
  const indexes = indexSteps(given, logical, makings)
  const moves = writerOf({ ...input, from: withOthers(input.from, whole.from) }, speech, aside)
  const steps = [
    ...first,
    ...indexes.gone.map(({ name }) => ({ sql: `DROP INDEX ${quote(name)}`, says: `drop the index ${name}` })),
    ...input.keep.map((keepsake) => makeKeepsake(keepsake, input.from)),
    ...aside.set(),
    ...makings.map(({ to }) => ({ sql: createTable(to, known), says: `make ${to.name}` })),
    ...moves.results().map(({ name, select }) => ({
      sql: `CREATE TEMP TABLE ${quote(name)} AS\n  ${select}`,
      says: 'work out once what is read more than once'
    })),
    ...makings.flatMap((making) => fill(making, input, moves, aside)),
    ...checkCopies(makings, aside),
    ...input.flow.adds.flatMap((adding) => addRows(adding, input, moves)),
    ...makings.flatMap((making) =>
      input.keep
        .filter((keepsake) => keepsake.table === making.to.id)
        .flatMap((keepsake) => noteNarrowed(keepsake, making))
    ),
    ...aside.drop(),
    ...makings.flatMap(({ to }) => createIndexes(to)),
    ...indexes.made.flatMap(({ table, index }) => createIndexes({ ...table, indexes: [index] })),
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
    {
      sql: 'PRAGMA legacy_alter_table = ON',
      says: 'references stay with the name, not with what is set aside'
    },
    // Not IMMEDIATE: that can fail where another writes, and its client would go on without a transaction.
    { sql: 'BEGIN', says: 'all of it, or nothing' },
    {
      sql: `CREATE TEMP TABLE ${HOLDS.replace('temp.', '')} (yes INTEGER NOT NULL CHECK (yes))`,
      says: 'what must hold before anything goes on'
    },
    ...steps,
    ...checkIndexes(input.to),
    checkReferences(),
    { sql: `DROP TABLE ${HOLDS}`, says: 'it has held' },
    { sql: 'COMMIT', says: 'keep it' },
    { sql: 'PRAGMA legacy_alter_table = OFF', says: 'as it was' },
    { sql: 'PRAGMA foreign_keys = ON', says: 'references are checked again' }
  ]
}

/**
 * What is set aside under passing names until everything has been read: tables that go or are made anew,
 * and the keepsakes that are put back. Only under these names is anything dropped.
 */
class Aside {
  private readonly names = new Map<string, string>()
  private readonly keepsakes = new Map<string, string>()

  constructor(
    input: MigrationInput,
    private readonly tables: readonly CatalogTable[]
  ) {
    const names = new NameGiver(undefined)
    for (const table of [...input.from.tables, ...input.to.tables]) names.give(table.name)
    for (const { name } of [...input.keep, ...input.restore]) names.give(name)
    for (const table of tables) this.names.set(table.id, names.give(`old_${table.name}`))
    for (const { name } of input.restore) this.keepsakes.set(name, names.give(`old_${name}`))
  }

  /** What a table of before is called meanwhile. */
  nameOf(table: CatalogTable): string {
    return this.names.get(table.id) ?? table.name
  }

  keepsake(keepsake: Keepsake): Keepsake {
    return { ...keepsake, name: this.keepsakes.get(keepsake.name) ?? keepsake.name }
  }

  set(): Statement[] {
    const renamed = [
      ...this.tables.map((table): [string, string] => [table.name, this.nameOf(table)]),
      ...this.keepsakes
    ]
    if (renamed.length === 0) return []
    const names = renamed.map(([, to]) => quoteText(to)).join(', ')
    const found = `SELECT count(*) FROM sqlite_schema WHERE type = 'table' AND name IN (${names})`
    return [
      ...renamed.map(([from, to]) => ({
        sql: `ALTER TABLE ${quote(from)} RENAME TO ${quote(to)}`,
        says: `set ${from} aside`
      })),
      check(`(${found}) = ${renamed.length}`, 'see that all of them are')
    ]
  }

  drop(): Statement[] {
    return this.tables.map((table) => ({
      sql: `DROP TABLE ${quote(this.nameOf(table))}`,
      says: `drop the old ${table.name}`
    }))
  }
}

/** The tables that are new, or of which a step changes more than an index. */
function tablesToMake({ from, to }: MigrationInput, steps: readonly Step[]): Making[] {
  const touched = new Set(
    steps.flatMap((step) => {
      const isIndex =
        (step.kind === 'addConstraint' && step.constraint.kind === 'index') ||
        (step.kind === 'dropConstraint' && step.of === 'index')
      return isShapeStep(step) && 'table' in step && typeof step.table === 'string' && !isIndex
        ? [step.table]
        : []
    })
  )
  const before = byId(from.tables)
  return to.tables
    .filter((table) => !before.has(table.id) || touched.has(table.id))
    .map((table) => ({ from: before.get(table.id), to: table }))
}

/** The indexes that go and come where their table stays; those of a table that is made anew go with it. */
function indexSteps(
  { from, to }: MigrationInput,
  steps: readonly Step[],
  makings: readonly Making[]
): { gone: CatalogIndex[]; made: { table: CatalogTable; index: CatalogIndex }[] } {
  const isMade = (id: string): boolean => makings.some((making) => making.to.id === id)
  const [before, after] = [byId(from.tables), byId(to.tables)]
  const gone = steps.flatMap((step) => {
    if (step.kind !== 'dropConstraint' || isMade(step.table) || !after.has(step.table)) return []
    return before.get(step.table)?.indexes.filter(({ id }) => id === step.id) ?? []
  })
  const made = steps.flatMap((step) => {
    const table = 'table' in step && typeof step.table === 'string' ? after.get(step.table) : undefined
    const isIndex = step.kind === 'addConstraint' && step.constraint.kind === 'index'
    return isIndex && table && !isMade(table.id)
      ? [{ table, index: step.constraint.key as CatalogIndex }]
      : []
  })
  return { gone, made }
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
          sql: `UPDATE ${quote(keepsake.name)} SET ${quote(`${id}_became`)} = (SELECT n.${quote(columnById(making.to, id).name)} FROM ${quote(making.to.name)} AS n WHERE ${match})`,
          says: 'keep what the narrowed values became'
        }
      ]
    })
}

/**
 * The rows that a table has to begin with: copied from what it was, or put back from where they were kept.
 */
function fill(making: Making, input: MigrationInput, moves: MoveWriter, aside: Aside): Statement[] {
  const { from, to } = making
  if (from) return [{ sql: copy(from, to, input, moves, aside), says: `copy the rows of ${to.name}` }]
  const keepsake = input.restore.find((each) => each.table === to.id && each.columns.length === 0)
  return keepsake ? [{ sql: refill(to, keepsake), says: `put the kept rows of ${to.name} back` }] : []
}

/**
 * INSERT … SELECT from the old table into the new one: what stays, what is put back, and defaults for what
 * is empty and must not be.
 */
function copy(
  from: CatalogTable,
  to: CatalogTable,
  { restore, flow }: MigrationInput,
  moves: MoveWriter,
  aside: Aside
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
  return `INSERT OR ROLLBACK INTO ${quote(to.name)} (${list(given.map((column) => column.name))})\n  SELECT ${values.join(', ')}\n  FROM ${quote(aside.nameOf(from))} AS o${joins.join('')}`
}

function refill(table: CatalogTable, keepsake: Keepsake): string {
  const given = table.columns.filter((column) => column.computed === undefined)
  return `INSERT OR ROLLBACK INTO ${quote(table.name)} (${list(given.map((column) => column.name))})\n  SELECT ${given.map((column) => quote(column.id)).join(', ')} FROM ${quote(keepsake.name)}`
}

/** Rows that come into a table, new or made anew, or as it stands. */
function addRows(adding: Adding, input: MigrationInput, moves: MoveWriter): Statement[] {
  const target = input.to.tables.find((table) => table.id === adding.table)
  if (!target) return []
  const { columns, select } = moves.adding(adding, target)
  const names = columns.map(({ id }) => columnById(target, id).name)
  const says = `carry rows into ${target.name}`
  return [
    {
      sql: `INSERT OR ROLLBACK INTO ${quote(target.name)} (${list(names)})\n  ${select(false)}`,
      says
    },
    check(
      `EXISTS (SELECT 1 FROM ${quote(target.name)}) OR NOT EXISTS (${select(false).replaceAll('\n', '\n  ')})`,
      says
    )
  ]
}

/** What belongs to another system by then can still be read. */
function withOthers(from: Catalog, whole: Catalog): Catalog {
  const known = byId(from.tables)
  return { ...from, tables: [...from.tables, ...whole.tables.filter(({ id }) => !known.has(id))] }
}

/** Columns are called as they were until everything has been read; tables may have been set aside. */
function writerOf(input: MigrationInput, speech: Speech, aside: Aside): MoveWriter {
  return new MoveWriter(input, speech, {
    table: (id) => aside.nameOf(tableById(input.from, id)),
    column: (id, table) => columnById(table, id).name,
    list: () => '',
    place: quote
  })
}

/** Where conditions are put that must hold. */
const HOLDS = 'temp.must_hold'

/** What fails, and takes everything back, where a condition does not hold. */
function check(condition: string, says: string): Statement {
  return { sql: `INSERT OR ROLLBACK INTO ${HOLDS} SELECT ${condition}`, says }
}

/** Every row that was there is there before anything is dropped. */
function checkCopies(makings: readonly Making[], aside: Aside): Statement[] {
  return makings.flatMap(({ from, to }) => {
    if (!from) return []
    const count = (name: string): string => `(SELECT count(*) FROM ${quote(name)})`
    return [check(`${count(to.name)} = ${count(aside.nameOf(from))}`, `see that ${to.name} has every row`)]
  })
}

/** An index that could not be made stops nothing by itself. */
function checkIndexes({ tables }: Catalog): Statement[] {
  const names = tables.flatMap((table) => table.indexes.map((index) => quoteText(index.name)))
  if (names.length === 0) return []
  const found = `SELECT count(*) FROM sqlite_schema WHERE type = 'index' AND name IN (${names.join(', ')})`
  return [check(`(${found}) = ${names.length}`, 'see that every index is there')]
}

function checkReferences(): Statement {
  return check(
    'NOT EXISTS (SELECT 1 FROM pragma_foreign_key_check)',
    'see that every reference leads somewhere'
  )
}
