import { onBeforeUnmount, shallowRef, watch, type ShallowRef } from 'vue'
import type { Finding } from '../../core/check/finding.ts'
import { findingsInTurns } from '../../core/check/index.ts'
import { openFindings } from '../../core/check/open.ts'
import type { Design } from '../../core/design/model.ts'
import { soon } from '../rows/slices.ts'
import { judgedAt } from '../rulings/useBrokenRulings.ts'
import { useDesign } from '../stores/design.ts'

/**
 * The open findings of the design as it is shown, looked for in slices: those of the state before until then, and
 * nothing where none was looked through yet. Rulings over many rows are judged a little later.
 * @param pause how long nothing may change before it is looked through (milliseconds)
 */
export function useOpenFindings(pause = 0): ShallowRef<readonly Finding[] | undefined> {
  const store = useDesign()
  const found = shallowRef<readonly Finding[]>()
  let timer: ReturnType<typeof setTimeout> | undefined
  const look = (design: Design): void => {
    const isWanted = (): boolean => store.design === design
    if (isWanted()) soon(findingsInTurns(design), isWanted, () => (found.value = openFindings(design)))
  }
  watch(
    [() => store.design, judgedAt],
    ([design]) => {
      clearTimeout(timer)
      if (!design) found.value = undefined
      else if (pause === 0) look(design)
      else timer = setTimeout(() => look(design), pause)
    },
    { immediate: true }
  )
  onBeforeUnmount(() => clearTimeout(timer))
  return found
}
