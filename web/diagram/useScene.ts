import { onBeforeUnmount, shallowRef, watch, type Ref } from 'vue'
import type { Design } from '../../core/design/model.ts'
import type { Extent, Rows } from '../../core/diagram/box.ts'
import type { Scene } from '../../core/diagram/scene.ts'
import type { SceneQuestion } from '../workers/scene.worker.ts'

/**
 * The scene of a design, made anew off the main thread whenever the design changes; an older answer that
 * comes late is passed over.
 * @param extent how much of it is drawn: all, unless something else is said.
 */
export function useScene(
  design: Ref<Design | undefined>,
  extent?: Ref<Extent>
): {
  scene: Ref<Scene | undefined>
  /** Whether a newer one is being made. */
  isOld: Ref<boolean>
  failure: Ref<string>
} {
  const scene = shallowRef<Scene>()
  const isOld = shallowRef(false)
  const failure = shallowRef('')
  const worker = new Worker(new URL('../workers/scene.worker.ts', import.meta.url), { type: 'module' })
  let asked = 0
  /** What was sent last: it is not sent again where only places have changed. */
  let sent: { design: Design; rows: Rows } | undefined

  worker.onmessage = ({ data }: MessageEvent<{ number: number; scene: Scene }>) => {
    if (data.number !== asked) return
    scene.value = data.scene
    isOld.value = false
  }
  worker.onerror = () => {
    failure.value = 'The diagram could not be drawn.'
  }

  function draw(): void {
    const wanted = design.value
    if (!wanted) return void (scene.value = undefined)
    const { rows, whole } = extent?.value ?? { rows: 'all' }
    const isSame =
      sent?.design.tables === wanted.tables &&
      sent.design.enums === wanted.enums &&
      sent.design.schemas === wanted.schemas &&
      sent.rows === rows
    const question: SceneQuestion = {
      number: ++asked,
      design: isSame ? undefined : withoutRows(wanted),
      extent: isSame || !whole || whole === wanted ? { rows } : { rows, whole: withoutRows(whole) },
      positions: wanted.positions
    }
    sent = { design: wanted, rows }
    isOld.value = true
    worker.postMessage(question)
  }

  watch([design, () => extent?.value.rows], draw, { immediate: true })
  onBeforeUnmount(() => worker.terminate())
  return { scene, isOld, failure }
}

/** Rows are not drawn, and need not be sent. */
const withoutRows = (design: Design): Design => ({
  ...design,
  tables: design.tables.map((table) => ({ ...table, rows: [] }))
})
