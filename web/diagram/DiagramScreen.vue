<script setup lang="ts">
import { select } from 'd3-selection'
import { zoom, zoomIdentity, type D3ZoomEvent, type ZoomTransform } from 'd3-zoom'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { Position } from '../../core/design/model.ts'
import type { SceneTable as PlacedTable } from '../../core/diagram/scene.ts'
import { sceneToSvg } from '../../core/diagram/svg.ts'
import { download } from '../parts/files.ts'
import { useDesign } from '../stores/design.ts'
import SceneLine from './SceneLine.vue'
import SceneTable from './SceneTable.vue'
import { useScene } from './useScene.ts'

const store = useDesign()
const router = useRouter()
const moved = shallowRef<ReadonlyMap<string, Position>>()
const { scene, failure } = useScene(
  computed(() => store.design),
  moved
)

const svg = ref<SVGSVGElement>()
const view = shallowRef<ZoomTransform>(zoomIdentity)
const zoomer = zoom<SVGSVGElement, unknown>()
  .scaleExtent([0.08, 3])
  .filter((event: MouseEvent) => !event.button && !(event.target as Element).closest('[data-table]'))
  .on('zoom', (event: D3ZoomEvent<SVGSVGElement, unknown>) => {
    view.value = event.transform
  })

/** What the buttons and the legend take of the height (pixels). */
const ROOM = { above: 48, below: 36 }
let fitted = false
function fit(): void {
  const bounds = scene.value?.bounds
  if (!svg.value || !bounds || bounds.width === 0) return
  const { clientWidth, clientHeight } = svg.value
  const room = clientHeight - ROOM.above - ROOM.below
  const scale = Math.min(clientWidth / bounds.width, room / bounds.height, 1.15)
  select(svg.value).call(
    zoomer.transform,
    zoomIdentity
      .translate(
        (clientWidth - bounds.width * scale) / 2 - bounds.x * scale,
        ROOM.above + (room - bounds.height * scale) / 2 - bounds.y * scale
      )
      .scale(scale)
  )
  fitted = true
}
function scaleBy(factor: number): void {
  if (svg.value) select(svg.value).call(zoomer.scaleBy, factor)
}
onMounted(() => {
  if (svg.value) select(svg.value).call(zoomer).on('dblclick.zoom', null)
})
watch(
  scene,
  (now) => {
    if (!fitted && now) fit()
    // The places that were tried are the design's own when its scene is here.
    if (!drag && now && moved.value) {
      const settled = [...moved.value].every(
        ([id, place]) =>
          !store.design ||
          (store.design.positions[id]?.x === place.x && store.design.positions[id]?.y === place.y)
      )
      if (settled) moved.value = undefined
    }
  },
  { flush: 'post' }
)

let drag: { id: string; from: Position; at: [number, number]; far: boolean } | undefined

function press(event: PointerEvent, table: PlacedTable): void {
  if (event.button !== 0) return
  drag = { id: table.id, from: { x: table.x, y: table.y }, at: [event.clientX, event.clientY], far: false }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function pull(event: PointerEvent): void {
  if (!drag) return
  const [dx, dy] = [event.clientX - drag.at[0], event.clientY - drag.at[1]]
  drag.far ||= Math.hypot(dx, dy) > 4
  if (drag.far)
    moved.value = new Map([
      [
        drag.id,
        { x: Math.round(drag.from.x + dx / view.value.k), y: Math.round(drag.from.y + dy / view.value.k) }
      ]
    ])
}
function drop(): void {
  const place = drag && moved.value?.get(drag.id)
  const id = drag?.id
  drag = undefined
  if (place && id) store.submit({ kind: 'table.place', table: id, position: place })
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

const STEP = 20
const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP]
}
/** Arrows go to the nearest table that way; with Alt they move the table. Enter takes it to the bench. */
function tableKey(event: KeyboardEvent, table: PlacedTable): void {
  const arrow = ARROWS[event.key]
  if (event.key === 'Enter') void router.push({ name: 'bench', params: { table: table.id } })
  else if (arrow && event.altKey)
    store.submit({
      kind: 'table.place',
      table: table.id,
      position: { x: table.x + arrow[0], y: table.y + arrow[1] }
    })
  else if (arrow) nearest(table, arrow)
  else return
  event.preventDefault()
}
function nearest(from: PlacedTable, [dx, dy]: [number, number]): void {
  const distance = (to: PlacedTable): number => {
    const [x, y] = [
      to.x + to.width / 2 - from.x - from.width / 2,
      to.y + to.height / 2 - from.y - from.height / 2
    ]
    const [along, aside] = dx !== 0 ? [x * Math.sign(dx), Math.abs(y)] : [y * Math.sign(dy), Math.abs(x)]
    return along > 1 ? along + aside * 2 : Infinity
  }
  const [best] = (scene.value?.tables ?? [])
    .filter((table) => table !== from && distance(table) < Infinity)
    .sort((a, b) => distance(a) - distance(b))
  if (best) svg.value?.querySelector<SVGGElement>(`[data-table="${CSS.escape(best.id)}"]`)?.focus()
}

