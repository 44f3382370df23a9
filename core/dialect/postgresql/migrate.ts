import { tablesRead } from '../../design/row-query.ts'
import { parentsFirst, type CatalogColumn, type CatalogTable, type Statement } from '../catalog.ts'
import { fitName, hash, NameGiver } from '../../naming/fit.ts'
import { quoteText } from '../quote.ts'
import {
  columnById,
  ownTables,
  sort,
  tableById,
  type Keepsake,
  type MigrationInput,
  type Pair
} from '../migration.ts'
import { MoveWriter, type MovedColumn } from '../moves.ts'
import { prepare } from '../prepare.ts'
import { nameParts, qualify, sayTable, schemaOf } from '../qualified.ts'
import type { Speech } from '../speech.ts'
import { commentsOn } from '../write.ts'
import { Change, constraintsOf, type Constraint } from './change.ts'
import type { Adding, Fill } from '../../design/carry.ts'
import { cast, quote } from './types.ts'
import {
  addCheck,
  addForeignKey,
  addKey,
  columnType,
  createIndex,
  createSchemas,
  createTable,
  createType,
  list,
  place,
  renameCounter,
  resetCounter,
  rowPolicies,
  words
} from './write.ts'

/** NAMEDATALEN less one (PostgreSQL manual, 4.1.1). */
const LIMIT = { most: 63, of: 'bytes' } as const

/**
 * One transaction: what would be lost is kept, constraints that change go, names change, columns come
 * and change, rows are carried, what is gone goes, constraints come. What a row stands in the way of is
 * refused within the transaction, so that nothing is half done.
 */
export function migrate(input: MigrationInput, speech: Speech): Statement[] {
  const first = prepare(ownTables(input), { quote, place, nameLimit: LIMIT, count: addCounted })
  const plan = new Plan(first.input, first.steps, speech)
  plan.build()
  if (plan.steps.length === 0) return []
  return [
    { sql: 'BEGIN', says: 'all of it, or nothing' },
    ...lock(first.input),
    ...plan.steps,
    { sql: 'COMMIT', says: 'keep it' }
  ]
}

/**
 * What is read is locked before it is, so that what others are writing is in it, or waits: a statement sees
 * what was committed when it began (PostgreSQL manual, 13.2.1).
 */
function lock({ from, keep, flow }: MigrationInput): Statement[] {
  const queries = [
    ...flow.results.map(({ query }) => query),
    ...flow.adds.map(({ rows }) => rows),
    ...flow.fills.map((fill) => fill.from)
  ]
  const tables = new Set([
    ...keep.map((keepsake) => keepsake.table),
    ...flow.fills.map((fill) => fill.table),
    ...queries.flatMap(tablesRead)
  ])
  const names = from.tables.filter((table) => tables.has(table.id)).map((table) => place(table.name))
  if (names.length === 0) return []
  return [
    {
      sql: `LOCK TABLE ${names.join(', ')} IN ACCESS EXCLUSIVE MODE`,
      says: 'nobody writes what is being read'
    }
  ]
}

function addCounted(
  table: CatalogTable,
  column: CatalogColumn
): { statements: Statement[]; as: CatalogColumn } {
  return {
    statements: [
      {
        sql: `ALTER TABLE ${place(table.name)} ADD COLUMN ${quote(column.name)} ${columnType(column)}`,
        says: `count ${column.name} of ${sayTable(table.name)}`
      }
    ],
    as: column
  }
}

class Plan {
  readonly steps: Statement[]
  private readonly change: Change
  private readonly moves: MoveWriter
  private readonly names: NameGiver
  /** What a table or column is called at this point of the migration, by id. */
  private readonly now = new Map<string, string>()

  /** @param first what has been done already, that the input goes on from. */
  constructor(
    private readonly input: MigrationInput,
    first: readonly Statement[],
    speech: Speech
  ) {
    this.steps = [...first]
    this.change = new Change(input)
    this.moves = new MoveWriter(input, speech, {
      table: (id) => this.now.get(id) ?? id,
      column: (id) => this.now.get(id) ?? id,
      list: (id) => this.now.get(id) ?? id,
      place
    })
    this.names = new NameGiver(LIMIT)
    for (const { name } of [...input.from.enums, ...input.to.enums]) this.names.give(name)
    for (const table of [...input.from.tables, ...input.to.tables]) {
      for (const name of [bare(table.name), ...constraintsOf(table).map(({ key }) => key.name)])
        this.names.give(name)
      for (const column of table.columns) this.names.give(column.name)
    }
    for (const { id, name } of input.from.enums) this.now.set(id, name)
    for (const table of input.from.tables) {
      this.now.set(table.id, table.name)
      for (const column of table.columns) this.now.set(column.id, column.name)
    }
  }

