import type { ZoomTransform } from 'd3-zoom'
import { computed, shallowRef, watchEffect, type ComputedRef, type Ref } from 'vue'
import { detailAt, labelsAt, nameSize, type Detail, type Label } from '../../core/diagram/labels.ts'
import type { Scene } from '../../core/diagram/scene.ts'

/** Of more tables than this only those in view are drawn. */
const ALL = 60

const NOTHING = { tables: [], lines: [], stubs: [], regions: [] }

/** What of a scene is in view, and how much of it can be read: the same value as long as that is the same. */
export function useInView(
  scene: Ref<Scene | undefined>,
  view: Ref<ZoomTransform>,
  window: Ref<{ width: number; height: number }>,
  /** Tables whose names come first. */
  lit: Ref<ReadonlySet<string>>
): {
  detail: ComputedRef<Detail>
  inView: Ref<Pick<Scene, 'tables' | 'lines' | 'stubs' | 'regions'>>
  labels: ComputedRef<readonly Label[]>
  /** How large the names of tables are. */
  size: ComputedRef<number>
} {
  const scale = computed(() => view.value.k)
  const detail = computed(() => detailAt(scale.value))

  /** The part of the sheet that is drawn, in whole windows: it stays until what is seen reaches beyond it. */
  const across = computed(() => Math.floor(-view.value.x / window.value.width) - 1)
  const down = computed(() => Math.floor(-view.value.y / window.value.height) - 1)
  const inView = shallowRef<Pick<Scene, 'tables' | 'lines' | 'stubs' | 'regions'>>(NOTHING)
  watchEffect(() => {
    const now = scene.value
    if (!now) return void (inView.value = NOTHING)
    if (now.tables.length <= ALL || detail.value === 'outlines') return void (inView.value = now)
    const [width, height] = [window.value.width / scale.value, window.value.height / scale.value]
    const [left, top] = [across.value * width, down.value * height]
    const [right, bottom] = [left + 4 * width, top + 4 * height]
    const isIn = (x: number, y: number, wide: number, high: number): boolean =>
      x < right && x + wide > left && y < bottom && y + high > top
    const tables = now.tables.filter(({ x, y, width: wide, height: high }) => isIn(x, y, wide, high))
    const shown = new Set(tables.map(({ id }) => id))
    inView.value = {
      regions: now.regions.filter(({ x, y, width: wide, height: high }) => isIn(x, y, wide, high)),
      tables,
      lines: now.lines.filter(({ points }) => {
        const [xs, ys] = [points.map(([x]) => x), points.map(([, y]) => y)]
        const [x, y] = [Math.min(...xs), Math.min(...ys)]
        return isIn(x, y, Math.max(...xs) - x + 1, Math.max(...ys) - y + 1)
      }),
      stubs: now.stubs.filter(({ child }) => shown.has(child))
    }
  })

  /** How many refer to each table; to those that are lit as many as to any. */
  const weights = computed(() => {
    const found = new Map<string, number>()
    for (const { parent } of [...(scene.value?.lines ?? []), ...(scene.value?.stubs ?? [])])
      found.set(parent, (found.get(parent) ?? 0) + 1)
    const most = Math.max(1, ...found.values())
    for (const id of lit.value) found.set(id, most)
    return found
  })
  /** Names are placed anew by steps of the scale, not with each bit of it. */
  const step = computed(() => Math.pow(1.15, Math.floor(Math.log(scale.value) / Math.log(1.15))))
  const labels = computed(() =>
    scene.value && detail.value === 'outlines'
      ? labelsAt(scene.value.tables, step.value, weights.value, scene.value.regions)
      : []
  )
  return { detail, inView, labels, size: computed(() => nameSize(step.value)) }
}
