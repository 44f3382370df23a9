import { onBeforeUnmount, shallowRef, watch, type Ref } from 'vue'
import type { Design } from '../../core/design/model.ts'
import type { DrawingRequest } from '../../core/diagram/drawing.ts'
import type { Scene } from '../../core/diagram/scene.ts'
import type { SceneQuestion } from '../workers/scene.worker.ts'

/** How much of a design is drawn: all, unless something else is said. */
type Extent = DrawingRequest['extent'] | Pick<DrawingRequest['extent'], 'rows'>

/**
 * The scene of a design, made anew off the main thread whenever the design changes; an older answer that
 * comes late is passed over.
 */
export function useScene(
  design: Ref<Design | undefined>,
  extent?: Ref<Extent>,
  /** Which picture it is: as long as it is the same, tables stay where they stand when the design changes a little. */
  picture?: Ref<string>,
  /** The name under which the drawing is kept across screens and reloads, where it is. */
  keptAs?: Ref<string>
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
  let sent: { design: Design; extent: string; picture?: string; keptAs?: string } | undefined

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
    const now = extent?.value ?? { rows: 'all' }
    const name = nameOf(now)
    const isSamePicture = picture !== undefined && sent?.picture === picture.value
    const isSame =
      sent?.extent === name && sent.picture === picture?.value && isSameDrawing(sent.design, wanted)
    const whole = 'whole' in now ? now.whole : undefined
    const isPart = whole !== undefined && whole.tables !== wanted.tables
    const question: SceneQuestion = {
      number: ++asked,
      design: isSame ? undefined : withoutRows('words' in now ? wanted : withoutSubjects(wanted)),
      extent: { ...now, whole: !isSame && isPart ? withoutRows(whole) : undefined },
      positions: wanted.positions,
      isSamePicture,
      keptAs: keptAs?.value,
      isAnew: sent?.keptAs !== undefined && sent.keptAs === keptAs?.value && !isSamePicture
    }
    sent = { design: wanted, extent: name, picture: picture?.value, keptAs: keptAs?.value }
    isOld.value = true
    worker.postMessage(question)
  }

  watch([design, () => extent && nameOf(extent.value), () => picture?.value], draw, { immediate: true })
  onBeforeUnmount(() => worker.terminate())
  return { scene, isOld, failure }
}

/** An extent as a text: two that draw alike are the same. */
const nameOf = (extent: Extent): string => {
  const plain = (_: string, value: unknown): unknown =>
    value instanceof Set || value instanceof Map ? [...value] : value
  return JSON.stringify({ ...extent, whole: undefined }, plain)
}

const isSameDrawing = (one: Design, other: Design): boolean =>
  one.tables === other.tables &&
  one.enums === other.enums &&
  one.schemas === other.schemas &&
  one.subjects === other.subjects &&
  one.policy === other.policy

/** Only a diagram that is asked for regions stands in them. */
const withoutSubjects = ({ subjects: _, ...design }: Design): Design => design

/** Rows are not drawn, and need not be sent. */
const withoutRows = (design: Design): Design => ({
  ...design,
  tables: design.tables.map((table) => ({ ...table, rows: [] }))
})
