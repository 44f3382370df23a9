import { sameSet } from '../design/directory.ts'
import type { ForeignKey, Table } from '../design/model.ts'
import { once } from '../once.ts'

/**
 * True where every column of the foreign key stands in its own table's primary key: the row has no
 * identity without the one it refers to.
 */
export function isIdentifying(table: Table, foreignKey: ForeignKey): boolean {
  const key = table.primaryKey
  return key !== undefined && foreignKey.pairs.every((pair) => key.columns.includes(pair.column))
}

/**
 * The two or more foreign keys that make a table a junction, or none. A junction is recognised, never
 * flagged: its primary key, or a unique key of required columns, holds all columns of at least two of
 * its foreign keys.
 */
export const junctionSides = once((table: Table): ForeignKey[] => {
  const required = new Set(table.columns.filter((column) => column.required).map((column) => column.id))
  const keys = [
    table.primaryKey,
    ...table.uniques.filter((key) => key.columns.every((id) => required.has(id)))
  ]
  for (const key of keys) {
    if (!key) continue
    const inside = table.foreignKeys.filter((foreignKey) =>
      foreignKey.pairs.every((pair) => key.columns.includes(pair.column))
    )
    const distinct = inside.filter(
      (foreignKey, index) =>
        !inside.slice(0, index).some((other) =>
          sameSet(
            other.pairs.map((p) => p.column),
            foreignKey.pairs.map((p) => p.column)
          )
        )
    )
    if (distinct.length >= 2) return distinct
  }
  return []
})

export function isJunction(table: Table): boolean {
  return junctionSides(table).length >= 2
}
