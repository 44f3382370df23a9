import type { Catalog, CatalogColumn, CatalogForeignKey, CatalogKey, CatalogTable, Statement } from '../catalog.ts'
import { NameGiver } from '../names.ts'
import { columnById, columnIds, sort, tableById, type CarryStep, type Keepsake, type MigrationInput, type Pair } from '../migration.ts'
import { parentsFirst } from '../build.ts'
import { postgresqlLiteral } from './types.ts'
import { addForeignKey, addKey, columnType, createIndex, createTable, list, quote } from './write.ts'

/**
 * One transaction: what would be lost is kept, constraints that change go, names change, columns come
 * and change, rows are carried, what is gone goes, constraints come. References added to tables that
 * exist are validated after the transaction, so that writers wait only for a moment.
 */
export function migrate(input: MigrationInput): Statement[] {
  const plan = new Plan(input)
  plan.build()
  if (plan.steps.length === 0) return []
  return [{ sql: 'BEGIN', says: 'all of it, or nothing' }, ...plan.steps, { sql: 'COMMIT', says: 'keep it' }, ...plan.after]
}

type Kind = 'primaryKey' | 'unique' | 'foreignKey' | 'index'
interface Constraint { kind: Kind; key: CatalogKey | CatalogForeignKey }

class Plan {
  readonly steps: Statement[] = []
  readonly after: Statement[] = []
  private readonly tables: ReturnType<typeof sort<CatalogTable>>
  private readonly names: NameGiver
  /** What a table or column is called at this point of the migration, by id. */
  private readonly now = new Map<string, string>()

  constructor(private readonly input: MigrationInput) {
    this.tables = sort(input.from.tables, input.to.tables)
    this.names = new NameGiver({ most: 63, of: 'bytes' })
    for (const table of [...input.from.tables, ...input.to.tables]) {
      this.names.give(table.name)
      for (const column of table.columns) this.names.give(column.name)
    }
    for (const table of input.from.tables) {
      this.now.set(table.id, table.name)
      for (const column of table.columns) this.now.set(column.id, column.name)
    }
  }

  build(): void {
    const { input, tables } = this
    for (const keepsake of input.keep) this.makeKeepsake(keepsake)
    this.dropConstraints()
    this.rename()
    for (const pair of tables.kept) this.retype(pair)
    for (const pair of tables.kept) this.addColumns(pair)
    for (const table of parentsFirst(tables.made)) this.add(createTable({ ...table, foreignKeys: [] }), `make ${table.name}`)
    for (const table of tables.made) this.refill(table)
    for (const carry of input.carries) this.carry(carry)
    for (const pair of tables.kept) this.finishColumns(pair)
    for (const { from, to } of tables.kept) for (const column of sort(from.columns, to.columns).gone) this.add(`ALTER TABLE ${quote(to.name)} DROP COLUMN ${this.nowCalled(column.id)}`, `drop ${column.name} of ${to.name}`)
    for (const table of tables.gone) this.add(`DROP TABLE ${this.nowCalled(table.id)}`, `drop ${table.name}`)
    this.addConstraints()
    for (const keepsake of input.restore) this.add(`DROP TABLE ${quote(keepsake.name)}`, `drop the keepsake ${keepsake.name}`)
  }

  private add(sql: string, says: string): void {
    this.steps.push({ sql, says })
  }

  private nowCalled(id: string): string {
    return quote(this.now.get(id) ?? id)
  }

  /** The columns of a keepsake are called by their ids, since names may change meanwhile. */
  private makeKeepsake(keepsake: Keepsake): void {
    const table = tableById(this.input.from, keepsake.table)
    const wanted = keepsake.columns.length === 0 ? table.columns : [...keepsake.key, ...keepsake.columns.map((each) => each.id)].map((id) => columnById(table, id))
    const columns = wanted.map((column) => `${quote(column.name)} AS ${quote(column.id)}`).join(', ')
    this.add(`CREATE TABLE ${quote(keepsake.name)} AS SELECT ${columns} FROM ${quote(table.name)}`, keepsake.columns.length === 0 ? `keep the rows of ${table.name}` : `keep ${keepsake.columns.map((each) => each.name).join(', ')} of ${table.name}`)
  }