  build(): void {
    const {
      input,
      change: { tables }
    } = this
    for (const keepsake of input.keep) this.makeKeepsake(keepsake)
    this.steps.push(
      ...createSchemas(input.to.schemas.filter((schema) => !input.from.schemas.includes(schema)))
    )
    this.dropPolicies()
    this.dropConstraints()
    this.rename()
    for (const { name, values } of this.change.madeEnums()) this.steps.push(createType(name, values))
    for (const table of parentsFirst(tables.made))
      this.add(createTable({ ...table, foreignKeys: [] }), `make ${sayTable(table.name)}`)
    for (const table of tables.made) this.refill(table)
    this.move()
    for (const pair of tables.kept) this.uncompute(pair)
    for (const pair of tables.kept) this.retype(pair)
    for (const pair of tables.kept) this.addColumns(pair)
    for (const pair of tables.kept) this.finishColumns(pair)
    for (const { from, to } of tables.kept)
      for (const column of sort(from.columns, to.columns).gone)
        if (!this.change.isRemade(from, to, column.id))
          this.add(
            `ALTER TABLE ${place(to.name)} DROP COLUMN ${this.nowCalled(column.id)}`,
            `drop ${column.name} of ${sayTable(to.name)}`
          )
    for (const table of tables.gone)
      this.add(`DROP TABLE ${this.tableNow(table.id)}`, `drop ${sayTable(table.name)}`)
    for (const { id, name } of this.change.goneEnums())
      this.add(`DROP TYPE ${this.nowCalled(id)}`, `drop the list of values ${name}`)
    this.addConstraints()
    for (const pair of tables.kept) this.describe(pair)
    for (const table of tables.made)
      this.steps.push(...commentsOn(table, words, quoteText), ...rowPolicies(table))
    for (const keepsake of input.restore)
      this.add(`DROP TABLE ${quote(keepsake.name)}`, `drop the keepsake ${keepsake.name}`)
  }

  private add(sql: string, says: string): void {
    this.steps.push({ sql, says })
  }

  private nowCalled(id: string): string {
    return quote(this.now.get(id) ?? id)
  }

  private tableNow(id: string): string {
    return place(this.now.get(id) ?? id)
  }

  /**
   * Takes out computed columns that are made anew or go, and lets those that become plain keep their
   * values.
   */
  private uncompute({ from, to }: Pair<CatalogTable>): void {
    for (const column of from.columns) {
      if (this.change.isRemade(from, to, column.id))
        this.add(
          `ALTER TABLE ${place(to.name)} DROP COLUMN ${this.nowCalled(column.id)}`,
          `no longer compute ${sayTable(to.name)}.${column.name} as it was`
        )
      else if (
        column.computed !== undefined &&
        to.columns.some((each) => each.id === column.id && each.computed === undefined)
      )
        this.add(
          `ALTER TABLE ${place(to.name)} ALTER COLUMN ${this.nowCalled(column.id)} DROP EXPRESSION`,
          `no longer compute ${sayTable(to.name)}.${column.name}`
        )
    }
  }

  private dropPolicies(): void {
    for (const { from, to } of this.change.tables.kept) {
      if (!this.change.policiesChange(from, to)) continue
      for (const policy of from.rowPolicies)
        this.add(
          `DROP POLICY ${quote(policy.name)} ON ${place(from.name)}`,
          `drop the row policy ${policy.name} of ${sayTable(from.name)}`
        )
      if (from.rowPolicies.length > 0 && to.rowPolicies.length === 0)
        this.add(
          `ALTER TABLE ${place(from.name)} DISABLE ROW LEVEL SECURITY`,
          `hold ${sayTable(from.name)} to no row policies`
        )
    }
  }

