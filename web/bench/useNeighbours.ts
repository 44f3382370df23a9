import { computed, type ComputedRef } from 'vue'
import { referencesTo, tableOf } from '../../core/design/directory.ts'
import type { Design, ForeignKey, Table } from '../../core/design/model.ts'
import { junctionSides } from '../../core/relate/junction.ts'

/**
 * A table beside the one in the middle, and the foreign key between them. `far`: the other sides of a
 * junction.
 */
export interface Neighbour {
  table: Table
  child: Table
  parent: Table
  foreignKey: ForeignKey
  far: Table[]
}

/**
 * What the table refers to (its ones) and what refers to it (its manys). A table related to itself stands
 * on both sides.
 */
export function useNeighbours(
  design: ComputedRef<Design | undefined>,
  middle: ComputedRef<Table | undefined>
): { ones: ComputedRef<Neighbour[]>; manys: ComputedRef<Neighbour[]> } {
  const ones = computed(() => {
    const [all, table] = [design.value, middle.value]
    if (!all || !table) return []
    return table.foreignKeys.flatMap((foreignKey): Neighbour[] => {
      const parent = tableOf(all, foreignKey.table)
      return parent ? [{ table: parent, child: table, parent, foreignKey, far: [] }] : []
    })
  })
  const manys = computed(() => {
    const [all, table] = [design.value, middle.value]
    if (!all || !table) return []
    return referencesTo(all, table.id).map(({ table: child, foreignKey }): Neighbour => ({
      table: child,
      child,
      parent: table,
      foreignKey,
      far: junctionSides(child).some((side) => side.id === foreignKey.id)
        ? junctionSides(child)
            .filter((side) => side.id !== foreignKey.id)
            .flatMap((side) => tableOf(all, side.table) ?? [])
        : []
    }))
  })
  return { ones, manys }
}