  /** Constraints that go, or that change in more than their names; references first. All of those of a table that goes, for their names' sake. */
  private dropConstraints(): void {
    const drops: { table: CatalogTable; constraint: Constraint }[] = []
    for (const table of this.tables.gone) for (const constraint of constraintsOf(table)) drops.push({ table, constraint })
    for (const { from, to } of this.tables.kept) {
      for (const constraint of constraintsOf(from)) if (!this.survivor(from, to, constraint)) drops.push({ table: from, constraint })
    }
    const rank: Record<Kind, number> = { foreignKey: 0, index: 1, unique: 2, primaryKey: 3 }
    for (const { table, constraint } of drops.sort((a, b) => rank[a.constraint.kind] - rank[b.constraint.kind])) {
      const name = quote(constraint.key.name)
      this.add(constraint.kind === 'index' ? `DROP INDEX ${name}` : `ALTER TABLE ${quote(table.name)} DROP CONSTRAINT ${name}`, `drop ${constraint.key.name} of ${table.name}`)
    }
  }

  /** The constraint that this one becomes by a change of name at the most. */
  private survivor(from: CatalogTable, to: CatalogTable, constraint: Constraint): Constraint | undefined {
    return constraintsOf(to).find((other) => other.kind === constraint.kind && other.key.id === constraint.key.id && this.shape(this.input.to, to, other) === this.shape(this.input.from, from, constraint))
  }

  /** What a constraint says, by ids; retyped columns of a reference make it another, since both sides must be free while types change. */
  private shape(catalog: Catalog, table: CatalogTable, { kind, key }: Constraint): string {
    const own = columnIds(table, key).map((id) => `${id}:${kind === 'foreignKey' ? table.columns.find((column) => column.id === id)?.type : ''}`)
    if (!('table' in key)) return JSON.stringify([kind, own])
    const referred = catalog.tables.find((each) => each.name === key.table)
    const target = referred ? [referred.id, columnIds(referred, { columns: key.refersTo }), this.keyShape(referred, key.refersTo)] : []
    return JSON.stringify([kind, own, target, key.onDelete, key.onUpdate])
  }

  /** A reference leans on a key: where that is dropped and made again, so is the reference. */
  private keyShape(referred: CatalogTable, columns: readonly string[]): string {
    const key = [referred.primaryKey, ...referred.uniques].find((each) => each && each.columns.length === columns.length && each.columns.every((name) => columns.includes(name)))
    return key ? JSON.stringify([key === referred.primaryKey, key.id, columnIds(referred, key)]) : ''
  }

  /** Tables and constraints first, all together, because an index and a table of one schema cannot share a name; then columns, table by table. */
  private rename(): void {
    const { kept, gone, made } = this.tables
    const constraints = kept.flatMap(({ from, to }) => constraintsOf(from).flatMap((constraint) => {
      const other = this.survivor(from, to, constraint)
      return other ? [{ id: constraint.key.id, from: constraint.key.name, to: other.key.name, table: to.id, index: constraint.kind === 'index' }] : []
    }))
    for (const each of constraints) this.now.set(each.id, each.from)
    const byId = new Map(constraints.map((each) => [each.id, each]))
    const survivors = new Set(constraints.map((each) => each.to))
    const newNames = this.input.to.tables.flatMap((table) => constraintsOf(table).map(({ key }) => key.name)).filter((name) => !survivors.has(name))
    this.renameAll([...kept.map(({ to }) => ({ id: to.id, to: to.name })), ...constraints], gone, [...made.map((table) => table.name), ...newNames], (id, name) => {
      const constraint = byId.get(id)
      if (!constraint) return `ALTER TABLE ${this.nowCalled(id)} RENAME TO ${quote(name)}`
      return constraint.index ? `ALTER INDEX ${this.nowCalled(id)} RENAME TO ${quote(name)}` : `ALTER TABLE ${this.nowCalled(constraint.table)} RENAME CONSTRAINT ${this.nowCalled(id)} TO ${quote(name)}`
    })
    for (const { from, to } of kept) {
      const columns = sort(from.columns, to.columns)
      this.renameAll(columns.kept.map((pair) => ({ id: pair.to.id, to: pair.to.name })), columns.gone, columns.made.map((column) => column.name), (id, name) => `ALTER TABLE ${quote(to.name)} RENAME COLUMN ${this.nowCalled(id)} TO ${quote(name)}`)
    }
  }

