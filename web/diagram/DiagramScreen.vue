<script setup lang="ts">
import { select } from 'd3-selection'
import { zoom, zoomIdentity, type D3ZoomEvent, type ZoomTransform } from 'd3-zoom'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { fold, tableOf } from '../../core/design/directory.ts'
import { ROWS } from '../../core/diagram/box.ts'
import { neighbourhood } from '../../core/diagram/neighbourhood.ts'
import type { Position } from '../../core/design/model.ts'
import type { SceneTable as PlacedTable } from '../../core/diagram/scene.ts'
import { sceneToSvg } from '../../core/diagram/svg.ts'
import { download } from '../parts/files.ts'
import { FONTS, toPng } from '../parts/picture.ts'
import { useDesign } from '../stores/design.ts'
import SceneTable from './SceneTable.vue'
import SceneView from './SceneView.vue'
import { useInView } from './useInView.ts'
import { useScene } from './useScene.ts'

const store = useDesign()
const router = useRouter()
const route = useRoute()

/** The table around which the diagram is drawn, and how many steps far; else it is drawn whole. */
const near = computed(() => {
  const table = store.design && tableOf(store.design, String(route.query.near ?? ''))
  return table && { table, steps: Number(route.query.steps) === 2 ? 2 : 1 }
})
/** Which rows of each table are drawn. */
const rows = computed(() => ROWS.find((each) => each === route.query.rows) ?? 'all')
const drawn = computed(() => {
  if (!store.design || !near.value)
    return store.design && rows.value !== 'all' ? { ...store.design, positions: {} } : store.design
  return neighbourhood(store.design, near.value.table.id, near.value.steps)
})
const { scene, isOld, failure } = useScene(
  drawn,
  computed(() => ({ rows: rows.value, whole: store.design }))
)
function look(change: Record<string, string | undefined>): void {
  void router.replace({ query: { ...route.query, ...change } })
}
const lookNear = (table: string | undefined, steps: number): void =>
  look(steps > 0 ? { near: table, steps: String(steps) } : { near: undefined, steps: undefined })
const ROW_WORDS = { all: 'all columns', keys: 'keys', none: 'names' }
/** Places that are given by hand are those of the whole picture. */
const isMovable = computed(() => !near.value && rows.value === 'all' && !store.looking)
watch(
  () => [near.value?.table.id, near.value?.steps, rows.value].join(' '),
  () => {
    fitted = false
  }
)

/** What is looked for among the names, and what has it. */
const wanted = ref('')
const lit = computed(() => {
  const text = fold(wanted.value.trim())
  const found = text === '' ? [] : (scene.value?.tables ?? []).filter(({ name }) => fold(name).includes(text))
  return new Set(found.map(({ id }) => id))
})
/** Goes to what was found, one after the other. */
let visited = -1
function visit(): void {
  const found = (scene.value?.tables ?? []).filter(({ id }) => lit.value.has(id))
  const next = found[++visited % Math.max(found.length, 1)]
  if (next) void goTo(next, false)
}
watch(wanted, () => {
  visited = -1
})

const svg = ref<SVGSVGElement>()
const view = shallowRef<ZoomTransform>(zoomIdentity)
const zoomer = zoom<SVGSVGElement, unknown>()
  .scaleExtent([0.02, 3])
  .filter((event: MouseEvent) => !event.button && !(event.target as Element).closest('[data-table]'))
  .on('zoom', (event: D3ZoomEvent<SVGSVGElement, unknown>) => {
    view.value = event.transform
  })

/** How large it is on the screen (pixels). */
const frame = ref({ width: 1, height: 1 })
const { detail, inView, labels, size } = useInView(scene, view, frame, lit)

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
    // What was dropped has its place in the scene by now.
    if (!drag && !isOld.value) moved.value = undefined
  },
  { flush: 'post' }
)

/** A table that is being moved, or was dropped and is not drawn there yet. */
const moved = shallowRef<{ table: PlacedTable; to: Position }>()
/** Its lines, from the middle of the table to where they end, as long as their ways are not known. */
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

let drag: { table: PlacedTable; at: [number, number]; far: boolean } | undefined

function press(event: PointerEvent, table: PlacedTable): void {
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
  const to = { x: Math.round(table.x + dx / view.value.k), y: Math.round(table.y + dy / view.value.k) }
  moved.value = { table, to }
}
function drop(): void {
  const to = drag && moved.value?.to
  const id = drag?.table.id
  drag = undefined
  if (to && id && store.submit({ kind: 'table.place', table: id, position: to })) moved.value = undefined
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
  if (['0', '1', '2'].includes(event.key)) lookNear(table.id, Number(event.key))
  else if (event.key === 'Enter') void router.push({ name: 'bench', params: { table: table.id } })
  else if (arrow && event.altKey && isMovable.value)
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
  if (best) void goTo(best)
}
/** Brings a table into view and the keyboard to it. */
async function goTo({ id, x, y, width, height }: PlacedTable, isFocused = true): Promise<void> {
  const { k, x: left, y: top } = view.value
  const [at, above] = [x * k + left, y * k + top]
  const isSeen =
    at >= 0 && above >= 0 && at + width * k <= frame.value.width && above + height * k <= frame.value.height
  if (!isSeen && svg.value) select(svg.value).call(zoomer.translateTo, x + width / 2, y + height / 2)
  await nextTick()
  if (isFocused) svg.value?.querySelector<SVGGElement>(`[data-table="${CSS.escape(id)}"]`)?.focus()
}