  /** Notes that change, and row policies. */
  private describe({ from, to }: Pair<CatalogTable>): void {
    const said = (text: string | undefined): string => (text === undefined ? 'NULL' : quoteText(text))
    if (from.note !== to.note)
      this.add(`COMMENT ON TABLE ${place(to.name)} IS ${said(to.note)}`, `say what ${sayTable(to.name)} is`)
    for (const column of to.columns) {
      const old = from.columns.find((each) => each.id === column.id)
      const before = old && !this.change.isRemade(from, to, column.id) ? old.note : undefined
      if (before !== column.note)
        this.add(
          `COMMENT ON COLUMN ${place(to.name)}.${quote(column.name)} IS ${said(column.note)}`,
          `say what ${sayTable(to.name)}.${column.name} is`
        )
    }
    if (this.change.policiesChange(from, to)) this.steps.push(...rowPolicies(to))
  }

  /** The columns of a keepsake are called by their ids, since names may change meanwhile. */
  private makeKeepsake(keepsake: Keepsake): void {
    const table = tableById(this.input.from, keepsake.table)
    const wanted =
      keepsake.columns.length === 0
        ? table.columns
        : [...keepsake.key, ...keepsake.columns.map((each) => each.id)].map((id) => columnById(table, id))
    const columns = wanted
      .map(
        (column) =>
          `${quote(column.name)}${this.change.isList(column.type) ? '::text' : ''} AS ${quote(column.id)}`
      )
      .join(', ')
    this.add(
      `CREATE TABLE ${quote(keepsake.name)} AS SELECT ${columns} FROM ${place(table.name)}`,
      keepsake.columns.length === 0
        ? `keep the rows of ${sayTable(table.name)}`
        : `keep ${keepsake.columns.map((each) => each.name).join(', ')} of ${table.name}`
    )
  }

  /**
   * Constraints that go, or that change in more than their names; references first. All of those of a
   * table that goes, for their names' sake.
   */
  private dropConstraints(): void {
    const drops: { table: CatalogTable; constraint: Constraint }[] = []
    for (const table of this.change.tables.gone)
      for (const constraint of constraintsOf(table)) drops.push({ table, constraint })
    for (const { from, to } of this.change.tables.kept) {
      for (const constraint of constraintsOf(from))
        if (!this.change.survivor(from, to, constraint)) drops.push({ table: from, constraint })
    }
    const rank: Record<Constraint['kind'], number> = {
      foreignKey: 0,
      check: 1,
      index: 2,
      unique: 3,
      primaryKey: 4
    }
    for (const { table, constraint } of drops.sort(
      (a, b) => rank[a.constraint.kind] - rank[b.constraint.kind]
    )) {
      const name = quote(constraint.key.name)
      this.add(
        constraint.kind === 'index'
          ? `DROP INDEX ${place(qualify(schemaOf(table.name), constraint.key.name))}`
          : `ALTER TABLE ${place(table.name)} DROP CONSTRAINT ${name}`,
        `drop ${constraint.key.name} of ${sayTable(table.name)}`
      )
    }
  }