  /** Renames so that no two things have a name at once: what is in the way gets a passing name first. */
  private renameAll(kept: readonly { id: string; to: string }[], gone: readonly { id: string }[], made: readonly string[], sql: (id: string, name: string) => string): void {
    const moving = kept.filter((each) => this.now.get(each.id) !== each.to)
    const wanted = new Set([...made, ...moving.map((each) => each.to)])
    const move = (id: string, name: string, says: string): void => {
      this.add(sql(id, name), says)
      this.now.set(id, name)
    }
    for (const { id } of [...gone, ...moving]) {
      const now = this.now.get(id) ?? ''
      if (wanted.has(now)) move(id, this.names.give(`old_${now}`), `call ${now} something else for now`)
    }
    for (const { id, to } of moving) move(id, to, `call ${this.now.get(id) ?? ''} ${to}`)
  }

  private retype({ from, to }: Pair<CatalogTable>): void {
    const table = quote(to.name)
    for (const { from: old, to: column } of sort(from.columns, to.columns).kept) {
      const name = quote(column.name)
      if (old.generated && !column.generated) this.add(`ALTER TABLE ${table} ALTER COLUMN ${name} DROP IDENTITY`, `${to.name}.${column.name} is no longer generated`)
      if (old.type === column.type) continue
      if (old.default !== undefined) this.add(`ALTER TABLE ${table} ALTER COLUMN ${name} DROP DEFAULT`, `make ${to.name}.${column.name} ${column.type}`)
      this.add(`ALTER TABLE ${table} ALTER COLUMN ${name} TYPE ${column.type} USING ${cast(name, old.type, column.type)}`, `make ${to.name}.${column.name} ${column.type}`)
      if (column.default !== undefined) this.add(`ALTER TABLE ${table} ALTER COLUMN ${name} SET DEFAULT ${column.default}`, `default of ${to.name}.${column.name}`)
    }
  }

  private match(keepsake: Keepsake, to: CatalogTable): string {
    return keepsake.key.map((id) => `k.${quote(id)} = t.${quote(columnById(to, id).name)}`).join(' AND ')
  }

  private noteNarrowed(keepsake: Keepsake, to: CatalogTable, column: CatalogColumn): void {
    if (keepsake.table !== to.id || !keepsake.columns.some((each) => each.id === column.id && each.why === 'narrowed')) return
    const became = quote(`${column.id}_became`)
    this.add(`ALTER TABLE ${quote(keepsake.name)} ADD COLUMN ${became} ${column.type}`, 'keep what the narrowed values became')
    this.add(`UPDATE ${quote(keepsake.name)} AS k SET ${became} = t.${quote(column.name)} FROM ${quote(to.name)} AS t WHERE ${this.match(keepsake, to)}`, 'keep what the narrowed values became')
  }

  /** Puts the values from before back where nobody has changed what they became since. */
  private unnarrow(keepsake: Keepsake, to: CatalogTable, old: CatalogColumn, column: CatalogColumn): void {
    if (keepsake.table !== to.id || !keepsake.columns.some((each) => each.id === column.id && each.why === 'narrowed')) return
    const became = cast(`k.${quote(`${column.id}_became`)}`, old.type, column.type)
    this.add(`UPDATE ${quote(to.name)} AS t SET ${quote(column.name)} = k.${quote(column.id)} FROM ${quote(keepsake.name)} AS k WHERE ${this.match(keepsake, to)} AND t.${quote(column.name)} IS NOT DISTINCT FROM ${became}`, `put the kept values of ${to.name}.${column.name} back`)
  }

