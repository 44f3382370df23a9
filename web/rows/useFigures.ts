import { onBeforeUnmount, ref, type Ref } from 'vue'
import type { Design, Row, Table } from '../../core/design/model.ts'
import { figureValue, isFigureKnown } from '../../core/rows/figures.ts'
import { shownText, type ShownColumn } from '../../core/rows/shown.ts'
import { slicer } from './slices.ts'

/** Figures over so many rows are worked out before they are said. */
const MANY = 2000

/** What stands for a figure that is not worked out yet. */
const COMES = '…'

/**
 * What stands in cells: a figure over many rows is worked out in slices, so that the page goes on meanwhile, and said
 * when those that were asked for are all known.
 */
export function useFigures(): {
  text: (design: Design, table: Table, shown: ShownColumn, row: Row) => string
  /** Counts up when figures have become known. */
  told: Ref<number>
} {
  const told = ref(0)
  let asked: { design: Design; shown: ShownColumn & { kind: 'figure' }; row: Row }[] = []
  let isAtWork = false
  let isGone = false

  async function work(): Promise<void> {
    const goOn = slicer(() => !isGone)
    await new Promise((resolve) => setTimeout(resolve))
    for (let next = asked.pop(); next; next = asked.pop()) {
      figureValue(next.design, next.shown.standing, next.row)
      if (!(await goOn())) return
    }
    isAtWork = false
    told.value++
  }

  function text(design: Design, table: Table, shown: ShownColumn, row: Row): string {
    const isSlow = shown.kind === 'figure' && shown.standing.of.rows.length > MANY
    if (!isSlow || isFigureKnown(shown.standing, row)) return shownText(design, table, shown, row)
    // Whoever draws it draws it again when it is known.
    void told.value
    if (asked[0]?.design !== design) asked = []
    asked.push({ design, shown, row })
    if (!isAtWork) void work()
    isAtWork = true
    return COMES
  }

  onBeforeUnmount(() => {
    isGone = true
    asked = []
  })
  return { text, told }
}
