import { showExpression } from '../design/expressions.ts'
import { columnOf, columnsIn, tableOf } from '../design/lookup.ts'
import type { Column, Design, Table } from '../design/model.ts'
import { typeText, type Type } from '../design/type.ts'
import type { Catalog, Statement } from '../dialect/catalog.ts'
import type { Remark } from '../dialect/dialect.ts'
import type { Migrating } from '../dialect/index.ts'
import type { CarryStep, Keepsake } from '../dialect/migration.ts'
import { fitName, hash } from '../dialect/names.ts'

/**
 * Something that a person should know before a migration runs. `kept`: data leaves its place and is kept
 * aside; `lost`: data goes for good; `stops`: the migration fails where the table has rows.
 */
export interface Warning { table: string; message: string; effect: 'kept' | 'lost' | 'stops' }

/** A migration from one state of a design to another, and back. */
export interface MigrationPlan {
  up: Statement[]
  down: Statement[]
  /** What the up step keeps so that the down step can restore it. They stay until the down step, or a person, drops them. */
  keepsakes: Keepsake[]
  warnings: { up: Warning[]; down: Warning[] }
  remarks: Remark[]
}

/**
 * The migration between two states of a design in a dialect. The up step keeps aside whatever it drops;
 * the down step puts it back, so that down after up is where one began, schema and rows.
 */
export function planMigration(from: Design, to: Design, dialect: Migrating): MigrationPlan {
  const before = dialect.catalog(from)
  const after = dialect.catalog(to)
  // The same change of schema gives the same names, whatever the rows.
  const tail = hash(JSON.stringify([before.catalog, after.catalog]))
  const { keepsakes, warnings } = findKeepsakes(from, to, (table) => fitName(`keepsake_${table}_${tail}`, dialect.facts.nameLimit))
  const up = dialect.migrate({ from: before.catalog, to: after.catalog, keep: keepsakes, restore: [], carries: carriesBetween(from, to) })
  const down = dialect.migrate({ from: after.catalog, to: before.catalog, keep: [], restore: keepsakes, carries: [] })
  return {
    up,
    down,
    keepsakes,
    warnings: {
      up: [...warnings, ...unconvertible(from, to), ...unfillable(from, to, after.catalog), ...newlyHeld(from, to)],
      down: [...losses(to, from), ...unconvertible(to, from), ...unfillable(to, from, before.catalog, keepsakes), ...newlyHeld(to, from)]
    },
    remarks: after.remarks
  }
}

function findKeepsakes(from: Design, to: Design, nameFor: (table: string) => string): { keepsakes: Keepsake[]; warnings: Warning[] } {
  const keepsakes: Keepsake[] = []
  const warnings: Warning[] = []
  for (const table of from.tables) {
    const after = tableOf(to, table.id)
    const name = nameFor(table.name)
    if (table.external || after?.external) continue
    if (!after) {
      keepsakes.push({ name, table: table.id, key: [], columns: [] })
      warnings.push({ table: table.id, message: `${table.name} is dropped. Its rows are kept in ${name}.`, effect: 'kept' })
      continue
    }
    const columns = table === after ? [] : lossyColumns(table, after)
    if (columns.length === 0) continue
    const key = lastingKey(table, after, columns)
    const said = columns.map((column) => `${table.name}.${column.name}`).join(', ')
    if (!key) {
      warnings.push({ table: table.id, message: `${said}: the values are lost, because no key of ${table.name} outlives the change to find the rows again by.`, effect: 'lost' })
      continue
    }
    keepsakes.push({ name, table: table.id, key, columns })
    warnings.push({ table: table.id, message: `${said}: the values are kept in ${name}.`, effect: 'kept' })
  }
  return { keepsakes, warnings }
}

/** The columns of a key by which a row can be found again on the other side of the change. */
function lastingKey(before: Table, after: Table, lossy: Keepsake['columns']): string[] | undefined {
  const lasts = (id: string): boolean => columnOf(before, id)?.required === true && columnOf(after, id) !== undefined && !lossy.some((column) => column.id === id)
  const keys = before.primaryKey ? [before.primaryKey, ...before.uniques] : before.uniques
  return keys.find((key) => key.columns.every(lasts))?.columns
}