  /** New columns come empty or with their default; those that must be filled and are put back from a keepsake are required after. */
  private addColumns({ from, to }: Pair<CatalogTable>): void {
    for (const column of sort(from.columns, to.columns).made) {
      const restored = this.restoredBy(to, column)
      const first = restored ? { ...column, required: false, default: undefined } : column
      this.add(`ALTER TABLE ${quote(to.name)} ADD COLUMN ${quote(column.name)} ${columnType(first)}`, `add ${column.name} to ${to.name}`)
      if (!restored) continue
      this.add(`UPDATE ${quote(to.name)} AS t SET ${quote(column.name)} = k.${quote(column.id)} FROM ${quote(restored.name)} AS k WHERE ${this.match(restored, to)}`, `put the kept values of ${to.name}.${column.name} back`)
      if (column.default !== undefined) this.add(`ALTER TABLE ${quote(to.name)} ALTER COLUMN ${quote(column.name)} SET DEFAULT ${column.default}`, `default of ${to.name}.${column.name}`)
    }
  }

  private restoredBy(table: CatalogTable, column: CatalogColumn): Keepsake | undefined {
    return this.input.restore.find((keepsake) => keepsake.table === table.id && keepsake.columns.some((each) => each.id === column.id && each.why === 'dropped'))
  }

  private refill(table: CatalogTable): void {
    const keepsake = this.input.restore.find((each) => each.table === table.id && each.columns.length === 0)
    if (!keepsake) return
    this.add(`INSERT INTO ${quote(table.name)} (${list(table.columns.map((column) => column.name))}) SELECT ${list(table.columns.map((column) => column.id))} FROM ${quote(keepsake.name)}`, `put the kept rows of ${table.name} back`)
    for (const statement of resetCounter(table)) this.steps.push(statement)
  }

  private carry(carry: CarryStep): void {
    const source = this.nowCalled(carry.source)
    const target = tableById(this.input.to, carry.target)
    const values = carry.columns.map((each) => {
      if (!('from' in each)) return postgresqlLiteral(each.value, each.type)
      const [now, wanted] = [this.typeNow(carry.source, each.from), columnById(target, each.to).type]
      return now === wanted ? this.nowCalled(each.from) : cast(this.nowCalled(each.from), now, wanted)
    })
    const where = carry.where.map((id) => `${this.nowCalled(id)} IS NOT NULL`).join(' AND ')
    this.add(
      `INSERT INTO ${quote(target.name)} (${list(carry.columns.map((each) => columnById(target, each.to).name))})\n  SELECT ${values.join(', ')} FROM ${source}${where && ` WHERE ${where}`}`,
      `carry rows of ${this.now.get(carry.source) ?? ''} into ${target.name}`
    )
  }

  /** The type of a column when types have changed: as it will be, or as it was where it goes. */
  private typeNow(table: string, column: string): string {
    const after = this.input.to.tables.find((each) => each.id === table)?.columns.find((each) => each.id === column)
    return (after ?? columnById(tableById(this.input.from, table), column)).type
  }

  /** Defaults and NOT NULL, when every row has its values. */
  private finishColumns({ from, to }: Pair<CatalogTable>): void {
    const table = quote(to.name)
    const columns = sort(from.columns, to.columns)
    for (const { from: old, to: column } of columns.kept) {
      const name = quote(column.name)
      if (old.type === column.type && old.default !== column.default) {
        this.add(column.default === undefined ? `ALTER TABLE ${table} ALTER COLUMN ${name} DROP DEFAULT` : `ALTER TABLE ${table} ALTER COLUMN ${name} SET DEFAULT ${column.default}`, `default of ${to.name}.${column.name}`)
      }
      if (!old.required && column.required) this.require(to, column)
      if (old.required && !column.required) {
        // A primary key holds its columns to NOT NULL by itself; what is asked here is the column's own.
        this.add(`ALTER TABLE ${table} ALTER COLUMN ${name} DROP NOT NULL`, `${to.name}.${column.name} may be empty`)
      }
      if (!old.generated && column.generated) {
        this.add(`ALTER TABLE ${table} ALTER COLUMN ${name} ADD GENERATED BY DEFAULT AS IDENTITY`, `${to.name}.${column.name} is generated`)
        for (const statement of resetCounter(to)) this.steps.push(statement)
      }
    }
    for (const { from: old, to: column } of columns.kept) {
      for (const keepsake of this.input.keep) this.noteNarrowed(keepsake, to, column)
      for (const keepsake of this.input.restore) this.unnarrow(keepsake, to, old, column)
    }
    for (const column of columns.made) if (column.required && this.restoredBy(to, column)) this.require(to, column)
  }

