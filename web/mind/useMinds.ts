import { computed, type ComputedRef } from 'vue'
import { namesIn, referencesTo, nameOfTable } from '../../core/design/directory.ts'
import type { Design, ForeignKey, Table } from '../../core/design/model.ts'
import type { ChangeOffer, ChangePlace } from '../../core/restructure/change.ts'
import { offersFor } from '../../core/restructure/index.ts'

/** What is offered for one thing. */
export interface Group {
  /** The id of the relationship; of the table itself none. */
  id: string
  about: string
  offers: ChangeOffer[]
}

/** A relationship; where there are several between the same two tables, with what it goes by. */
function about(design: Design, child: Table, foreignKey: ForeignKey): string {
  const says = `${child.name} refers to ${nameOfTable(design, foreignKey.table)}`
  const isOnly = child.foreignKeys.every((each) => each === foreignKey || each.table !== foreignKey.table)
  const by = foreignKey.pairs.map(({ column }) => column)
  return isOnly ? says : `${says} by ${namesIn(child, by)}`
}

/** The changes of mind that fit a table, and each of its relationships, either way. */
export function useMinds(
  design: ComputedRef<Design | undefined>,
  table: ComputedRef<Table>
): ComputedRef<Group[]> {
  return computed(() => {
    const all = design.value
    if (!all) return []
    const of = (id: string, about: string, place: ChangePlace): Group => ({
      id,
      about,
      offers: offersFor(all, place)
    })
    const own = table.value.foreignKeys.map((foreignKey) =>
      of(foreignKey.id, about(all, table.value, foreignKey), { table: table.value, foreignKey })
    )
    const others = referencesTo(all, table.value.id)
      .filter((each) => each.table.id !== table.value.id)
      .map(({ table: child, foreignKey }) =>
        of(foreignKey.id, about(all, child, foreignKey), { table: child, foreignKey })
      )
    return [of('', table.value.name, { table: table.value }), ...own, ...others].filter(
      ({ offers }) => offers.length > 0
    )
  })
}
