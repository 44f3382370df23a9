import { byId } from '../design/by-id.ts'
import { isEqual } from '../design/equal.ts'
import { whileAlike } from '../kept.ts'
import { once } from '../once.ts'
import type { Catalog, CatalogForeignKey, CatalogTable } from './catalog.ts'
import type { Facts } from './facts.ts'
import type { Remark } from './remark.ts'
import { sayTable } from './qualified.ts'

/**
 * Tables that need each other: each refers, by columns that are required, to one that leads back to it. No row
 * of one can be there before a row of the other, unless references are looked at when all are in.
 */
export function withCircles(catalog: Catalog, facts: Facts): { catalog: Catalog; remarks: Remark[] } {
  const circles = circlesOfNeeds(facts)(catalog.tables)
  if (circles.size === 0) return { catalog, remarks: [] }
  const open = circlesAtOnce(facts)(catalog.tables)
  const remarks = catalog.tables.flatMap((table) => told(table, catalog, circles, open, facts))
  if (!facts.deferrable) return { catalog, remarks }
  const tables = catalog.tables.map((table) => {
    const isIn = (key: CatalogForeignKey): boolean => isInCircle(table, key, circles)
    if (!table.foreignKeys.some(isIn)) return table
    const foreignKeys = table.foreignKeys.map((key) =>
      isIn(key) ? { ...key, deferrable: 'deferred' as const } : key
    )
    return { ...table, foreignKeys }
  })
  return { catalog: { ...catalog, tables }, remarks }
}

function told(
  table: CatalogTable,
  { tables }: Catalog,
  circles: ReadonlyMap<string, number>,
  /** Those in which no reference is said to be deferrable. */
  open: ReadonlyMap<string, number>,
  { title, deferrable }: Facts
): Remark[] {
  const unsaid = table.foreignKeys.find((each) => !each.deferrable && isInCircle(table, each, open))
  const key = unsaid ?? table.foreignKeys.find((each) => isInCircle(table, each, circles))
  if (!key) return []
  const parent = sayTable(byId(tables).get(key.table)?.name ?? key.table)
  const needs = `A row of ${sayTable(table.name)} needs one of ${parent}, and that in the end one of ${sayTable(table.name)}`
  if (deferrable)
    return [
      {
        table: table.id,
        message: `${needs}: put them in with one transaction, at whose end they are looked at.`,
        ...(unsaid && {
          finding: {
            rule: 'needed in a circle',
            weight: 'doubtful' as const,
            column: key.columns[0],
            fix: {
              label: 'Look at it when a transaction ends',
              operation: {
                kind: 'foreignKey.setDeferrable' as const,
                table: table.id,
                foreignKey: key.id,
                deferrable: 'deferred' as const
              }
            }
          }
        })
      }
    ]
  const free = key.columns.filter((id) => !table.primaryKey?.columns.includes(id))
  return [
    {
      table: table.id,
      message: `${needs}: in ${title}, which looks at each row at once, no first row can be put in.`,
      finding: {
        rule: 'needed in a circle',
        weight: 'wrong',
        column: key.columns[0],
        ...(free.length > 0 && {
          fix: {
            label: `Let a row of ${sayTable(table.name)} be without`,
            operation: {
              kind: 'batch' as const,
              label: `let a row of ${sayTable(table.name)} be without ${parent}`,
              operations: free.map((column) => ({
                kind: 'column.require' as const,
                table: table.id,
                column,
                required: false
              }))
            }
          }
        })
      }
    }
  ]
}

const isInCircle = (
  table: CatalogTable,
  key: CatalogForeignKey,
  circles: ReadonlyMap<string, number>
): boolean => {
  const circle = circles.get(table.id)
  return circle !== undefined && circle === circles.get(key.table) && isNeeded(table, key)
}

/** A table can have its first row refer to itself. */
const isNeeded = (table: CatalogTable, key: CatalogForeignKey): boolean =>
  key.table !== table.id && key.columns.every((id) => byId(table.columns).get(id)?.required)

/** The parents that a table's rows cannot be without. */
const needsOf = once((table: CatalogTable): readonly string[] =>
  table.foreignKeys.filter((key) => isNeeded(table, key)).map((key) => key.table)
)

/** Those that have to be there before its row is. */
const needsAtOnce = once((table: CatalogTable): readonly string[] =>
  table.foreignKeys.filter((key) => !key.deferrable && isNeeded(table, key)).map((key) => key.table)
)

/** The circles of what tables need, followed from edit to edit for each dialect by itself. */
const circlesBy = (needs: (table: CatalogTable) => readonly string[]) =>
  once((_: Facts) =>
    whileAlike<CatalogTable, Map<string, number>>(
      (one, other) => one.id === other.id && isEqual(needs(one), needs(other)),
      (tables) => circlesIn(tables, needs)
    )
  )
const circlesOfNeeds = circlesBy(needsOf)
const circlesAtOnce = circlesBy(needsAtOnce)

/**
 * The tables that stand in circles, each with the number of its circle (the components that are strongly
 * connected, by Tarjan's algorithm; without recursion, since a chain of tables may be long).
 */
export function circlesIn(
  tables: readonly CatalogTable[],
  needs: (table: CatalogTable) => readonly string[]
): Map<string, number> {
  const known = byId(tables)
  const order = new Map<string, number>()
  const lowest = new Map<string, number>()
  const open: string[] = []
  const isOpen = new Set<string>()
  const found = new Map<string, number>()
  const close = (id: string): void => {
    const circle = open.splice(open.lastIndexOf(id))
    for (const each of circle) isOpen.delete(each)
    if (circle.length > 1) for (const each of circle) found.set(each, order.get(id) as number)
  }
  for (const start of tables) {
    const way: { id: string; needs: readonly string[]; next: number }[] = []
    const enter = (id: string): void => {
      const table = known.get(id)
      if (!table || order.has(id)) return
      order.set(id, order.size)
      lowest.set(id, order.get(id) as number)
      open.push(id)
      isOpen.add(id)
      way.push({ id, needs: needs(table), next: 0 })
    }
    const sink = (id: string, to: number): void => void lowest.set(id, Math.min(lowest.get(id) as number, to))
    enter(start.id)
    for (let top = way.at(-1); top; top = way.at(-1)) {
      const parent = top.needs[top.next++]
      if (parent !== undefined) {
        if (isOpen.has(parent)) sink(top.id, order.get(parent) as number)
        else enter(parent)
        continue
      }
      way.pop()
      if (lowest.get(top.id) === order.get(top.id)) close(top.id)
      const below = way.at(-1)
      if (below) sink(below.id, lowest.get(top.id) as number)
    }
  }
  return found
}