  private require(table: CatalogTable, column: CatalogColumn): void {
    if (column.default !== undefined) this.add(`UPDATE ${quote(table.name)} SET ${quote(column.name)} = ${column.default} WHERE ${quote(column.name)} IS NULL`, `fill ${table.name}.${column.name} where it is empty`)
    this.add(`ALTER TABLE ${quote(table.name)} ALTER COLUMN ${quote(column.name)} SET NOT NULL`, `require ${table.name}.${column.name}`)
  }

  private addConstraints(): void {
    const late: Statement[] = []
    const before = new Map(this.input.from.tables.map((table) => [table.id, table]))
    for (const table of this.input.to.tables) {
      const old = before.get(table.id)
      const kept = old ? constraintsOf(old).flatMap((constraint) => this.survivor(old, table, constraint)?.key ?? []) : []
      for (const { kind, key } of constraintsOf(table)) {
        if (kept.includes(key)) continue
        if (kind === 'index') late.push(createIndex(table, key))
        else if ('table' in key) {
          late.push(addForeignKey(table, key, old !== undefined))
          if (old) this.after.push({ sql: `ALTER TABLE ${quote(table.name)} VALIDATE CONSTRAINT ${quote(key.name)}`, says: `check the rows of ${table.name} against ${key.table}` })
        } else if (old) this.steps.push(addKey(table, kind === 'primaryKey' ? 'PRIMARY KEY' : 'UNIQUE', key))
      }
    }
    this.steps.push(...late)
  }
}

function constraintsOf(table: CatalogTable): Constraint[] {
  return [
    ...(table.primaryKey ? [{ kind: 'primaryKey' as const, key: table.primaryKey }] : []),
    ...table.uniques.map((key) => ({ kind: 'unique' as const, key })),
    ...table.foreignKeys.map((key) => ({ kind: 'foreignKey' as const, key })),
    ...table.indexes.map((key) => ({ kind: 'index' as const, key }))
  ]
}

/** A conversion between any two types: straight where the engine has a cast, else by way of text. */
function cast(expression: string, from: string, to: string): string {
  const number = /^(smallint|integer|bigint|numeric|double precision)/
  const text = /^(text|varchar|char)/
  if (text.test(to) || (number.test(from) && number.test(to)) || (/^timestamp/.test(from) && /^(timestamp|date)/.test(to))) return `${expression}::${to}`
  if (from === 'boolean' && number.test(to)) return `${expression}::integer::${to}`
  return `${expression}::text::${to}`
}

/** The counter of a generated column goes on from the largest number there is. */
export function resetCounter(table: CatalogTable): Statement[] {
  return table.columns.filter((column) => column.generated).map((column) => ({
    sql: `SELECT setval(pg_get_serial_sequence('${quoteForRegclass(table.name)}', '${column.name.replaceAll("'", "''")}'), coalesce(max(${quote(column.name)}), 0) + 1, false) FROM ${quote(table.name)}`,
    says: `count ${table.name}.${column.name} on from the largest number there is`
  }))
}

/** The first argument of pg_get_serial_sequence is read as an identifier; the second is taken as it is. */
function quoteForRegclass(name: string): string {
  return `"${name.replaceAll('"', '""')}"`.replaceAll("'", "''")
}
