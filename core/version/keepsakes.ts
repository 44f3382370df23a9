import { columnOf, keysOf, tableOf } from '../design/directory.ts'
import type { Design, Table } from '../design/model.ts'
import type { Fill } from '../design/carry.ts'
import type { Type } from '../design/type.ts'
import type { Catalog } from '../dialect/catalog.ts'
import type { Keepsake, Place } from '../dialect/migration.ts'
import { holdsAll } from './holds.ts'
import { fillsColumn, reachesEveryRow } from './moves.ts'
import type { Warning } from './warnings.ts'

interface Keeping {
  after: Catalog
  /** What the way back fills from elsewhere, so that it need not be kept. */
  back: readonly Fill[]
  nameFor(table: string): string
}

/**
 * What the way there keeps aside of what it drops or narrows, and what it must count early to find rows
 * again by.
 */
export function findKeepsakes(
  from: Design,
  to: Design,
  { after: catalog, back, nameFor }: Keeping
): { keepsakes: Keepsake[]; warnings: Warning[]; early: Place[] } {
  const early: Place[] = []
  const keepsakes: Keepsake[] = []
  const warnings: Warning[] = []
  for (const table of from.tables) {
    const after = tableOf(to, table.id)
    const name = nameFor(table.name)
    if (table.external || after?.external) continue
    if (!after) {
      keepsakes.push({ name, table: table.id, key: [], columns: [] })
      warnings.push({
        table: table.id,
        message: `${table.name} is dropped. Its rows are kept in ${name}.`,
        effect: 'kept'
      })
      continue
    }
    const columns =
      table === after
        ? []
        : lossyColumns(table, after).filter(
            (column) =>
              !back.some((fill) => fillsColumn(fill, table.id, column.id) && reachesEveryRow(fill, table))
          )
    if (columns.length === 0) continue
    const made = countedKey(table, after, catalog)
    const key = lastingKey(table, after, columns) ?? (made && [made])
    if (made && key?.includes(made) && !early.some((place) => place.column === made))
      early.push({ table: table.id, column: made })
    const said = columns.map((column) => `${table.name}.${column.name}`).join(', ')
    if (!key) {
      warnings.push({
        table: table.id,
        message: `${said}: the values are lost, because no key of ${table.name} outlives the change to find the rows again by.`,
        effect: 'lost'
      })
      continue
    }
    keepsakes.push({ name, table: table.id, key, columns })
    warnings.push({ table: table.id, message: `${said}: the values are kept in ${name}.`, effect: 'kept' })
  }
  return { keepsakes, warnings, early }
}

/**
 * The columns that can be put back before anything is read: not those of a list of values, which may not
 * be there yet.
 */
export function keptColumns(from: Design, keepsakes: readonly Keepsake[]): Place[] {
  return keepsakes.flatMap(({ table, columns }) => {
    const before = tableOf(from, table)
    const isList = (id: string): boolean =>
      before?.columns.find((column) => column.id === id)?.type.kind === 'enum'
    return columns
      .filter(({ id, why }) => why === 'dropped' && !isList(id))
      .map(({ id }) => ({ table, column: id }))
  })
}

/**
 * A new key that the engine counts: rows are found again by it when it is counted before anything is kept.
 */
function countedKey(before: Table, after: Table, catalog: Catalog): string | undefined {
  const generated =
    catalog.tables
      .find((each) => each.id === after.id)
      ?.columns.filter((column) => column.generated && !columnOf(before, column.id)) ?? []
  return generated.find((column) =>
    keysOf(after).some((key) => key.columns.length === 1 && key.columns[0] === column.id)
  )?.id
}

/** The columns of a key by which a row can be found again on the other side of the change. */
function lastingKey(before: Table, after: Table, lossy: Keepsake['columns']): string[] | undefined {
  const lasts = (id: string): boolean =>
    columnOf(before, id)?.required === true &&
    columnOf(after, id) !== undefined &&
    !lossy.some((column) => column.id === id)
  return keysOf(before).find((key) => key.columns.every(lasts))?.columns
}

/** A text stays itself, or the migration stops at it. */
const isText = (...types: Type[]): boolean => types.every(({ kind }) => kind === 'text' || kind === 'char')

function lossyColumns(before: Table, after: Table): Keepsake['columns'] {
  return before.columns.flatMap((column): Keepsake['columns'] => {
    // What is computed is computed again.
    if (column.computed !== undefined) return []
    const now = columnOf(after, column.id)
    if (!now) return [{ id: column.id, name: column.name, why: 'dropped' }]
    const filled = !column.required && now.required && now.default !== undefined
    const comesBack = holdsAll(column.type, now.type) || isText(column.type, now.type)
    return comesBack && !filled && now.computed === undefined
      ? []
      : [{ id: column.id, name: column.name, why: 'narrowed' }]
  })
}
