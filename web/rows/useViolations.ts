import { onBeforeUnmount, shallowRef, watch, type ShallowRef } from 'vue'
import { violationsByRule, type Violation } from '../../core/design/violations.ts'
import { useDesign } from '../stores/design.ts'

/** How long looking for what breaks a rule may take before the page has its turn (milliseconds). */
const SLICE = 12

/** What breaks a rule of the open design's rows, found rule by rule so that the page goes on meanwhile. */
export function useViolations(): ShallowRef<readonly Violation[]> {
  const store = useDesign()
  const found = shallowRef<readonly Violation[]>([])
  let asked = 0

  async function look(): Promise<void> {
    const number = ++asked
    if (!store.design) return void (found.value = [])
    const all: Violation[] = []
    let until = performance.now() + SLICE
    for (const violations of violationsByRule(store.design)) {
      all.push(...violations)
      if (performance.now() < until) continue
      await new Promise((resolve) => setTimeout(resolve))
      if (number !== asked) return
      until = performance.now() + SLICE
    }
    found.value = all
  }

  watch(
    () => store.design?.tables,
    () => void look(),
    { immediate: true }
  )
  onBeforeUnmount(() => asked++)
  return found
}
