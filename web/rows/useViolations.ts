import { onBeforeUnmount, shallowRef, watch, type ShallowRef } from 'vue'
import { violationsByRule, type Violation } from '../../core/design/violations.ts'
import { sizeOf } from '../../core/design/size.ts'
import { useDesign } from '../stores/design.ts'
import { slicer } from './slices.ts'

/** What breaks a rule of the open design's rows, found in slices so that the page goes on meanwhile. */
export function useViolations(): ShallowRef<readonly Violation[]> {
  const store = useDesign()
  const found = shallowRef<readonly Violation[]>([])
  let asked = 0

  async function look(): Promise<void> {
    const number = ++asked
    if (!store.design) return void (found.value = [])
    // What was typed is shown first.
    await new Promise((resolve) => setTimeout(resolve))
    if (number !== asked || !store.design) return
    const all: Violation[] = []
    const goOn = slicer(() => number === asked)
    for (const violations of violationsByRule(store.design)) {
      all.push(...(violations ?? []))
      if (!(await goOn())) return
    }
    found.value = all
    // What the first edit would have to wait for otherwise.
    sizeOf(store.design)
  }

  watch(
    () => store.design?.tables,
    () => void look(),
    { immediate: true }
  )
  onBeforeUnmount(() => asked++)
  return found
}