/** Pixels for each of the drawing's own, in a picture that is to be printed or shown. */
const SHARP = 2
/** Whether there is nothing to be saved. */
const isEmpty = computed(() => (scene.value?.tables.length ?? 0) === 0)
async function save(kind: 'svg' | 'png'): Promise<void> {
  if (!scene.value || !store.design) return
  const { name } = store.design
  try {
    const svg = sceneToSvg(scene.value, name, FONTS)
    if (kind === 'svg') download(`${name}.svg`, svg, 'image/svg+xml')
    else download(`${name}.png`, await toPng(svg, SHARP), 'image/png')
  } catch {
    store.say(`The picture could not be made: it may be too large. Save it as SVG, or draw less of it.`)
  }
}

const observer = new ResizeObserver(() => {
  frame.value = { width: svg.value?.clientWidth || 1, height: svg.value?.clientHeight || 1 }
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
        <SceneView
          v-bind="inView"
          :away="moved?.table.id"
          :detail="detail"
          :labels="labels"
          :lit="lit"
          :movable="isMovable"
          :size="size"
          @press="press"
          @open="(table) => router.push({ name: 'bench', params: { table: table.id } })"
          @key="tableKey" />
        <g v-if="moved" class="moved">
          <path v-for="line in pulled" :key="line.id" class="pulled" :d="line.path" />
          <SceneTable :table="{ ...moved.table, ...moved.to }" :detail="detail" :size="size" />
        </g>
      </g>
    </svg>
    <div class="asked">
      <input
        v-model="wanted"
        class="lined"
        placeholder="light up…"
        aria-label="Light up the tables whose names have"
        spellcheck="false"
        @keydown.enter.prevent="visit"
        @keydown.esc="wanted = ''" />
      <span v-if="wanted.trim() !== ''" class="quiet" role="status"
        >{{ lit.size === 0 ? 'none' : lit.size }} <kbd v-if="lit.size > 0">Enter</kbd></span
      >
      <span class="near" role="group" aria-label="What is drawn of each table">
        <button
          v-for="each in ROWS"
          :key="each"
          type="button"
          class="link"
          :aria-pressed="rows === each"
          @click="look({ rows: each === 'all' ? undefined : each })">
          {{ ROW_WORDS[each] }}
        </button>
      </span>
      <span v-if="near" class="near"
        >near <strong>{{ near.table.name }}</strong>
        <button
          v-for="steps in [1, 2]"
          :key="steps"
          type="button"
          class="link"
          :aria-pressed="near.steps === steps"
          @click="lookNear(near.table.id, steps)">
          {{ steps === 1 ? '1 step' : '2 steps' }}
        </button>
        <button type="button" class="link" @click="lookNear(undefined, 0)">
          all {{ store.design?.tables.length }} tables
        </button></span
      >
    </div>
    <div class="tools">
      <button type="button" class="button" @click="fit">Show all</button>
      <button type="button" class="button" aria-label="Nearer" @click="scaleBy(1.25)">+</button>
      <button type="button" class="button" aria-label="Farther" @click="scaleBy(0.8)">−</button>
      <button
        type="button"
        class="button"
        :disabled="pinned === 0 || !isMovable"
        :title="pinned === 0 ? 'No table was moved by hand' : `${pinned} moved by hand`"
        @click="letGo">
        Place all anew
      </button>
      <button type="button" class="button" :disabled="isEmpty" @click="save('svg')">Save as SVG</button>
      <button type="button" class="button" :disabled="isEmpty" @click="save('png')">as PNG</button>
    </div>
    <p class="legend quiet">
      <span
        ><svg width="44" height="10" aria-hidden="true"><path d="M0 5H44" /></svg> identifying</span
      ><span
        ><svg width="44" height="10" aria-hidden="true"><path d="M0 5H44" stroke-dasharray="6 4" /></svg> not
        identifying</span
      ><span><i>italic</i> may be empty</span
      ><span v-if="scene && scene.stubs.length > 0"
        ><svg width="44" height="12" aria-hidden="true">
          <path d="M26 6H44" />
          <path d="M0.5 0.5H23.5V5H18V9H12V7H6V11H0.5Z" />
        </svg>
        refers to what is not drawn beside it</span
      ><span
        >drag, or <kbd>Alt</kbd> and arrows, to move · <kbd>Enter</kbd> to the bench · <kbd>1</kbd>
        <kbd>2</kbd> what is near · <kbd>0</kbd> all</span
      >
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
/* Until a moved table is drawn anew, it is seen where it will be, with its lines as they are pulled. */
.moved {
  pointer-events: none;
}
.moved :deep(.paper) {
  stroke: var(--chosen);
  stroke-width: 2;
}
.pulled {
  fill: none;
  stroke: var(--chosen);
  stroke-width: 1.3;
  stroke-dasharray: 3 4;
  vector-effect: non-scaling-stroke;
}
.diagram > svg {
  user-select: none;
}
.asked {
  position: absolute;
  top: 12px;
  left: 20px;
  display: flex;
  align-items: baseline;
  gap: 14px;
  background: var(--film);
  padding: 2px 8px;
}
.asked .lined {
  width: 130px;
}
.near {
  display: flex;
  align-items: baseline;
  gap: 10px;
}
.near [aria-pressed='true'] {
  color: var(--ink);
  border-bottom-style: solid;
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
  fill: none;
  stroke: var(--wire);
  stroke-width: 1.3;
}
.failure {
  position: absolute;
  inset: 40% 0 auto;
  text-align: center;
}
</style>
