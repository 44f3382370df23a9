import { onBeforeUnmount, ref, watch } from 'vue'
import type { Design } from '../../core/design/model.ts'
import { judgedSoon, judgePaused, sayBroken, type Judgement } from '../../core/rehearse/ruling.ts'
import { inSlices, slicer } from '../rows/slices.ts'
import { useDesign } from '../stores/design.ts'

/** Counts up when rulings over many rows have been judged, which findings then tell of. */
export const judgedAt = ref(0)

/** How long one has to pause before rulings over many rows are judged (milliseconds). */
const PAUSE = 400

/** Tells, when the draft has changed, which ruling it no longer keeps to. */
export function useBrokenRulings(): void {
  const store = useDesign()
  let asked = 0
  /** The design as it was judged last, and the rulings that it did not keep to. */
  let last: { id: string; broken: ReadonlySet<string> } | undefined

  async function judged(design: Design): Promise<readonly Judgement[] | undefined> {
    const number = ++asked
    const soon = judgedSoon(design)
    if (soon) return soon
    await new Promise((resolve) => setTimeout(resolve, PAUSE))
    const isWanted = (): boolean => number === asked
    const all = isWanted() ? await inSlices(judgePaused(design), slicer(isWanted)) : undefined
    if (all) judgedAt.value++
    return all
  }

  async function look(design: Design): Promise<void> {
    const all = await judged(design)
    if (!all) return
    // What cannot be tried for now is told of among the findings.
    const amiss = all.filter(({ broken }) => broken.length > 0)
    const before = last?.id === design.id ? last.broken : undefined
    last = { id: design.id, broken: new Set(amiss.map(({ ruling }) => ruling.id)) }
    const [first, ...more] = before ? amiss.filter(({ ruling }) => !before.has(ruling.id)) : []
    if (!first) return
    const others = more.length > 0 ? ` So are ${more.length} more.` : ''
    const words = `Broken: the ruling “${first.ruling.says}” ${sayBroken(design, first) ?? ''}${others}`
    // What was said of the change itself stays.
    const said = store.notice
    store.notice = said ? { ...said, message: `${said.message} ${words}` } : { message: words, offers: [] }
  }

  watch(
    () => store.draft,
    (now) => {
      if (now) void look(now)
    },
    { immediate: true }
  )
  onBeforeUnmount(() => asked++)
}