function lossyColumns(before: Table, after: Table): Keepsake['columns'] {
  return before.columns.flatMap((column): Keepsake['columns'] => {
    const now = columnOf(after, column.id)
    if (!now) return [{ id: column.id, name: column.name, why: 'dropped' }]
    const filled = !column.required && now.required && now.default !== undefined
    const computed = column.computed === undefined && now.computed !== undefined
    return holdsAll(column.type, now.type) && !filled && !computed ? [] : [{ id: column.id, name: column.name, why: 'narrowed' }]
  })
}

const SIZES = { small: 5, normal: 10, big: 19 }

/** True where every value of the first type comes back unchanged from the second. */
export function holdsAll(from: Type, to: Type): boolean {
  if (typeText(from) === typeText(to)) return true
  const length = (type: Type): number => (type.kind === 'text' ? (type.length ?? Infinity) : type.kind === 'char' ? type.length : NaN)
  if (to.kind === 'text') {
    if (from.kind === 'text' || from.kind === 'char') return from.kind === 'text' && length(to) >= length(from)
    return to.length === undefined && ['integer', 'uuid'].includes(from.kind)
  }
  if (from.kind === 'integer' && to.kind === 'integer') return SIZES[to.size] >= SIZES[from.size]
  if (from.kind === 'integer' && to.kind === 'decimal') return to.precision - to.scale >= SIZES[from.size]
  if (from.kind === 'decimal' && to.kind === 'decimal') return to.scale >= from.scale && to.precision - to.scale >= from.precision - from.scale
  return false
}

/** Rows that the restructurings between the two states move: those recorded since, where both ends are there. */
function carriesBetween(from: Design, to: Design): CarryStep[] {
  return to.carries.flatMap((carry): CarryStep[] => {
    const source = tableOf(from, carry.source)
    const target = tableOf(to, carry.target)
    if (!source || !target || tableOf(from, carry.target) || from.carries.some((each) => each.id === carry.id)) return []
    if (!carry.where.every((id) => columnOf(source, id))) return []
    const columns = carry.columns.flatMap((each): CarryStep['columns'] => {
      const column = columnOf(target, each.to)
      if (!column) return []
      if ('value' in each) return [{ to: each.to, value: each.value, type: column.type }]
      return columnOf(source, each.from) ? [{ to: each.to, from: each.from }] : []
    })
    return [{ source: source.id, target: target.id, where: carry.where, columns }]
  })
}

/** Columns whose type changes to one that not every value can be turned into. */
function unconvertible(from: Design, to: Design): Warning[] {
  return to.tables.flatMap((table) => {
    const before = tableOf(from, table.id)
    if (!before || before === table) return []
    return table.columns.flatMap((column): Warning[] => {
      const old = columnOf(before, column.id)
      if (!old || holdsAll(old.type, column.type) || column.type.kind === 'text' || column.type.kind === 'char') return []
      return [{ table: table.id, message: `${table.name}.${column.name} changes from ${typeText(old.type, from.enums)} to ${typeText(column.type, to.enums)}: the migration stops at a value that cannot be turned into one.`, effect: 'stops' }]
    })
  })
}