  /**
   * Tables and constraints first, all together, because an index and a table of one schema cannot share a
   * name; then columns, table by table. A table that goes to another schema takes its constraints along.
   */
  private rename(): void {
    const { kept, gone, made } = this.change.tables
    const crosses = ({ from, to }: Pair<CatalogTable>): boolean => schemaOf(from.name) !== schemaOf(to.name)
    const constraints = kept.flatMap((pair) =>
      constraintsOf(pair.from).flatMap((constraint) => {
        const other = this.change.survivor(pair.from, pair.to, constraint)
        return other
          ? [
              {
                id: constraint.key.id,
                from: constraint.key.name,
                to: other.key.name,
                table: pair.to.id,
                schema: schemaOf(pair.to.name),
                index: constraint.kind === 'index',
                crosses: crosses(pair)
              }
            ]
          : []
      })
    )
    for (const each of constraints) this.now.set(each.id, each.from)
    const byId = new Map(constraints.map((each) => [each.id, each]))
    const survivors = new Set(constraints.map((each) => qualify(each.schema, each.to)))
    const newNames = this.input.to.tables
      .flatMap((table) => constraintsOf(table).map(({ key }) => qualify(schemaOf(table.name), key.name)))
      .filter((name) => !survivors.has(name))
      .map(bare)
    const lists = this.change.enums.kept.filter((pair) => !this.change.remadeEnums().includes(pair))
    const listIds = new Set(this.input.from.enums.map((each) => each.id))
    const wanted = [
      ...kept.map((pair) => ({ id: pair.to.id, to: bare(pair.to.name), crosses: crosses(pair) })),
      ...lists.map(({ to }) => ({ id: to.id, to: to.name })),
      ...constraints
    ]
    this.renameAll(
      wanted,
      [...gone, ...this.change.goneEnums()],
      [
        ...made.map((table) => bare(table.name)),
        ...this.change.madeEnums().map((list) => list.name),
        ...newNames
      ],
      (id, name) => {
        const constraint = byId.get(id)
        if (listIds.has(id)) return `ALTER TYPE ${this.nowCalled(id)} RENAME TO ${quote(name)}`
        if (!constraint) return `ALTER TABLE ${this.tableNow(id)} RENAME TO ${quote(name)}`
        const table = this.now.get(constraint.table) ?? ''
        return constraint.index
          ? `ALTER INDEX ${place(qualify(schemaOf(table), this.now.get(id) ?? ''))} RENAME TO ${quote(name)}`
          : `ALTER TABLE ${place(table)} RENAME CONSTRAINT ${this.nowCalled(id)} TO ${quote(name)}`
      },
      () => {
        for (const pair of kept.filter(crosses)) this.cross(pair)
      }
    )
    for (const { from, to } of kept) {
      const columns = sort(from.columns, to.columns)
      this.renameAll(
        columns.kept.map((pair) => ({ id: pair.to.id, to: pair.to.name })),
        columns.gone,
        columns.made.map((column) => column.name),
        (id, name) => `ALTER TABLE ${place(to.name)} RENAME COLUMN ${this.nowCalled(id)} TO ${quote(name)}`
      )
    }
  }

  private cross({ from, to: { id, name } }: Pair<CatalogTable>): void {
    const now = this.now.get(id) ?? ''
    const schema = schemaOf(name)
    for (const column of from.columns.filter((each) => each.generated))
      this.steps.push(
        renameCounter(
          now,
          column.name,
          fitName(`${bare(name)}_${column.name}_seq_${hash(`${column.id} to ${name}`)}`, LIMIT)
        )
      )
    this.add(
      `ALTER TABLE ${place(now)} SET SCHEMA ${quote(schema ?? 'public')}`,
      `move ${sayTable(now)} to the schema ${schema ?? 'public'}`
    )
    this.now.set(id, qualify(schema, bare(now)))
  }

  /**
   * Renames so that no two things have a name at once: what is in the way, or goes to another schema and
   * is called
   * otherwise there, gets a passing name first.
   */
  private renameAll(
    kept: readonly { id: string; to: string; crosses?: boolean }[],
    gone: readonly { id: string }[],
    made: readonly string[],
    sql: (id: string, name: string) => string,
    cross?: () => void
  ): void {
    const called = (id: string): string => bare(this.now.get(id) ?? '')
    const changing = kept.filter((each) => each.crosses || called(each.id) !== each.to)
    const takers = new Map<string, string[]>()
    for (const [name, id] of [
      ...made.map((name) => [name, ''] as const),
      ...changing.map((each) => [each.to, each.id] as const)
    ])
      takers.set(name, [...(takers.get(name) ?? []), id])
    const isInTheWay = (id: string): boolean => (takers.get(called(id)) ?? []).some((other) => other !== id)
    const move = (id: string, name: string, says: string): void => {
      this.add(sql(id, name), says)
      this.now.set(id, qualify(schemaOf(this.now.get(id) ?? ''), name))
    }
    const pass = (id: string): void =>
      move(id, this.names.give(`old_${called(id)}`), `call ${called(id)} something else for now`)
    for (const { id } of gone) if (isInTheWay(id)) pass(id)
    for (const { id, to, crosses } of changing) if (isInTheWay(id) || (crosses && called(id) !== to)) pass(id)
    cross?.()
    for (const { id, to } of changing) if (called(id) !== to) move(id, to, `call ${called(id)} ${to}`)
  }

