import { computed, shallowRef, type ComputedRef, type Ref } from 'vue'
import type { Position } from '../../core/design/model.ts'
import type { Scene } from '../../core/diagram/scene.ts'
import { useDesign } from '../stores/design.ts'
import type { SceneTable } from '../../core/diagram/scene-parts.ts'

/** Tables put elsewhere by hand: pulled with the pointer, or moved a step. */
export function useMoving(
  scene: Ref<Scene | undefined>,
  isMovable: Ref<boolean>,
  /** Pixels on the screen for each of the drawing's own. */
  scale: () => number
): {
  /** A table that is being moved, or was dropped and is not drawn there yet. */
  moved: Ref<{ table: SceneTable; to: Position } | undefined>
  /** Its lines as they are pulled along. */
  pulled: ComputedRef<readonly { id: string; path: string }[]>
  press: (event: PointerEvent, table: SceneTable) => void
  pull: (event: PointerEvent) => void
  drop: () => void
  isPulled: () => boolean
  /** Moves a table so far. */
  nudge: (table: SceneTable, by: readonly [number, number]) => void
  /** How many tables stand where they were put by hand. */
  pinned: ComputedRef<number>
  /** Lets every table be placed anew. */
  letGo: () => void
} {
  const store = useDesign()
  const moved = shallowRef<{ table: SceneTable; to: Position }>()
  let drag: { table: SceneTable; at: [number, number]; far: boolean } | undefined

  /** From the middle of the table to where they end, as long as their ways are not known. */
  const pulled = computed(() => {
    const now = moved.value
    if (!now || !scene.value) return []
    const { table, to } = now
    const [x, y] = [to.x + table.width / 2, to.y + table.height / 2]
    return scene.value.lines.flatMap(({ id, parent, child, points }) => {
      if (parent !== table.id && child !== table.id) return []
      const end = child === table.id ? points[0] : points.at(-1)
      return end ? [{ id, path: `M${x} ${y}L${end[0]} ${end[1]}` }] : []
    })
  })

  function press(event: PointerEvent, table: SceneTable): void {
    if (event.button !== 0 || !isMovable.value) return
    drag = { table, at: [event.clientX, event.clientY], far: false }
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  }
  function pull(event: PointerEvent): void {
    if (!drag) return
    const [dx, dy] = [event.clientX - drag.at[0], event.clientY - drag.at[1]]
    drag.far ||= Math.hypot(dx, dy) > 4
    if (!drag.far) return
    const { table } = drag
    const to = { x: Math.round(table.x + dx / scale()), y: Math.round(table.y + dy / scale()) }
    moved.value = { table, to }
  }
  function drop(): void {
    const to = drag && moved.value?.to
    const id = drag?.table.id
    drag = undefined
    if (to && id && store.submit({ kind: 'table.place', table: id, position: to })) moved.value = undefined
  }
  function nudge({ id, x, y }: SceneTable, [dx, dy]: readonly [number, number]): void {
    store.submit({ kind: 'table.place', table: id, position: { x: x + dx, y: y + dy } })
  }

  const pinned = computed(() => Object.keys(store.design?.positions ?? {}).length)
  function letGo(): void {
    const ids = Object.keys(store.design?.positions ?? {})
    store.submit({
      kind: 'batch',
      label: 'let the diagram place every table',
      operations: ids.map((table) => ({ kind: 'table.place', table, position: null }))
    })
  }
  return { moved, pulled, press, pull, drop, isPulled: () => drag !== undefined, nudge, pinned, letGo }
}
