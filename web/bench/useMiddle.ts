import { computed, type ComputedRef } from 'vue'
import { useRoute } from 'vue-router'
import { tableOf } from '../../core/design/directory.ts'
import type { Design, Table } from '../../core/design/model.ts'
import { useDesign } from '../stores/design.ts'
import { useTrail } from './trail.ts'

/**
 * The table in the middle of a screen: the one that the address names, else the one that was walked to last.
 * @param other which it is where there is neither; the first, unless something else is said.
 */
export function useMiddle(
  other: (design: Design) => Table | undefined = ({ tables }) => tables[0]
): ComputedRef<Table | undefined> {
  const [store, trail, route] = [useDesign(), useTrail(), useRoute()]
  return computed(() => {
    const design = store.design
    if (!design) return undefined
    const named = tableOf(design, String(route.params.table ?? ''))
    return named ?? tableOf(design, trail.tables.at(-1) ?? '') ?? other(design)
  })
}
