import { ref, watch, type Ref } from 'vue'
import type { StateName } from '../api/client.ts'

interface States {
  from: StateName | undefined
  to: StateName
}

/** Between which states one has chosen to look, by design, and which version was the last then. */
const chosen = new Map<string, States & { last: number | undefined }>()

/** From which state to which one looks. */
export interface Compared {
  from: Ref<StateName | undefined>
  to: Ref<StateName>
  /** Looks between others, and does so again after another screen. */
  choose(states: Partial<States>): void
  /** Looks between others for now. */
  show(from: StateName | undefined, to: StateName): void
}

/**
 * From which state to which one looks: as was chosen, or from the last version to the draft. Who chose the last
 * version looks from the one that is the last by now.
 */
export function comparedIn(design: string, last: Readonly<Ref<number | undefined>>): Compared {
  const before = chosen.get(design)
  const isLast = before === undefined || before.from === before.last
  const from = ref<StateName | undefined>(isLast ? last.value : before.from)
  const to = ref<StateName>(before?.to ?? 'draft')
  watch(last, (number) => {
    from.value ??= number
  })
  return {
    from,
    to,
    choose: (states) => {
      from.value = states.from ?? from.value
      to.value = states.to ?? to.value
      chosen.set(design, { from: from.value, to: to.value, last: last.value })
    },
    show: (first, second) => {
      chosen.delete(design)
      from.value = first
      to.value = second
    }
  }
}
