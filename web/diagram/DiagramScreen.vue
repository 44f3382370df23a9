<script setup lang="ts">
import { select } from 'd3-selection'
import { zoom, zoomIdentity, type D3ZoomEvent, type ZoomTransform } from 'd3-zoom'
import { computed, nextTick, onBeforeUnmount, onMounted, provide, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { tableOf } from '../../core/design/directory.ts'
import type { Design } from '../../core/design/model.ts'
import { bothIn } from '../../core/diagram/compared.ts'
import { askedOf } from '../../core/diagram/drawing.ts'
import type { SheetWords } from '../../core/diagram/sheet.ts'
import { api } from '../api/client.ts'
import { isTyping, useShortcuts } from '../frame/shortcuts.ts'
import { useKeyLight } from '../parts/keyLight.ts'
import { useDesign } from '../stores/design.ts'
import { useTheme } from '../stores/theme.ts'
import ChoiceMenu, { type Option } from '../parts/ChoiceMenu.vue'
import ChangesCard from './ChangesCard.vue'
import DiagramAsks from './DiagramAsks.vue'
import { HOW } from './how.ts'
import SceneTable from './SceneTable.vue'
import SceneView from './SceneView.vue'
import SubjectsCard from './SubjectsCard.vue'
import { useInView } from './useInView.ts'
import { useLit } from './useLit.ts'
import { useMoving } from './useMoving.ts'
import { useSaving, type Saved } from './useSaving.ts'
import { useScene } from './useScene.ts'
import { useSlow } from './useSlow.ts'
import { useShown } from './useShown.ts'
import ViewCard from './ViewCard.vue'
import type { SceneTable as PlacedTable } from '../../core/diagram/scene-parts.ts'

/** The diagram of the design: whole, a part of it, or two states of it in one. */
const store = useDesign()
const router = useRouter()
const theme = useTheme()
const light = useKeyLight()
onBeforeUnmount(light.leave)
const asked = useShown()
const { shown, view: kept, since, ask, show } = asked

/** The version with which the draft is compared, once it is here. */
const before = shallowRef<Design>()
watch(
  since,
  async (number) => {
    before.value = undefined
    if (number === undefined) return
    try {
      const { design } = await api.version(store.id, number)
      if (since.value === number) before.value = design
    } catch {
      store.say(`Version ${number} could not be fetched.`)
    }
  },
  { immediate: true }
)
const compared = computed(() =>
  before.value && store.design ? bothIn(before.value, store.design) : undefined
)
const whole = computed(() => compared.value?.design ?? store.design)
const drawing = computed(() => (whole.value ? askedOf(whole.value, shown.value) : undefined))
/** How often all tables were placed anew by the designer. */
const anew = ref(0)
const keptAs = computed(() => JSON.stringify([store.id, shown.value, before.value?.id, since.value]))
const { scene, isOld, failure } = useScene(
  computed(() => drawing.value?.part.design),
  computed(() => drawing.value?.extent ?? { rows: 'all' }),
  computed(() => `${keptAs.value} ${anew.value}`),
  keptAs
)
/** What takes its time is said. */
const isSlow = useSlow(isOld)
provide(
  HOW,
  computed(() => ({ ends: shown.value.look.ends, fates: compared.value?.fates }))
)
/** Places that are given by hand are those of the whole picture. */
const isMovable = computed(() => {
  const { shows, look } = shown.value
  return shows.kind === 'all' && look.rows === 'all' && look.types && !store.looking && !compared.value
})
const words = computed((): SheetWords => {
  const { shows } = shown.value
  const name = store.design?.name ?? ''
  const subject = store.design?.subjects?.find(
    (each) => shows.kind === 'subject' && each.id === shows.subject
  )
  const near = shows.kind === 'near' && store.design ? tableOf(store.design, shows.table)?.name : undefined
  const part = subject?.name ?? (near && `near ${near}`)
  const title = kept.value ? (kept.value.title ?? kept.value.name) : part ? `${name}: ${part}` : name
  const said = compared.value ? `${title}: what is otherwise since version ${since.value}` : title
  return { title: said, note: kept.value?.note ?? subject?.note, framed: true }
})
const { save, isEmpty, isSaving } = useSaving(
  scene,
  words,
  computed(() => ({
    theme: theme.dark ? 'dark' : 'light',
    ends: shown.value.look.ends,
    fates: compared.value?.fates
  }))
)
type SaveOption = Option<Saved | ''>
const SAVED: SaveOption[] = [
  { value: 'svg', words: 'SVG', term: 'with its fonts' },
  { value: 'png', words: 'PNG', term: 'at twice the size' },
  { value: 'pdf', words: 'PDF', term: 'on one page' },
  { value: 'a4', words: 'PDF', term: 'pages of A4' },
  { value: 'a3', words: 'PDF', term: 'pages of A3' }
]
const NOTHING_TO_SAVE = SAVED.map((each): SaveOption => ({ ...each, why: 'nothing is drawn' }))
/** What is put together on a card. */
const card = ref<'subjects' | 'view'>()

const { wanted, by, lit, says } = useLit(scene)
/** Goes to what was found, one after the other. */
let visited = -1
function visit(): void {
  const found = (scene.value?.tables ?? []).filter(({ id }) => lit.value.has(id))
  const next = found[++visited % Math.max(found.length, 1)]
  if (next) void goTo(next, false)
}
watch([wanted, by], () => {
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

/** What the buttons and the legend take of the height, and the list of changes of the width (pixels). */
const ROOM = { above: 14, below: 14, list: 290 }
const heightOf = (css: string): number =>
  svg.value?.parentElement?.querySelector<HTMLElement>(css)?.offsetHeight ?? 0
let fitted = false
watch(
  () => JSON.stringify([shown.value, since.value, store.design?.subjects]),
  () => {
    fitted = false
  }
)
function fit(): void {
  const bounds = scene.value?.bounds
  if (!svg.value || !bounds || bounds.width === 0) return
  const { clientWidth, clientHeight } = svg.value
  const head = ROOM.above + heightOf('.asks')
  const [wide, high] = [
    clientWidth - (compared.value ? ROOM.list : 0),
    clientHeight - head - ROOM.below - heightOf('.legend')
  ]
  const scale = Math.min(wide / bounds.width, high / bounds.height, 1.15)
  select(svg.value).call(
    zoomer.transform,
    zoomIdentity
      .translate(
        (wide - bounds.width * scale) / 2 - bounds.x * scale,
        head + (high - bounds.height * scale) / 2 - bounds.y * scale
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

const moving = useMoving(scene, isMovable, () => view.value.k)
const { moved, pulled, press, pull, drop, pinned, letGo } = moving
watch(
  scene,
  (now) => {
    if (!fitted && now && !isOld.value) fit()
    // What was dropped has its place in the scene by now.
    if (!moving.isPulled() && !isOld.value) moved.value = undefined
  },
  { flush: 'post' }
)

function placeAnew(): void {
  if (pinned.value > 0 && isMovable.value) letGo()
  anew.value++
  fitted = false
}

const STEP = 20
const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP]
}
const lookNear = (table: string, steps: number): void =>
  steps > 0 ? show({ near: table, steps: String(steps) }) : show({})

/** Arrows go to the nearest table that way; with Alt they move the table. Enter takes it to the bench. */
function tableKey(event: KeyboardEvent, table: PlacedTable): void {
  const arrow = ARROWS[event.key]
  const letter = event.key.toLowerCase()
  if (event.ctrlKey || event.metaKey) return
  if (['0', '1', '2'].includes(event.key)) lookNear(table.id, Number(event.key))
  else if (event.key === 'Enter') void router.push({ name: 'bench', params: { table: table.id } })
  else if (arrow && event.altKey && isMovable.value) moving.nudge(table, arrow)
  else if (arrow) nearest(table, arrow)
  else if (letter === 'd') by.value = { kind: 'reach', table: table.id }
  else if (letter === 'w') askWays(table.id)
  else if (letter === 'k') lightKey(table.id)
  else return
  event.preventDefault()
  event.stopPropagation()
}
/** Lights up, or no more, every place that the key of a table reaches. */
function lightKey(id: string): void {
  const key = store.design && tableOf(store.design, id)?.primaryKey?.id
  if (!key) return
  if (light.key === key) light.leave()
  else light.point(key)
}
/** The first table is where ways begin, the next where they end. */
function askWays(table: string): void {
  const now = by.value
  const begun = now.kind === 'ways' && now.to === undefined && now.from !== table ? now.from : undefined
  by.value = begun ? { kind: 'ways', from: begun, to: table } : { kind: 'ways', from: table, to: undefined }
}
const changes = ref<InstanceType<typeof ChangesCard>>()
useShortcuts((event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event) || !changes.value) return false
  if (event.key === '.') changes.value.next()
  else if (event.key === ',') changes.value.back()
  else return false
  return true
})
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
/** A table by its id, so near that its columns are read. */
function goNear(id: string): void {
  const table = scene.value?.tables.find((each) => each.id === id)
  if (!table || !svg.value) return
  if (view.value.k < NEAR) select(svg.value).call(zoomer.scaleTo, NEAR)
  select(svg.value).call(zoomer.translateTo, table.x + table.width / 2, table.y + table.height / 2)
  void goTo(table)
}
const NEAR = 0.7
/** Where a line beside a table leads: to the table, or, where that is not drawn, to what is near it. */
function follow(table: string): void {
  if (scene.value?.tables.some(({ id }) => id === table)) goNear(table)
  else lookNear(table, 1)
}

const observer = new ResizeObserver(() => {
  frame.value = { width: svg.value?.clientWidth || 1, height: svg.value?.clientHeight || 1 }
  if (!moving.isPulled() && svg.value && !fitted) fit()
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
          @key="tableKey"
          @follow="follow" />
        <g v-if="moved" class="moved">
          <path v-for="line in pulled" :key="line.id" class="pulled" :d="line.path" />
          <SceneTable :table="{ ...moved.table, ...moved.to }" :detail="detail" :size="size" />
        </g>
      </g>
    </svg>
    <DiagramAsks
      v-model:wanted="wanted"
      v-model:by="by"
      :asked="asked"
      :lit="lit"
      :says="says"
      :gone="drawing?.part.gone ?? 0"
      @visit="visit"
      @subjects="card = 'subjects'"
      @keep="card = 'view'" />
    <ChangesCard
      v-if="compared && since !== undefined"
      ref="changes"
      :compared="compared"
      :since="since"
      @visit="goNear"
      @close="ask({ since: undefined })" />
    <SubjectsCard
      v-if="card === 'subjects'"
      @look="(subject) => ((card = undefined), show({ subject }))"
      @close="card = undefined" />
    <ViewCard
      v-if="card === 'view'"
      :shown="shown"
      :view="kept"
      @kept="(id) => ((card = undefined), show({ view: id }))"
      @close="card = undefined" />
    <div class="tools">
      <button type="button" class="button" @click="fit">Show all</button>
      <button type="button" class="button" aria-label="Nearer" @click="scaleBy(1.25)">+</button>
      <button type="button" class="button" aria-label="Farther" @click="scaleBy(0.8)">−</button>
      <button
        type="button"
        class="button"
        :disabled="isEmpty"
        :title="pinned === 0 ? 'As it would be drawn by itself' : `${pinned} moved by hand`"
        @click="placeAnew">
        Place all anew
      </button>
      <span class="save">
        <ChoiceMenu
          value=""
          :words="isSaving ? 'saving…' : 'save as…'"
          :options="isEmpty ? NOTHING_TO_SAVE : SAVED"
          label="Save the diagram"
          @choose="(as) => as !== '' && save(as)" />
      </span>
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
        >drag, or <kbd>Alt</kbd> and arrows, moves · <kbd>Enter</kbd> to the bench · <kbd>1</kbd>
        <kbd>2</kbd> what is near · <kbd>D</kbd> delete reaches · <kbd>W</kbd> ways</span
      >
    </p>
    <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
    <p v-else-if="isSlow" :class="scene ? 'working quiet' : 'failure'" role="status">
      {{
        scene
          ? 'Drawing what changed …'
          : `Laying out ${(drawing?.part.design.tables.length ?? 0).toLocaleString('en-GB')} tables …`
      }}
    </p>
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
.save :deep(.choice) {
  display: inline-block;
  height: 100%;
  border: 1px solid var(--line);
  border-radius: 2px;
  padding: 4px 11px;
  line-height: 1.5;
  color: var(--ink);
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
.working {
  position: absolute;
  left: 20px;
  bottom: 44px;
  font-size: 12px;
  background: var(--film);
  padding: 3px 8px;
}
</style>