  private retype({ from, to }: Pair<CatalogTable>): void {
    const table = place(to.name)
    for (const { from: old, to: column } of sort(from.columns, to.columns).kept) {
      const name = quote(column.name)
      if (old.generated && !column.generated)
        this.add(
          `ALTER TABLE ${table} ALTER COLUMN ${name} DROP IDENTITY`,
          `${sayTable(to.name)}.${column.name} is no longer generated`
        )
      if (!this.change.retyped(old, column) || this.change.isRemade(from, to, column.id)) continue
      if (old.default !== undefined)
        this.add(
          `ALTER TABLE ${table} ALTER COLUMN ${name} DROP DEFAULT`,
          `make ${sayTable(to.name)}.${column.name} ${column.type}`
        )
      this.add(
        `ALTER TABLE ${table} ALTER COLUMN ${name} TYPE ${column.type} USING ${cast(name, old.type, column.type)}`,
        `make ${sayTable(to.name)}.${column.name} ${column.type}`
      )
      if (column.default !== undefined)
        this.add(
          `ALTER TABLE ${table} ALTER COLUMN ${name} SET DEFAULT ${column.default}`,
          `default of ${sayTable(to.name)}.${column.name}`
        )
    }
  }

  private match(keepsake: Keepsake, to: CatalogTable): string {
    // A column that goes on the way back, and by which the kept rows are found, is still there.
    const column = (id: string): CatalogColumn =>
      to.columns.find((each) => each.id === id) ?? columnById(tableById(this.input.from, to.id), id)
    return keepsake.key
      .map(
        (id) =>
          `k.${quote(id)} = t.${to.columns.some((each) => each.id === id) ? quote(column(id).name) : this.nowCalled(id)}${this.change.isList(column(id).type) ? '::text' : ''}`
      )
      .join(' AND ')
  }

  private noteNarrowed(keepsake: Keepsake, to: CatalogTable, column: CatalogColumn): void {
    if (
      keepsake.table !== to.id ||
      !keepsake.columns.some((each) => each.id === column.id && each.why === 'narrowed')
    )
      return
    const became = quote(`${column.id}_became`)
    this.add(
      `ALTER TABLE ${quote(keepsake.name)} ADD COLUMN ${became} ${this.change.kept(column.type)}`,
      'keep what the narrowed values became'
    )
    this.add(
      `UPDATE ${quote(keepsake.name)} AS k SET ${became} = t.${quote(column.name)}${this.change.isList(column.type) ? '::text' : ''} FROM ${place(to.name)} AS t WHERE ${this.match(keepsake, to)}`,
      'keep what the narrowed values became'
    )
  }

  /** Puts the values from before back where nobody has changed what they became since. */
  private unnarrow(keepsake: Keepsake, to: CatalogTable, old: CatalogColumn, column: CatalogColumn): void {
    if (
      keepsake.table !== to.id ||
      !keepsake.columns.some((each) => each.id === column.id && each.why === 'narrowed')
    )
      return
    const became = cast(`k.${quote(`${column.id}_became`)}`, this.change.kept(old.type), column.type)
    this.add(
      `UPDATE ${place(to.name)} AS t SET ${quote(column.name)} = ${this.change.fromKeepsake(`k.${quote(column.id)}`, column.type)} FROM ${quote(keepsake.name)} AS k WHERE ${this.match(keepsake, to)} AND t.${quote(column.name)} IS NOT DISTINCT FROM ${became}`,
      `put the kept values of ${sayTable(to.name)}.${column.name} back`
    )
  }

  /**
   * New columns come empty or with their default; those that must be filled and are put back from a
   * keepsake are required after.
   */
  private addColumns({ from, to }: Pair<CatalogTable>): void {
    const made = sort(from.columns, to.columns).made
    const isPlain = (each: CatalogColumn): boolean => each.computed === undefined && !this.isFilled(to, each)
    for (const column of made.filter(isPlain)) {
      const restored = this.change.restoredBy(to, column)
      const first = restored ? { ...column, required: false, default: undefined } : column
      this.add(
        `ALTER TABLE ${place(to.name)} ADD COLUMN ${quote(column.name)} ${columnType(first)}`,
        `add ${column.name} to ${sayTable(to.name)}`
      )
      if (!restored) continue
      this.add(
        `UPDATE ${place(to.name)} AS t SET ${quote(column.name)} = ${this.change.fromKeepsake(`k.${quote(column.id)}`, column.type)} FROM ${quote(restored.name)} AS k WHERE ${this.match(restored, to)}`,
        `put the kept values of ${sayTable(to.name)}.${column.name} back`
      )
      if (column.default !== undefined)
        this.add(
          `ALTER TABLE ${place(to.name)} ALTER COLUMN ${quote(column.name)} SET DEFAULT ${column.default}`,
          `default of ${sayTable(to.name)}.${column.name}`
        )
    }
    // What is computed comes last: any of the others may be what it is computed from.
    for (const column of to.columns.filter(
      (each) =>
        each.computed !== undefined && (made.includes(each) || this.change.isRemade(from, to, each.id))
    ))
      this.add(
        `ALTER TABLE ${place(to.name)} ADD COLUMN ${quote(column.name)} ${columnType(column)}`,
        `compute ${sayTable(to.name)}.${column.name}`
      )
  }

