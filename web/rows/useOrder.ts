import { computed, onBeforeUnmount, shallowRef, watch, type ComputedRef, type Ref } from 'vue'
import { fold } from '../../core/design/directory.ts'
import type { Table } from '../../core/design/model.ts'
import { cellText } from '../../core/rows/cells.ts'
import { useDesign } from '../stores/design.ts'

/** How long a slice of looking through rows may take, so that the page goes on (milliseconds). */
const SLICE = 12

/**
 * The places of the rows that are shown, in their order: all of them, or those in which the words typed stand. Many are
 * looked through in slices.
 */
export function useOrder(
  table: ComputedRef<Table | undefined>,
  filter: Ref<string>
): { order: ComputedRef<readonly number[]> } {
  const store = useDesign()
  const found = shallowRef<readonly number[]>()
  let asked = 0

  async function look(): Promise<void> {
    const [now, design, wanted] = [table.value, store.design, fold(filter.value.trim())]
    const number = ++asked
    if (!now || !design || wanted === '') return void (found.value = undefined)
    const places: number[] = []
    let until = performance.now() + SLICE
    for (const [place, row] of now.rows.entries()) {
      if (now.columns.some((column) => fold(cellText(design, now, column, row)).includes(wanted)))
        places.push(place)
      if (performance.now() < until) continue
      await new Promise((resolve) => setTimeout(resolve))
      if (number !== asked) return
      until = performance.now() + SLICE
    }
    found.value = places
  }

  watch([() => table.value?.id, filter, () => table.value?.rows], () => void look(), { immediate: true })
  onBeforeUnmount(() => asked++)
  const all = computed(() => (table.value?.rows ?? []).map((_, place) => place))
  return { order: computed(() => found.value ?? all.value) }
}
