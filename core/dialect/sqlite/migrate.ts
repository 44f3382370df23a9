import { indented } from '../indent.ts'
import { byId } from '../../design/by-id.ts'
import { fold } from '../../design/directory.ts'
import { NameGiver } from '../../naming/fit.ts'
import type { Catalog, CatalogColumn, CatalogTable, CatalogType, Statement } from '../catalog.ts'
import { NOTHING_AROUND, type ScriptLine } from '../chain.ts'
import { sort, type MigrationInput } from '../migration.ts'
import { quoteText } from '../quote.ts'
import type { Speech } from '../speech.ts'
import { isShapeStep, type ConstraintKind, type ShapeStep, type Step } from '../step.ts'
import { StepWriter, type RowId, type DraftStatement, type Update } from '../step-writer.ts'
import type { InPlace } from '../survival.ts'
import { converted, holdsValue } from './convert.ts'
import { createTrigger, dropTrigger, triggerNames } from './trigger.ts'
import { quote } from './types.ts'
import { createIndexes, createTable } from './write.ts'

/** SQLite changes nothing of a table in place but its indexes (SQLite, "ALTER TABLE"). */
export const inPlace: InPlace = {
  renames: [],
  renamesSchemas: false,
  namesAreOwn: true,
  ordersColumns: true,
  notesInside: false,
  stands: (_what, from, to) =>
    from.name === to.name &&
    from.type.sql === to.type.sql &&
    (from.computed === undefined) === (to.computed === undefined),
  indexesReferences: false,
  referencesFollow: false,
  keysLater: false,
  remakes: () => false,
  addsToList: () => false
}

/**
 * Each table whose definition differs is set aside under a passing name, gets its new columns there, is made
 * anew and filled from there (SQLite, "ALTER TABLE", 7). The engine's own client goes on after an error, so
 * whatever may fail takes all of it back (ON CONFLICT ROLLBACK); what comes after that finds nothing that was
 * set aside, and so can drop nothing. Foreign keys are off meanwhile, said before the transaction begins, and
 * checked before it ends.
 */
export function migrate(
  input: MigrationInput,
  steps: readonly Step[],
  speech: Speech,
  around = NOTHING_AROUND
): ScriptLine[] {
  if (steps.length + around.first.length === 0) return []
  const aside = new Aside(input, tablesMadeAnew(input, steps))
  return [
    { sql: 'PRAGMA foreign_keys = OFF', says: 'references are checked at the end instead' },
    {
      sql: 'PRAGMA legacy_alter_table = ON',
      says: 'references stay with the name, not with what is set aside'
    },
    // Not IMMEDIATE: that can fail where another writes, and its client would go on without a transaction.
    { sql: 'BEGIN', says: 'all of it, or nothing' },
    MUST_HOLD,
    ...around.first,
    ...new Writer(input, aside, speech).write(steps),
    ...around.last,
    ...checkBeside(input.to),
    check('NOT EXISTS (SELECT 1 FROM pragma_foreign_key_check)', 'see that every reference leads somewhere'),
    HAS_HELD,
    { sql: 'COMMIT', says: 'keep it' },
    { sql: 'PRAGMA legacy_alter_table = OFF', says: 'as it was' },
    { sql: 'PRAGMA foreign_keys = ON', says: 'references are checked again' }
  ]
}

/** The tables that stay and of which a step changes more than an index or a trigger. */
function tablesMadeAnew({ from, to }: MigrationInput, steps: readonly Step[]): Set<string> {
  const isBeside = (kind: ConstraintKind): boolean => kind === 'index' || kind === 'trigger'
  const stands = (step: ShapeStep): boolean =>
    (step.kind === 'addConstraint' && isBeside(step.constraint.kind)) ||
    (step.kind === 'dropConstraint' && isBeside(step.of))
  const touched = steps.flatMap((step) => {
    const isOf = isShapeStep(step) && 'table' in step && typeof step.table === 'string'
    return isOf && !stands(step) ? [step.table as string] : []
  })
  const [before, after] = [byId(from.tables), byId(to.tables)]
  return new Set(touched.filter((id) => before.has(id) && after.has(id)))
}