  private refill(table: CatalogTable): void {
    const keepsake = this.input.restore.find((each) => each.table === table.id && each.columns.length === 0)
    if (!keepsake) return
    const given = table.columns.filter((column) => column.computed === undefined)
    this.add(
      `INSERT INTO ${place(table.name)} (${list(given.map((column) => column.name))}) SELECT ${given.map((column) => this.change.fromKeepsake(quote(column.id), column.type)).join(', ')} FROM ${quote(keepsake.name)}`,
      `put the kept rows of ${sayTable(table.name)} back`
    )
    for (const statement of resetCounter(table)) this.steps.push(statement)
  }

  /** What is moved, while everything is still there that it is read from. */
  private move(): void {
    const { flow } = this.input
    for (const { name, select } of this.moves.results())
      this.add(
        `CREATE TEMP TABLE ${quote(name)} ON COMMIT DROP AS\n  ${select}`,
        'work out once what is read more than once'
      )
    for (const { from, to } of this.change.tables.kept) {
      const filled = sort(from.columns, to.columns).made.filter((column) => this.isFilled(to, column))
      for (const column of filled)
        this.add(
          `ALTER TABLE ${place(to.name)} ADD COLUMN ${quote(column.name)} ${column.type}`,
          `add ${column.name} to ${sayTable(to.name)}`
        )
    }
    for (const fill of flow.fills) this.fill(fill)
    for (const adding of flow.adds) this.addRows(adding)
  }

  private isFilled(table: CatalogTable, column: CatalogColumn): boolean {
    return this.input.flow.fills.some(
      (fill) => fill.table === table.id && fill.columns.some(({ id }) => id === column.id)
    )
  }

  private fill(fill: Fill): void {
    const table = this.input.to.tables.find((each) => each.id === fill.table)
    const before = this.input.from.tables.find((each) => each.id === fill.table)
    if (!table || !before) return
    const { sql, column } = this.moves.source(fill, 'other')
    const sets = fill.columns.map(({ id, from }) => {
      const target = columnById(table, id)
      return `${quote(target.name)} = ${asType(column(from), target.type)}`
    })
    const agreed = this.moves.agreed(
      fill,
      (id) => `own.${this.nowCalled(id)}`,
      (id) => column(id).sql
    )
    this.add(
      `UPDATE ${place(table.name)} AS own SET ${sets.join(', ')}\n  FROM ${sql}\n  WHERE ${agreed}`,
      `fill ${fill.columns.map(({ id }) => columnById(table, id).name).join(', ')} of ${sayTable(table.name)}`
    )
  }

  private addRows(adding: Adding): void {
    const target = this.input.to.tables.find((each) => each.id === adding.table)
    if (!target) return
    const { columns, select } = this.moves.adding(adding, target)
    const wanted = columns.map(({ id }) => columnById(target, id))
    const isSame = columns.every(({ type }, at) => type === wanted[at]?.type)
    const values = columns.map((column, at) => asType(column, (wanted[at] as CatalogColumn).type))
    const rows = isSame
      ? select(false)
      : `SELECT ${values.join(', ')}\n  FROM (${select(true).replaceAll('\n', '\n  ')}) AS moved`
    this.add(
      `INSERT INTO ${place(target.name)} (${list(wanted.map((column) => column.name))})\n  ${rows}`,
      `carry rows into ${sayTable(target.name)}`
    )
    const isCounted = wanted.some((column) => column.generated)
    if (isCounted) this.steps.push(...resetCounter(target))
  }

