import { ref, type Ref } from 'vue'

/** How far the pointer goes before it drags and does not click (pixels). */
const SLACK = 4

/** A line that is dragged by its mark: where it would stand if it was let go now. */
export interface LineDrag {
  /** Before which line; one behind the last is the end. Nothing while none is dragged. */
  place: Ref<number | undefined>
  start(event: PointerEvent, index: number): void
}

/**
 * @param lines the lines that are columns, from above
 * @param drop what is done where one is let go elsewhere
 */
export function useLineDrag(
  lines: () => HTMLElement[],
  drop: (from: number, place: number) => void
): LineDrag {
  const place = ref<number>()

  function start(down: PointerEvent, index: number): void {
    if (down.button !== 0 || down.shiftKey || down.ctrlKey || down.metaKey) return
    const end = new AbortController()
    const on = { signal: end.signal }
    const stop = (): void => {
      end.abort()
      place.value = undefined
    }
    window.addEventListener(
      'pointermove',
      (event) => {
        const isDragging = place.value !== undefined || Math.abs(event.clientY - down.clientY) > SLACK
        if (!isDragging) return
        event.preventDefault()
        place.value = lines().filter((line) => {
          const { top, height } = line.getBoundingClientRect()
          return event.clientY > top + height / 2
        }).length
      },
      on
    )
    window.addEventListener(
      'pointerup',
      () => {
        const to = place.value
        stop()
        const isElsewhere = to !== undefined && to !== index && to !== index + 1
        if (isElsewhere) drop(index, to)
      },
      on
    )
    window.addEventListener('pointercancel', stop, on)
    window.addEventListener('keydown', (event) => event.key === 'Escape' && stop(), on)
  }

  return { place, start }
}