/**
 * What is set aside under passing names until everything has been read: tables that go or are made anew,
 * and the keepsakes that are put back. Only under these names is anything dropped.
 */
class Aside {
  readonly tables: readonly CatalogTable[]
  private readonly names = new Map<string, string>()
  private readonly keepsakes = new Map<string, string>()

  constructor(
    private readonly input: MigrationInput,
    /** Ids of the tables that are made anew. */
    readonly anew: ReadonlySet<string>
  ) {
    const { from, to, keep, restore } = input
    const others = new Set([...from.tables, ...to.tables].filter((each) => each.external).map(({ id }) => id))
    const gone = sort(from.tables, to.tables).gone.filter(({ id }) => !others.has(id))
    this.tables = [...gone, ...from.tables.filter(({ id }) => anew.has(id))]
    const names = new NameGiver(undefined)
    for (const { name } of [...from.tables, ...to.tables, ...keep, ...restore]) names.give(name)
    for (const table of this.tables) this.names.set(table.id, names.give(`old_${table.name}`))
    for (const { name } of restore) this.keepsakes.set(name, names.give(`old_${name}`))
  }

  /** The catalog before, with what is set aside called so. */
  catalog(): Catalog {
    const { from } = this.input
    const called = (table: CatalogTable): CatalogTable => ({
      ...table,
      name: this.names.get(table.id) ?? table.name
    })
    return { ...from, tables: from.tables.map(called) }
  }

  /** What a keepsake that is put back is called meanwhile. */
  keepsake(name: string): string {
    return this.keepsakes.get(name) ?? name
  }