  /** Defaults and NOT NULL, when every row has its values. */
  private finishColumns({ from, to }: Pair<CatalogTable>): void {
    const table = place(to.name)
    const columns = sort(from.columns, to.columns)
    for (const { from: old, to: column } of columns.kept) {
      if (this.change.isRemade(from, to, column.id)) continue
      const name = quote(column.name)
      if (!this.change.retyped(old, column) && old.default !== column.default) {
        this.add(
          column.default === undefined
            ? `ALTER TABLE ${table} ALTER COLUMN ${name} DROP DEFAULT`
            : `ALTER TABLE ${table} ALTER COLUMN ${name} SET DEFAULT ${column.default}`,
          `default of ${sayTable(to.name)}.${column.name}`
        )
      }
      if (!old.required && column.required) this.require(to, column)
      if (old.required && !column.required) {
        // A primary key holds its columns to NOT NULL by itself; what is asked here is the column's own.
        this.add(
          `ALTER TABLE ${table} ALTER COLUMN ${name} DROP NOT NULL`,
          `${sayTable(to.name)}.${column.name} may be empty`
        )
      }
      if (!old.generated && column.generated) {
        this.add(
          `ALTER TABLE ${table} ALTER COLUMN ${name} ADD GENERATED BY DEFAULT AS IDENTITY`,
          `${sayTable(to.name)}.${column.name} is generated`
        )
        for (const statement of resetCounter(to)) this.steps.push(statement)
      }
    }
    for (const { from: old, to: column } of columns.kept) {
      for (const keepsake of this.input.keep) this.noteNarrowed(keepsake, to, column)
      for (const keepsake of this.input.restore) this.unnarrow(keepsake, to, old, column)
    }
    for (const column of columns.made) this.finishMade(to, column)
    // What is put back may be larger than what the engine has counted meanwhile.
    if (to.columns.some((column) => column.generated && this.change.restoredBy(to, column)))
      this.steps.push(...resetCounter(to))
  }

  /** A new column that was put back or filled is held to what it is when it has its values. */
  private finishMade(table: CatalogTable, column: CatalogColumn): void {
    const isFilled = this.isFilled(table, column)
    if (isFilled && column.default !== undefined)
      this.add(
        `ALTER TABLE ${place(table.name)} ALTER COLUMN ${quote(column.name)} SET DEFAULT ${column.default}`,
        `default of ${sayTable(table.name)}.${column.name}`
      )
    if (column.required && (isFilled || this.change.restoredBy(table, column))) this.require(table, column)
    if (isFilled && column.generated) {
      this.add(
        `ALTER TABLE ${place(table.name)} ALTER COLUMN ${quote(column.name)} ADD GENERATED BY DEFAULT AS IDENTITY`,
        `${sayTable(table.name)}.${column.name} is generated`
      )
      this.steps.push(...resetCounter(table))
    }
  }

  private require(table: CatalogTable, column: CatalogColumn): void {
    if (column.default !== undefined)
      this.add(
        `UPDATE ${place(table.name)} SET ${quote(column.name)} = ${column.default} WHERE ${quote(column.name)} IS NULL`,
        `fill ${sayTable(table.name)}.${column.name} where it is empty`
      )
    this.add(
      `ALTER TABLE ${place(table.name)} ALTER COLUMN ${quote(column.name)} SET NOT NULL`,
      `require ${sayTable(table.name)}.${column.name}`
    )
  }

  private addConstraints(): void {
    const late: Statement[] = []
    const before = new Map(this.input.from.tables.map((table) => [table.id, table]))
    for (const table of this.input.to.tables) {
      const old = before.get(table.id)
      const kept = old
        ? constraintsOf(old).flatMap((constraint) => this.change.survivor(old, table, constraint)?.key ?? [])
        : []
      for (const { kind, key } of constraintsOf(table)) {
        if (kept.includes(key)) continue
        if (kind === 'index') late.push(createIndex(table, key))
        else if (kind === 'check') {
          if (old) late.push(addCheck(table, key))
        } else if (kind === 'foreignKey') {
          late.push(addForeignKey(table, key))
        } else if (old) this.steps.push(addKey(table, kind === 'primaryKey' ? 'PRIMARY KEY' : 'UNIQUE', key))
      }
    }
    this.steps.push(...late)
  }
}

/** A column of what is moved as a value of a type. */
const asType = ({ sql, type }: MovedColumn, wanted: string): string =>
  type === wanted ? sql : cast(sql, type, wanted)

const bare = (name: string): string => nameParts(name).at(-1) as string
