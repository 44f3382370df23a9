import { onBeforeUnmount, shallowRef, watch, type Ref } from 'vue'
import type { Design, Position } from '../../core/design/model.ts'
import { layout } from '../../core/diagram/layout.ts'
import type { Scene } from '../../core/diagram/scene.ts'
import { layered } from '../workers/layered.ts'
import type { SceneQuestion } from '../workers/scene.worker.ts'

/**
 * The scene of a design, made anew off the main thread whenever the design changes; an older answer that
 * comes late is passed over. `moved` holds places that are being tried with the pointer.
 */
export function useScene(
  design: Ref<Design | undefined>,
  moved?: Ref<ReadonlyMap<string, Position> | undefined>
): { scene: Ref<Scene | undefined>; failure: Ref<string> } {
  const scene = shallowRef<Scene>()
  const failure = shallowRef('')
  const worker = new Worker(new URL('../workers/scene.worker.ts', import.meta.url), { type: 'module' })
  let asked = 0
  let placed: { design: Design; positions: Map<string, Position> } | undefined

  worker.onmessage = ({ data }: MessageEvent<{ number: number; scene: Scene }>) => {
    if (data.number === asked) scene.value = data.scene
  }
  worker.onerror = () => {
    failure.value = 'The diagram could not be drawn.'
  }

  async function draw(): Promise<void> {
    const wanted = design.value
    if (!wanted) return void (scene.value = undefined)
    const number = ++asked
    try {
      if (placed?.design !== wanted) placed = { design: wanted, positions: await layout(wanted, layered) }
    } catch (error) {
      failure.value = `The tables could not be laid out: ${error instanceof Error ? error.message : String(error)}`
      return
    }
    if (number !== asked) return
    const positions = new Map([...placed.positions, ...(moved?.value ?? [])])
    worker.postMessage({ number, design: wanted, positions: [...positions] } satisfies SceneQuestion)
  }

  watch([design, () => moved?.value], () => void draw(), { immediate: true })
  onBeforeUnmount(() => worker.terminate())
  return { scene, failure }
}