  set(): DraftStatement[] {
    const renamed = [
      ...this.tables.map(({ id, name }): [string, string] => [name, this.names.get(id) ?? name]),
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

  drop(): DraftStatement[] {
    return this.tables.map(({ id, name }) => ({
      sql: `DROP TABLE ${quote(this.names.get(id) ?? name)}`,
      says: `drop the old ${name}`
    }))
  }
}

/** What needs the new tables, so that they are made before the first of it. */
const NEEDS_NEW: ReadonlySet<Step['kind']> = new Set<Step['kind']>([
  'addRows',
  'takeSurplus',
  'putBackRows',
  'unstage',
  'noteNarrowed',
  'mark',
  'noteRefilled',
  'dropKeepsake'
])

class Writer extends StepWriter {
  /** What is read: the tables as they were, with the columns that they got where they were set aside. */
  private readonly old: Map<string, CatalogTable>
  private isAside = false
  private isMade = false
  private readonly whole: MigrationInput
  /** Narrowed values that are put back when their table is copied. */
  private narrowing: Extract<Step, { kind: 'putBackNarrowed' }>[] = []
  /** Where what they were is until then, and whether it is: the names of two columns, by the column's id. */
  private readonly restored = new Map<string, [value: string, isKept: string]>()

  constructor(
    whole: MigrationInput,
    private readonly aside: Aside,
    speech: Speech
  ) {
    const from = aside.catalog()
    super({ ...whole, from }, speech)
    this.whole = whole
    this.old = new Map(from.tables.map((table) => [table.id, table]))
  }

  override write(steps: readonly Step[]): Statement[] {
    this.narrowing = steps.flatMap((step) => (step.kind === 'putBackNarrowed' ? [step] : []))
    const said = [
      ...steps.flatMap((step) => this.inTurn(step)),
      ...this.makeAnew(),
      ...this.makeIndexes(steps),
      ...this.makeTriggers(steps)
    ]
    return said.map(({ sql, says }) => ({ sql, says }))
  }

  /** What is left at the end for indexes: those of old tables are gone by then, and with them their names. */
  private makeIndexes(steps: readonly Step[]): DraftStatement[] {
    const made = steps.flatMap((step) => {
      if (step.kind !== 'addConstraint' || step.constraint.kind !== 'index') return []
      const table = byId(this.input.to.tables).get(step.table)
      return table && !this.aside.anew.has(table.id) ? [{ ...table, indexes: [step.constraint.key] }] : []
    })
    const anew = this.input.to.tables.filter(({ id }) => this.aside.anew.has(id))
    return [...this.aside.drop(), ...[...anew, ...made].flatMap(createIndexes)]
  }

  /** Those of tables that are made anew are among the steps, since none stands while its table changes. */
  private makeTriggers(steps: readonly Step[]): DraftStatement[] {
    const tables = byId(this.whole.to.tables)
    return steps.flatMap((step) => {
      if (step.kind !== 'addConstraint' || step.constraint.kind !== 'trigger') return []
      const table = tables.get(step.table)
      return table ? createTrigger(table, step.constraint.key, tables) : []
    })
  }

  private inTurn(step: Step): DraftStatement[] {
    if (step.kind === 'lock') return []
    if (step.kind === 'expect') return this.say(step)
    const first = this.isAside ? [] : this.aside.set()
    this.isAside = true
    const made = NEEDS_NEW.has(step.kind) ? this.makeAnew() : []
    // What is empty and must not be is filled when it is copied, and what was narrowed is put back then.
    const isCopied = step.kind === 'fillEmpty' || step.kind === 'putBackNarrowed'
    const said = isCopied ? [] : this.say(step)
    return [...first, ...made, ...said]
  }

  /** What changes in a table that is made anew changes then. */
  protected shape(step: ShapeStep): DraftStatement[] {
    switch (step.kind) {
      case 'makeTable': {
        const table = byId(this.input.to.tables).get(step.table.id) ?? step.table
        this.state.take({ kind: 'makeTable', table })
        return [one(createTable(table, byId(this.whole.to.tables)), `make ${table.name}`)]
      }
      case 'addColumn':
        return this.isGivenEarly(step.table, step.column) ? this.add(step) : []
      case 'dropConstraint': {
        const constraint = this.state.constraint(step.table, step.of, step.id)
        if (constraint.kind === 'trigger') return dropTrigger(this.state.table(step.table), constraint.key)
        const { name } = constraint.key
        const stays = byId(this.input.to.tables).has(step.table) && !this.aside.anew.has(step.table)
        return stays ? [one(`DROP INDEX ${quote(name)}`, `drop the index ${name}`)] : []
      }
      default:
        return []
    }
  }

  /** Whether a new column gets its values before its table is made anew. */
  private isGivenEarly(table: string, { id, computed }: CatalogColumn): boolean {
    const { flow, restore, early } = this.input
    const gives = [...flow.fills, ...restore].some(
      (each) => each.table === table && each.columns.some((column) => column.id === id)
    )
    return computed === undefined && (gives || early.some((place) => place.column === id))
  }

  private add({ table: id, column }: Extract<ShapeStep, { kind: 'addColumn' }>): DraftStatement[] {
    const table = this.state.table(id)
    const names = new NameGiver(undefined)
    for (const { name } of table.columns) names.give(name)
    const bare = {
      ...column,
      name: names.give(column.name),
      required: false,
      generated: false,
      default: undefined
    }
    this.state.take({ kind: 'addColumn', table: id, column: bare })
    this.old.set(id, this.state.table(id))
    const [place, name] = [quote(table.name), quote(bare.name)]
    const says = `add ${column.name} to ${table.name}`
    return [
      one(`ALTER TABLE ${place} ADD COLUMN ${name} ${bare.type.sql}`, says),
      ...(column.default === undefined || column.generated
        ? []
        : [one(`UPDATE OR ROLLBACK ${place} SET ${name} = ${column.default}`, `${says}, with its default`)])
    ]
  }

  /** Each table that changes is made anew and gets its rows, all of them. */
  private makeAnew(): DraftStatement[] {
    if (this.isMade) return []
    this.isMade = true
    const known = byId(this.whole.to.tables)
    const anew = this.input.to.tables.filter(({ id }) => this.aside.anew.has(id))
    const narrowed = this.narrowing.flatMap((step) => this.findNarrowed(step))
    for (const table of anew) this.state.take({ kind: 'makeTable', table })
    return [
      ...narrowed,
      ...anew.map((table) => one(createTable(table, known), `make ${table.name}`)),
      ...anew.flatMap((table) => this.copy(this.old.get(table.id) as CatalogTable, table))
    ]
  }

  /** What narrowed values were, beside what they have become. */
  private findNarrowed(step: Extract<Step, { kind: 'putBackNarrowed' }>): DraftStatement[] {
    const { table: id } = step.keepsake
    const table = this.state.table(id)
    const names = new NameGiver(undefined)
    for (const { name } of table.columns) names.give(name)
    for (const [value, isKept] of this.restored.values()) for (const name of [value, isKept]) names.give(name)
    const { name } = this.state.column(id, step.column)
    const [kept, isKept] = [names.give(`${name}_kept`), names.give(`${name}_is_kept`)]
    this.restored.set(step.column, [kept, isKept])
    // It goes straight into the table that is made anew.
    const become = byId(this.input.to.tables).get(id)?.columns
    const { value, where } = this.narrowed(step, become && byId(become).get(step.column)?.type)
    const says = `find what was kept of ${table.name}.${name}`
    return [
      one(`ALTER TABLE ${quote(table.name)} ADD COLUMN ${quote(kept)}`, says),
      one(`ALTER TABLE ${quote(table.name)} ADD COLUMN ${quote(isKept)}`, says),
      ...this.fromKeepsake(
        step.keepsake,
        [
          { column: kept, value },
          { column: isKept, value: '1' }
        ],
        says,
        where
      )
    ]
  }

  private copy(old: CatalogTable, table: CatalogTable): DraftStatement[] {
    const had = byId(old.columns)
    const given = table.columns.filter((column) => column.computed === undefined && had.has(column.id))
    const values = given.map((column) => {
      const before = had.get(column.id) as CatalogColumn
      const narrowed = this.restored.get(column.id)?.map(quote)
      const plain = converted(quote(before.name), before.type, column.type)
      const value = narrowed ? `CASE WHEN ${narrowed[1]} THEN ${narrowed[0]} ELSE ${plain} END` : plain
      const isFilled = column.required && !before.required && column.default !== undefined
      return isFilled ? `coalesce(${value}, ${column.default})` : value
    })
    const held = given.flatMap((column) => {
      const before = had.get(column.id) as CatalogColumn
      const holds = holdsValue(quote(before.name), before.type, column.type)
      const says = `see that every ${table.name}.${column.name} can be ${column.type.sql}`
      return holds === undefined
        ? []
        : [check(`NOT EXISTS (SELECT 1 FROM ${quote(old.name)} WHERE NOT (${holds}))`, says)]
    })
    const count = (name: string): string => `(SELECT count(*) FROM ${quote(name)})`
    const into = given.length === 0 ? '' : ` (${given.map(({ name }) => quote(name)).join(', ')})`
    const rows = given.length === 0 ? 'DEFAULT VALUES' : `SELECT ${values.join(', ')} FROM ${quote(old.name)}`
    return [
      ...held,
      one(`INSERT OR ROLLBACK INTO ${quote(table.name)}${into}\n  ${rows}`, `copy the rows of ${table.name}`),
      check(`${count(table.name)} = ${count(old.name)}`, `see that ${table.name} has every row`)
    ]
  }

  protected override source(id: string): CatalogTable {
    return this.old.get(id) ?? this.state.table(id)
  }

  protected override place(table: string): string {
    return quote(this.isAside ? this.aside.keepsake(table) : table)
  }

  protected lock(): DraftStatement[] {
    return []
  }

  protected createAs(name: string, select: string, says: string, passing: boolean): DraftStatement[] {
    return [one(`CREATE ${passing ? 'TEMP ' : ''}TABLE ${quote(name)} AS\n  ${select}`, says)]
  }

  /** The shell says no more of it than what stands above. */
  protected stopWhere(rows: string, says: string): DraftStatement {
    return check(`NOT EXISTS (${rows})`, `see that it can be: ${says}`)
  }

  protected createMissing(name: string, columns: string, says: string): DraftStatement {
    return one(`CREATE TABLE IF NOT EXISTS ${quote(name)} (${columns})`, says)
  }

  protected override passing(name: string): string {
    return `temp.${quote(name)}`
  }

  protected override remove(table: CatalogTable, where: string, says: string): DraftStatement[] {
    return [{ sql: `DELETE FROM ${this.place(table.name)} AS own\n  WHERE ${where}`, says }]
  }

  protected update({ table, sets, from, on, where, says }: Update): DraftStatement[] {
    const values = sets.map(({ column, value }) => `${quote(column)} = ${value}`).join(', ')
    const condition = where === undefined ? on : `${on} AND ${where}`
    const place = this.place(table.name)
    return [
      one(`UPDATE OR ROLLBACK ${place} AS own SET ${values}\n  FROM ${from}\n  WHERE ${condition}`, says)
    ]
  }

  protected override updateOwn(...given: Parameters<StepWriter['updateOwn']>): DraftStatement {
    const { sql, says } = super.updateOwn(...given)
    return one(sql.replace(/^UPDATE/, 'UPDATE OR ROLLBACK'), says)
  }

  protected override insert(...given: Parameters<StepWriter['insert']>): DraftStatement[] {
    const [table, , rows, says] = given
    const some = `EXISTS (SELECT 1 FROM ${this.place(table.name)})`
    return [
      ...super.insert(...given).map(({ sql }) => one(sql.replace(/^INSERT/, 'INSERT OR ROLLBACK'), says)),
      check(`${some} OR NOT EXISTS (${indented(rows)})`, says)
    ]
  }

  protected convert(sql: string, from: CatalogType, to: CatalogType): string {
    return converted(sql, from, to)
  }

  /** SQLite numbers every row of a table; a table can have a column of the name that the number goes by. */
  protected rowId({ columns }: CatalogTable): RowId {
    const isTaken = (name: string): boolean => columns.some((column) => fold(column.name) === name)
    const name = ['rowid', 'oid', '_rowid_'].find((each) => !isTaken(each)) ?? 'rowid'
    return { before: [], columns: [name], after: [] }
  }
}

const one = (sql: string, says: string): DraftStatement => ({ sql, says })

/** Where conditions are put that must hold. */
const HOLDS = 'temp.must_hold'

const MUST_HOLD: Statement = {
  sql: `CREATE TEMP TABLE ${HOLDS.replace('temp.', '')} (yes INTEGER NOT NULL CHECK (yes))`,
  says: 'what must hold before anything goes on'
}
const HAS_HELD: Statement = { sql: `DROP TABLE ${HOLDS}`, says: 'it has held' }

/**
 * Sees to it that everything of a catalog was made, and that so many rows are in: SQLite's own client goes on
 * after an error, and would keep the rest.
 */
export function guards(
  { tables }: Catalog,
  rows: ReadonlyMap<string, number>
): [first: Statement[], last: Statement[]] {
  const own = tables.filter((table) => !table.external)
  const names = own.flatMap(({ name, indexes, triggers }) => [
    name,
    ...indexes.map((index) => index.name),
    ...triggers.flatMap(triggerNames)
  ])
  const list = names.map(quoteText).join(', ')
  const there = check(
    `(SELECT count(*) FROM sqlite_schema WHERE name IN (${list})) = ${names.length}`,
    'see that everything is there, or take all of it back'
  )
  const counts = own
    .filter(({ id }) => rows.has(id))
    .map(({ id, name }) =>
      check(`(SELECT count(*) FROM ${quote(name)}) = ${rows.get(id) ?? 0}`, `see that ${name} has its rows`)
    )
  return [[MUST_HOLD], [there, ...counts, HAS_HELD]]
}

/** What fails, and takes everything back, where a condition does not hold. */
export function check(condition: string, says: string): Statement {
  return { sql: `INSERT OR ROLLBACK INTO ${HOLDS} SELECT ${condition}`, says }
}

/** An index or a trigger that could not be made stops nothing by itself. */
function checkBeside({ tables }: Catalog): Statement[] {
  const own = tables.filter((table) => !table.external)
  const isThere = (type: string, names: readonly string[]): Statement[] => {
    if (names.length === 0) return []
    const found = `SELECT count(*) FROM sqlite_schema WHERE type = '${type}' AND name IN (${names.map(quoteText).join(', ')})`
    return [check(`(${found}) = ${names.length}`, `see that every ${type} is there`)]
  }
  return [
    ...isThere(
      'index',
      own.flatMap(({ indexes }) => indexes.map(({ name }) => name))
    ),
    ...isThere(
      'trigger',
      own.flatMap(({ triggers }) => triggers.flatMap(triggerNames))
    )
  ]
}
