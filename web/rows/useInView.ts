import { computed, onBeforeUnmount, ref, watch, type ComputedRef, type Ref } from 'vue'

/** How high a line is, and how wide the number before it (pixels). */
export const LINE = 26
export const BEFORE = 44
/** So many lines are drawn above and below those in view. */
const AROUND = 4
/** How long after a leap the lines around those in view are drawn (milliseconds). */
const LANDING = 60

/** Things from one to before another. */
export interface Stretch {
  from: number
  to: number
}

/**
 * Which lines and columns of many are in view, and so are drawn: of columns those that are cut off too.
 * @param widths of all columns (pixels).
 * @param always a column that is drawn wherever it is.
 */
export function useInView(
  scroller: Ref<HTMLElement | undefined>,
  lineCount: ComputedRef<number>,
  widths: Ref<readonly number[]>,
  always: () => number | undefined
): {
  lines: ComputedRef<Stretch>
  /** How many lines are drawn at most: those that leave on one side are drawn anew on the other. */
  most: ComputedRef<number>
  columns: ComputedRef<Stretch>
  /** How many lines fill the view. */
  page: ComputedRef<number>
  /** Whether there are columns beyond the right edge. */
  isCut: Ref<boolean>
  /** Whether there are some beyond the left edge. */
  isAside: ComputedRef<boolean>
  /** Looks where the scroller stands, and how large it is. */
  measure: () => void
} {
  const top = ref(0)
  const left = ref(0)
  const height = ref(600)
  const width = ref(1280)
  const isCut = ref(false)
  /** How many lines are drawn around those in view just now: after a leap these come first. */
  const around = ref(AROUND)
  let landing: ReturnType<typeof setTimeout> | undefined

  function measure(): void {
    const view = scroller.value
    // What is not shown keeps what it has drawn, and is there again at once.
    if (!view || view.clientHeight === 0) return
    isCut.value = view.scrollLeft + view.clientWidth < view.scrollWidth - 2
    if (Math.abs(view.scrollTop - top.value) > height.value) leap()
    top.value = view.scrollTop
    left.value = view.scrollLeft
    height.value = view.clientHeight
    width.value = view.clientWidth
  }

  /** All lines are others: those around them are drawn in a task of their own. */
  function leap(): void {
    clearTimeout(landing)
    around.value = 0
    landing = setTimeout(() => (around.value = AROUND), LANDING)
  }

  const resized = new ResizeObserver(measure)
  watch(scroller, (view) => {
    resized.disconnect()
    if (view) resized.observe(view)
  })
  onBeforeUnmount(() => {
    clearTimeout(landing)
    resized.disconnect()
  })

  const lines = computed(() => ({
    from: Math.max(0, Math.floor(top.value / LINE) - around.value),
    to: Math.min(lineCount.value, Math.ceil((top.value + height.value) / LINE) + around.value)
  }))
  const columns = computed(() => {
    const [least, other] = [always(), { from: 0, to: 0 }]
    let end = BEFORE
    for (const [at, each] of widths.value.entries()) {
      const begin = end
      end += each
      if (end < left.value) other.from = at + 1
      if (begin <= left.value + width.value) other.to = at + 1
    }
    if (least === undefined) return other
    return { from: Math.min(other.from, least), to: Math.max(other.to, least + 1) }
  })
  return {
    lines,
    most: computed(() => Math.ceil(height.value / LINE) + 2 * AROUND + 1),
    columns,
    page: computed(() => Math.max(1, Math.floor(height.value / LINE) - 2)),
    isCut,
    isAside: computed(() => left.value > 0),
    measure
  }
}
