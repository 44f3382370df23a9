import { computed, reactive, type ComputedRef } from 'vue'
import type { Table } from '../../core/design/model.ts'
import { PLAIN_VIEW, shownIn, type RowsView, type ShownColumn } from '../../core/rows/shown.ts'
import { useDesign } from '../stores/design.ts'

/** How each table's rows are looked at, by its id; it lasts as long as the page is open. */
const views = reactive(new Map<string, RowsView>())

/** Which columns of a table's rows are shown, and in which order the rows stand. */
export function useRowsView(table: ComputedRef<Table | undefined>): {
  view: ComputedRef<RowsView>
  shown: ComputedRef<ShownColumn[]>
  change: (next: Partial<RowsView>) => void
  sortBy: (id: string) => void
  groupBy: (id: string) => void
} {
  const store = useDesign()
  const view = computed(() => views.get(table.value?.id ?? '') ?? PLAIN_VIEW)
  const shown = computed(() =>
    store.design && table.value ? shownIn(store.design, table.value, view.value) : []
  )
  const change = (next: Partial<RowsView>): void => {
    if (table.value) views.set(table.value.id, { ...view.value, ...next })
  }
  /** Up, then down, then as they stand. */
  const sortBy = (by: string): void => {
    const { sort } = view.value
    const next =
      sort?.by !== by ? { by, descending: false } : sort.descending ? undefined : { by, descending: true }
    change({ sort: next })
  }
  /** Together by a column, and apart again by the same. */
  const groupBy = (by: string): void => change({ group: view.value.group === by ? undefined : by })
  return { view, shown, change, sortBy, groupBy }
}
