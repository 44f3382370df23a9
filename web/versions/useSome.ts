import { computed, shallowRef, watch, type Ref } from 'vue'
import type { Design } from '../../core/design/model.ts'
import { Choice, type Chosen } from '../../core/version/choice.ts'

/**
 * Which of the draft's changes since the last version the next one is to have: all of them, until some are
 * left out. What hangs on a change comes and goes with it.
 * @param before the last version, where the draft is compared with that
 */
export function useSome(before: Ref<Design | undefined>, draft: Ref<Design | undefined>) {
  const left = shallowRef<Chosen>(new Set())
  /** The changes that came or went with the last one. */
  const along = shallowRef<Chosen>(new Set())
  const choice = computed(() =>
    before.value && draft.value ? new Choice(before.value, draft.value) : undefined
  )
  const chosen = computed<Chosen>(() => {
    const all = [...(choice.value?.all ?? [])]
    return new Set(all.filter((key) => !left.value.has(key)))
  })
  // What is left out stays so, with what hangs on it now, while the draft goes on.
  watch(choice, (now) => {
    along.value = new Set()
    const out = [...left.value].filter((key) => now?.knows([key]))
    if (now)
      choose(
        now,
        out.reduce<Chosen>((keys, key) => now.without(keys, key), now.all)
      )
    else left.value = new Set()
  })

  function choose(now: Choice, keys: Chosen): void {
    left.value = new Set([...now.all].filter((key) => !keys.has(key)))
  }

  function take(key: string, isTaken: boolean): void {
    const now = choice.value
    if (!now) return
    const before = chosen.value
    choose(now, isTaken ? now.with(before, key) : now.without(before, key))
    const moved = [...now.all].filter((each) => before.has(each) !== chosen.value.has(each))
    along.value = new Set(moved.filter((each) => each !== key))
  }

  function takeAll(): void {
    left.value = new Set()
    along.value = new Set()
  }

  function takeNone(): void {
    left.value = new Set(choice.value?.all ?? [])
    along.value = new Set()
  }

  /** The keys of what is chosen, where that is not all. */
  const only = computed(() => (left.value.size > 0 ? [...chosen.value] : undefined))

  const of = computed(() => choice.value?.delta.length ?? 0)
  /** The state that is to be the next version, where it is not the draft. */
  const design = computed(() => (only.value ? choice.value?.design(chosen.value) : undefined))

  return { chosen, along, only, of, design, take, takeAll, takeNone }
}
export type Some = ReturnType<typeof useSome>