function save(): void {
  if (scene.value && store.design)
    download(`${store.design.name}.svg`, sceneToSvg(scene.value, store.design.name), 'image/svg+xml')
}

const observer = new ResizeObserver(() => {
  if (!drag && svg.value && !fitted) fit()
})
onMounted(() => {
  if (svg.value) observer.observe(svg.value)
})
onBeforeUnmount(() => observer.disconnect())
</script>

<template>
  <div class="diagram">
    <svg
      ref="svg"
      role="group"
      :aria-label="`Diagram of ${store.design?.name ?? ''}: ${scene?.tables.length ?? 0} tables, ${scene?.lines.length ?? 0} relationships`"
      @pointermove="pull"
      @pointerup="drop"
      @pointercancel="drop">
      <g v-if="scene" :transform="view.toString()">
        <SceneLine v-for="line in scene.lines" :key="line.id" :line="line" />
        <g
          v-for="table in scene.tables"
          :key="table.id"
          :data-table="table.id"
          tabindex="0"
          role="group"
          class="place"
          :aria-label="`${table.name}, ${table.rows.length} columns`"
          @pointerdown="press($event, table)"
          @dblclick="router.push({ name: 'bench', params: { table: table.id } })"
          @keydown="tableKey($event, table)">
          <SceneTable :table="table" />
        </g>
      </g>
    </svg>
    <div class="tools">
      <button type="button" class="button" @click="fit">Show all</button>
      <button type="button" class="button" aria-label="Nearer" @click="scaleBy(1.25)">+</button>
      <button type="button" class="button" aria-label="Farther" @click="scaleBy(0.8)">−</button>
      <button
        type="button"
        class="button"
        :disabled="pinned === 0"
        :title="pinned === 0 ? 'No table was moved by hand' : `${pinned} moved by hand`"
        @click="letGo">
        Place all anew
      </button>
      <button type="button" class="button" :disabled="!scene" @click="save">Save as SVG</button>
    </div>
    <p class="legend quiet">
      <span
        ><svg width="44" height="10" aria-hidden="true"><path d="M0 5H44" /></svg> identifying</span
      ><span
        ><svg width="44" height="10" aria-hidden="true"><path d="M0 5H44" stroke-dasharray="6 4" /></svg> not
        identifying</span
      ><span><i>italic</i> may be empty</span
      ><span>drag, or <kbd>Alt</kbd> and arrows, to move · <kbd>Enter</kbd> to the bench</span>
    </p>
    <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
    <p v-else-if="store.design?.tables.length === 0" class="failure">
      The diagram draws itself as tables are made.
      <RouterLink :to="{ name: 'bench' }">Make the first on the bench</RouterLink>
    </p>
  </div>
</template>

<style scoped>
.diagram {
  position: relative;
  height: 100%;
}
.diagram > svg {
  width: 100%;
  height: 100%;
  display: block;
  cursor: grab;
  touch-action: none;
}
.place {
  cursor: move;
  outline: none;
}
.place:focus-visible :deep(.paper) {
  stroke: var(--chosen);
  stroke-width: 2.5;
}
.tools {
  position: absolute;
  top: 12px;
  right: 20px;
  display: flex;
  gap: 6px;
}
.legend {
  position: absolute;
  left: 20px;
  bottom: 10px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  font-size: 12px;
  background: var(--film);
  padding: 3px 8px;
}
.legend span {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.legend path {
  stroke: var(--wire);
  stroke-width: 1.3;
}
.failure {
  position: absolute;
  inset: 40% 0 auto;
  text-align: center;
}
</style>
