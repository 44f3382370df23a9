import { computed, onBeforeUnmount, shallowRef, watch, type ComputedRef, type Ref } from 'vue'
import { fold } from '../../core/design/directory.ts'
import type { Table } from '../../core/design/model.ts'
import { sorted } from '../../core/design/sorted.ts'
import { Gathering, groupsOf, type RowGroup } from '../../core/rows/grouped.ts'
import { mayGroup, orderBy, shownText, type RowsView, type ShownColumn } from '../../core/rows/shown.ts'
import { useDesign } from '../stores/design.ts'
import { inSlices, slicer } from './slices.ts'

/** With more rows than this one waits for what else is typed. */
const MANY = 2000
const NONE: readonly RowGroup[] = []
const ALL_PLACES: number[] = []

/** The places of so many rows, of which as many are kept as were ever asked for: a slice is had at once. */
function placesOf(count: number): readonly number[] {
  while (ALL_PLACES.length < count) ALL_PLACES.push(ALL_PLACES.length)
  return ALL_PLACES.slice(0, count)
}

/**
 * The places of the rows that are shown, in their order: all of them, or those in which the words typed stand, as they
 * stand or by a column, and put together by one. Many are looked through and sorted in slices.
 */
export function useOrder(
  table: ComputedRef<Table | undefined>,
  filter: Ref<string>,
  shown: ComputedRef<readonly ShownColumn[]>,
  view: ComputedRef<RowsView>
): { order: ComputedRef<readonly number[]>; groups: ComputedRef<readonly RowGroup[]> } {
  const store = useDesign()
  const found = shallowRef<{ order: readonly number[]; groups: readonly RowGroup[] }>()
  let asked = 0

  async function look(): Promise<void> {
    const [now, design, wanted] = [table.value, store.design, fold(filter.value.trim())]
    const number = ++asked
    if (!now || !design) return void (found.value = undefined)
    const { sort, group } = view.value
    const by = sort && shown.value.find(({ id }) => id === sort.by)
    const together = group && mayGroup(design, now, view.value).find(({ id }) => id === group)
    if (wanted === '' && !by && !together) return void (found.value = undefined)
    const goOn = slicer(() => number === asked)
    // More may be typed at once.
    if (now.rows.length > MANY) await new Promise((resolve) => setTimeout(resolve))
    if (number !== asked) return
    let places: number[] = []
    for (const [place, row] of now.rows.entries()) {
      const has = (each: ShownColumn): boolean => fold(shownText(design, now, each, row)).includes(wanted)
      if (wanted === '' || shown.value.some(has)) places.push(place)
      if (!(await goOn())) return
    }
    if (by) {
      const { keyed, compare } = orderBy(design, now, by, sort.descending)
      const keys = []
      for (const place of places) {
        keys.push(keyed(place))
        if (!(await goOn())) return
      }
      const keysInOrder = await inSlices(sorted(keys, compare), goOn)
      if (!keysInOrder) return
      places = keysInOrder.map(({ place }) => place)
    }
    if (!together) return void (found.value = { order: places, groups: [] })
    const gathering = new Gathering(design, now, together)
    for (const place of places) {
      gathering.add(place)
      if (!(await goOn())) return
    }
    const all = await inSlices(sorted(gathering.all, gathering.compare), goOn)
    if (all) found.value = groupsOf(all)
  }

  // A row that is written in stays where it is until something else is asked for.
  const asks = computed(() => {
    const { sort, group } = view.value
    return JSON.stringify([table.value?.id, table.value?.rows.length, filter.value, sort, group])
  })
  watch([asks, () => shown.value.map(({ id }) => id).join(' ')], () => void look(), { immediate: true })
  onBeforeUnmount(() => asked++)
  const count = computed(() => table.value?.rows.length ?? 0)
  const all = computed(() => placesOf(count.value))
  return {
    order: computed(() => found.value?.order ?? all.value),
    groups: computed(() => found.value?.groups ?? NONE)
  }
}