/** Conditions that the rows were not held to before: checks, unique indexes, and lists that lose a value. */
function newlyHeld(from: Design, to: Design): Warning[] {
  const lost = (table: Table): string[] => table.columns.flatMap(({ type }) => {
    const list = type.kind === 'enum' ? to.enums.find((each) => each.id === type.enum) : undefined
    const before = list && from.enums.find((each) => each.id === list.id)
    return list && before?.values.some((value) => !list.values.includes(value)) ? [list.name] : []
  })
  return to.tables.flatMap((table): Warning[] => {
    const before = tableOf(from, table.id)
    if (!before) return []
    const checks = table.checks.filter((check) => !before.checks.some((each) => each.id === check.id && each.condition === check.condition))
    const indexes = table.indexes.filter((index) => index.unique && !before.indexes.some((each) => each.id === index.id && each.unique && JSON.stringify([each.columns, each.where]) === JSON.stringify([index.columns, index.where])))
    const stops = (message: string): Warning => ({ table: table.id, message, effect: 'stops' })
    return [
      ...checks.map((check) => stops(`${table.name} gets the check ${showExpression(check.condition, table.columns)}: the migration stops at a row that does not meet it.`)),
      ...indexes.map((index) => stops(`${columnsIn(table, index.columns.map(({ column }) => column)).map((column) => column.name).join(', ')} becomes unique in ${table.name}: the migration stops where a value is there twice.`)),
      ...lost(table).map((name) => stops(`${name} loses a value: the migration stops at a row of ${table.name} that has it.`))
    ]
  })
}

/** Columns that become required with nothing, or nothing fitting, to put into the rows that exist. */
function unfillable(from: Design, to: Design, catalog: Catalog, restored: readonly Keepsake[] = []): Warning[] {
  // Whether the engine fills a column by itself is the catalog's to say: not every dialect counts every column.
  const filled = new Set(catalog.tables.flatMap((table) => table.columns.filter((column) => column.generated || column.default !== undefined).map((column) => column.id)))
  return to.tables.flatMap((table) => {
    const before = tableOf(from, table.id)
    if (!before || before === table) return []
    return table.columns.filter((column) => column.required || column.default).flatMap((column): Warning[] => {
      const old = columnOf(before, column.id)
      const kept = restored.some((keepsake) => keepsake.columns.some((each) => each.id === column.id))
      const keys = table.primaryKey ? [table.primaryKey, ...table.uniques] : table.uniques
      if (!old && !kept && column.default && column.default.kind !== 'generated' && keys.some((key) => key.columns.every((id) => id === column.id || !columnOf(before, id)))) {
        return [{ table: table.id, ...allTheSame(table, column) }]
      }
      if (!column.required || old?.required || filled.has(column.id)) return []
      return [{ table: table.id, ...(old ? nowRequired(table, column) : kept ? keptOnly(table, column) : nothingToPut(table, column)) }]
    })
  })
}

const nowRequired = (table: Table, column: Column): Omit<Warning, 'table'> => ({
  message: `${table.name}.${column.name} becomes required and has no default: the migration stops if a row has it empty. Fill those rows first, or give it a default.`, effect: 'stops'
})

const nothingToPut = (table: Table, column: Column): Omit<Warning, 'table'> => ({
  message: `${table.name}.${column.name} is new, required and has no default: the migration stops if ${table.name} has rows. Give it a default, or let it be empty first.`, effect: 'stops'
})

const allTheSame = (table: Table, column: Column): Omit<Warning, 'table'> => ({
  message: `${table.name}.${column.name} is new and a key, and every row gets the same default: the migration stops if ${table.name} has more than one row. Add the column first, fill it, and make it a key in a later version.`, effect: 'stops'
})

const keptOnly = (table: Table, column: Column): Omit<Warning, 'table'> => ({
  message: `${table.name}.${column.name} is put back from what was kept; a row added since has nothing to put there, and the down step stops at it.`, effect: 'kept'
})

/** What the down step drops that the up step had made. */
function losses(from: Design, to: Design): Warning[] {
  return from.tables.flatMap((table): Warning[] => {
    const after = tableOf(to, table.id)
    if (!after) return [{ table: table.id, message: `Going back drops ${table.name} with the rows it has by then.`, effect: 'lost' }]
    const gone = table === after ? [] : table.columns.filter((column) => !columnOf(after, column.id))
    return gone.length === 0 ? [] : [{ table: table.id, message: `Going back drops ${gone.map((column) => `${table.name}.${column.name}`).join(', ')} with the values by then.`, effect: 'lost' }]
  })
}
