import { onBeforeUnmount, ref, watch, type Ref } from 'vue'

/** How long something may take before that is said (milliseconds). */
const SOON = 400

/** Whether something that goes on takes long enough to be said. */
export function useSlow(goesOn: Ref<boolean>): Ref<boolean> {
  const isSlow = ref(false)
  let timer: ReturnType<typeof setTimeout> | undefined
  watch(
    goesOn,
    (on) => {
      clearTimeout(timer)
      isSlow.value = false
      if (on) timer = setTimeout(() => (isSlow.value = true), SOON)
    },
    { immediate: true }
  )
  onBeforeUnmount(() => clearTimeout(timer))
  return isSlow
}
