import { ref, watch, type Ref } from 'vue'
import type { StateName } from '../api/client.ts'

/** Between which states one has looked last, by design, and which version was the last then. */
const looked = new Map<string, { from: StateName | undefined; to: StateName; last: number | undefined }>()

/**
 * From which state to which one looks: where one was, or from the last version to the draft. Who looked from the last
 * version does so from the one that is the last by now.
 */
export function comparedIn(
  design: string,
  last: Readonly<Ref<number | undefined>>
): { from: Ref<StateName | undefined>; to: Ref<StateName> } {
  const before = looked.get(design)
  const wasLast = before === undefined || before.from === before.last
  const from = ref<StateName | undefined>(wasLast ? last.value : before.from)
  const to = ref<StateName>(before?.to ?? 'draft')
  watch(last, (number) => {
    from.value ??= number
  })
  watch([from, to, last], () => looked.set(design, { from: from.value, to: to.value, last: last.value }), {
    immediate: true
  })
  return { from, to }
}
