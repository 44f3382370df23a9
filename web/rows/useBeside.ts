import { onBeforeUnmount, shallowRef, computed, watch, type ComputedRef } from 'vue'
import type { Row, Table } from '../../core/design/model.ts'
import { rowLabel } from '../../core/relate/label.ts'
import { manysOf, onesOf, type ManySide, type OneSide } from '../../core/rows/sides.ts'
import { useDesign } from '../stores/design.ts'

/**
 * What the chosen row of a table is called, what it refers to and what refers to it. Of another row of the same table
 * it follows in a task of its own, so that whoever writes or walks on does not wait for it.
 */
export function useBeside(
  table: ComputedRef<Table | undefined>,
  row: ComputedRef<Row | undefined>
): { label: ComputedRef<string>; ones: ComputedRef<OneSide[]>; manys: ComputedRef<ManySide[]> } {
  const store = useDesign()
  const now = computed(() =>
    store.design && table.value && row.value
      ? { design: store.design, table: table.value, row: row.value }
      : undefined
  )
  const seen = shallowRef(now.value)
  let timer: ReturnType<typeof setTimeout> | undefined
  watch(now, (next) => {
    clearTimeout(timer)
    if (next && next.table.id === seen.value?.table.id) timer = setTimeout(() => (seen.value = next))
    else seen.value = next
  })
  onBeforeUnmount(() => clearTimeout(timer))
  return {
    label: computed(() => (seen.value ? rowLabel(seen.value.design, seen.value.table, seen.value.row) : '')),
    ones: computed(() => (seen.value ? onesOf(seen.value.design, seen.value.table, seen.value.row) : [])),
    manys: computed(() => (seen.value ? manysOf(seen.value.design, seen.value.table, seen.value.row) : []))
  }
}
