<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { columnOf, referencesTo, tableOf } from '../../core/design/directory.ts'
import type { ForeignKey, Row, Table } from '../../core/design/model.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { repairsOf } from '../../core/edit/mend-rows.ts'
import { counted } from '../../core/naming/words.ts'
import { writeCsv } from '../../core/rows/csv.ts'
import { orphansOf } from '../../core/rows/orphans.ts'
import { isJunction } from '../../core/relate/junction.ts'
import { useTrail } from '../bench/trail.ts'
import { useMiddle } from '../bench/useMiddle.ts'
import { isTyping, useShortcuts } from '../frame/shortcuts.ts'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'
import { useRehearsal } from '../stores/rehearsal.ts'
import { useUnfinished } from '../stores/unfinished.ts'
import { download } from '../parts/files.ts'
import RehearsalView from './RehearsalView.vue'
import RowGrid from './RowGrid.vue'
import RowsTabs from './RowsTabs.vue'
import SideCard from './SideCard.vue'
import TableStops from './TableStops.vue'
import type { Work } from './work.ts'
import WorkCards from './WorkCards.vue'
import { useBeside } from './useBeside.ts'
import { useOrder } from './useOrder.ts'
import { useRowsView } from './useRowsView.ts'
import { useViolations } from './useViolations.ts'

const store = useDesign()
const rehearsal = useRehearsal()
const unfinished = useUnfinished()
const trail = useTrail()
const route = useRoute()
const router = useRouter()

const middle = useMiddle(({ tables }) => tables.find(({ rows }) => rows.length > 0) ?? tables[0])
const filter = ref('')
const { view, shown, change, sortBy, groupBy } = useRowsView(middle)
const { order, groups } = useOrder(middle, filter, shown, view)

/** The rows that are chosen, the one with the keyboard last. */
const chosen = ref<number[]>([])
const place = computed(() => chosen.value.at(-1))
const row = computed(() => (place.value === undefined ? undefined : middle.value?.rows[place.value]))
const { label, ones, manys } = useBeside(middle, row)
/** The tables beside this one, each once, for where no row is chosen. */
const referred = computed(() => tablesOf(middle.value?.foreignKeys.map(({ table }) => table) ?? []))
const referring = computed(() =>
  tablesOf(
    store.design && middle.value
      ? referencesTo(store.design, middle.value.id).map(({ table }) => table.id)
      : []
  )
)
const tablesOf = (ids: readonly string[]): Table[] =>
  [...new Set(ids)].flatMap((id) => (store.design && tableOf(store.design, id)) ?? [])
/** The tables that have no row yet, where each row of this one needs one. */
const needed = computed(() => {
  const here = middle.value
  const isNeeded = ({ pairs, table }: ForeignKey): boolean =>
    table !== here?.id && pairs.every(({ column }) => here && columnOf(here, column)?.required)
  const tables = tablesOf(here?.foreignKeys.filter(isNeeded).map(({ table }) => table) ?? [])
  return tables.filter(({ rows, external }) => rows.length === 0 && !external)
})
const violations = useViolations()
/** The place of a row that was just made, and is still written in. */
const begun = ref<number>()
const amiss = computed(() =>
  violations.value.filter(
    ({ table, rows }) => table === middle.value?.id && rows.some((place) => place !== begun.value)
  )
)
/** Of more rows than this no repair is worked out beforehand. */
const MOST_REPAIRED = 20_000
/** What puts the first of them right. */
const repairs = computed(() => {
  const [first] = amiss.value
  const isLarge = (middle.value?.rows.length ?? 0) > MOST_REPAIRED
  return store.design && first && !isLarge ? repairsOf(store.design, first) : []
})
/** Why what was typed into the first cell that waits cannot stand there. */
const waiting = computed(() => {
  const [place] = unfinished.rowsWaiting.get(middle.value?.id ?? '') ?? []
  const waits = place === undefined ? undefined : middle.value?.rows[place]
  const cells = middle.value && waits ? Object.values(unfinished.cellsOf(middle.value, waits) ?? {}) : []
  return cells[0] && `Row ${(place ?? 0) + 1}: ${cells[0].why}`
})
/** Of more rows than this it is not counted beforehand how many point at nothing. */
const MOST_LOOKED_AT = 2000
const lost = computed(() => {
  const isLarge = (middle.value?.rows.length ?? 0) > MOST_LOOKED_AT
  if (!store.design || !middle.value || isLarge) return undefined
  return new Set(orphansOf(store.design, middle.value).flatMap(({ rows }) => rows)).size
})
const lostSaid = computed(() => {
  return lost.value === undefined ? 'what points at nothing' : `points at nothing: ${lost.value || 'none'}`
})
const marks = computed(() => (store.design && middle.value ? tableMarks(store.design, middle.value) : []))
const trailTables = computed(() =>
  trail.tables.flatMap((id) => (store.design && tableOf(store.design, id)) ?? [])
)

const grid = ref<InstanceType<typeof RowGrid>>()
const screen = ref<HTMLElement>()
/** Where the keyboard goes when the table has come. */
let wanted: number | undefined

watch(
  () => middle.value?.id,
  async (id) => {
    if (!id) return
    trail.step(id)
    filter.value = ''
    begun.value = undefined
    if (route.params.table !== id)
      void router.replace({ name: 'rows', params: { ...route.params, table: id } })
    await nextTick()
    if (wanted !== undefined) grid.value?.goTo(wanted)
    wanted = undefined
    const isFree = document.activeElement === document.body || document.activeElement?.matches('header a')
    if (isFree || screen.value?.contains(document.activeElement)) grid.value?.focus()
  },
  { immediate: true }
)

// A column that was looked for is come to, once.
watch(
  () => route.query.column,
  async (column) => {
    if (typeof column !== 'string') return
    await nextTick()
    grid.value?.goToColumn(column)
    void router.replace({ name: 'rows', params: route.params })
  },
  { immediate: true, flush: 'post' }
)

function walk(table: string, to?: number): void {
  wanted = to
  if (table === middle.value?.id) {
    if (to !== undefined) grid.value?.goTo(to)
    grid.value?.focus()
    wanted = undefined
  } else void router.push({ name: 'rows', params: { table } })
}

function cards(side: 'one' | 'many'): HTMLElement[] {
  return [...(screen.value?.querySelectorAll<HTMLElement>(`[data-side="${side}"] article`) ?? [])]
}
function out(to: 'left' | 'right' | 'up'): void {
  if (to !== 'up') cards(to === 'left' ? 'one' : 'many')[0]?.focus()
}
function cardKey(event: KeyboardEvent, side: 'one' | 'many'): void {
  const list = cards(side)
  const at = list.indexOf(event.target as HTMLElement)
  if (at < 0 || event.ctrlKey || event.altKey || event.metaKey) return
  const inward = side === 'one' ? 'ArrowRight' : 'ArrowLeft'
  const next = event.key === 'ArrowDown' ? list[at + 1] : event.key === 'ArrowUp' ? list[at - 1] : undefined
  if (next) next.focus()
  else if (event.key === inward || event.key === 'Escape') grid.value?.focus()
  else return
  event.preventDefault()
}

function back(): void {
  const table = trail.back()
  if (table) walk(table)
}

function remove(places: readonly number[]): void {
  if (!middle.value || places.length === 0) return
  const why = rehearsal.tryDelete(middle.value.id, places)
  if (why) store.say(why)
}
function rekey(at: number, values: Row): void {
  if (!middle.value) return
  const why = rehearsal.tryChange(middle.value.id, at, values)
  if (why) store.say(why)
}

/** What is worked on beside the rows, on a card of its own. */
const work = ref<Work>()
function closed(): void {
  work.value = undefined
  void nextTick(() => grid.value?.focus())
}
function exportRows(): void {
  if (!store.design || !middle.value) return
  download(`${middle.value.name}.csv`, writeCsv(store.design, middle.value, { labels: true }), 'text/csv')
}

useShortcuts((event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event) || rehearsal.isOpen) return false
  if (event.key === 'Backspace') back()
  else return false
  return true
})
</script>

<template>
  <div v-if="!middle" class="empty">
    <p class="quiet">Rows stand in tables, and there is none yet: begin on the bench.</p>
  </div>
  <div v-else ref="screen" class="screen">
    <div class="trail">
      <RowsTabs here="rows" :table="middle.id" />
      <template v-for="(table, at) in trailTables" :key="table.id">
        <span v-if="at > 0" aria-hidden="true">›</span>
        <button type="button" class="stop" :class="{ here: table.id === middle.id }" @click="walk(table.id)">
          {{ table.name }}
        </button>
      </template>
      <span v-if="!rehearsal.isOpen" class="keys"
        ><span>write <kbd>Enter</kbd></span
        ><span>new row <kbd>Insert</kbd></span
        ><span>try a delete <kbd>Del</kbd></span
        ><span>beside <kbd>←</kbd> <kbd>→</kbd></span></span
      >
    </div>
    <RehearsalView v-if="rehearsal.isOpen" @done="nextTick(() => grid?.focus())" @walk="walk" />
    <!-- They stay as they are behind what is tried, and are there again at once. -->
    <div v-show="!rehearsal.isOpen" class="rows">
      <div class="side" data-side="one" @keydown="cardKey($event, 'one')">
        <h2>{{ label ? `“${label}” refers to` : `${middle.name} refers to` }}</h2>
        <SideCard
          v-for="one in ones"
          :key="one.foreignKey.id"
          :table="one.table"
          :child="middle"
          :foreign-key="one.foreignKey"
          :places="one.place === undefined ? [] : [one.place]"
          :is-lost="one.isLost"
          :note="one.others > 0 ? `as ${counted(one.others, `other ${middle.name}`)}` : ''"
          side="one"
          @walk="walk" />
        <TableStops v-if="!row" :tables="referred" @walk="walk" />
        <p v-else-if="ones.length === 0" class="none">nothing</p>
      </div>
      <section class="sheet" :aria-label="`Rows of ${middle.name}`">
        <header>
          <KeyMark v-for="mark in marks" :key="mark.key" :mark="mark" large />
          <h1 :title="middle.name">{{ middle.name }}</h1>
          <span class="quiet"
            >{{ counted(middle.rows.length, 'row')
            }}<template v-if="groups.length > 0">, {{ counted(groups.length, 'group') }}</template></span
          >
          <input
            v-model="filter"
            class="lined filter"
            :aria-label="`Only rows of ${middle.name} that have`"
            placeholder="only rows with…"
            spellcheck="false"
            @keydown.esc="filter = ''"
            @keydown.enter.prevent="grid?.focus()"
            @keydown.down.prevent="grid?.focus()" />
          <button type="button" class="button" :disabled="middle.external" @click="grid?.add()">
            New row
          </button>
          <button
            type="button"
            class="button"
            :disabled="chosen.length === 0 || middle.external"
            @click="remove(chosen)">
            Try deleting {{ chosen.length > 1 ? `${chosen.length} rows` : 'it' }}
          </button>
        </header>
        <p v-if="amiss.length > 0" class="amiss" role="status">
          <span class="effect-deleted"
            >{{ amiss[0]?.message
            }}<template v-if="amiss.length > 1"> And {{ amiss.length - 1 }} more.</template></span
          >
          Kept, and left out of what is tried.
          <button
            v-for="repair in repairs"
            :key="repair.label"
            type="button"
            class="link"
            @click="store.submit(repair.operation, repair.label)">
            {{ repair.label }}
          </button>
        </p>
        <p v-if="waiting" class="amiss" role="status">
          <span class="effect-deleted">{{ waiting }}</span> Kept as it was typed, and its row is left out of
          what is tried.
        </p>
        <p v-if="middle.rows.length === 0 && !middle.external" class="amiss">
          <span>No rows yet: <kbd>Insert</kbd> writes one.</span>
          <span v-if="needed.length > 0"
            >Each needs a row of
            <template v-for="(table, at) in needed" :key="table.id"
              >{{ at === 0 ? '' : at === needed.length - 1 ? ' and ' : ', ' }}
              <button type="button" class="link" @click="walk(table.id)">{{ table.name }}</button></template
            >, which {{ needed.length === 1 ? 'has' : 'have' }} none either.</span
          >
        </p>
        <p v-if="middle.external" class="quiet none">
          {{ middle.name }} is another system’s: what rows it has is not known here.
        </p>
        <RowGrid
          v-else
          :key="middle.id"
          ref="grid"
          :table="middle"
          :shown="shown"
          :sort="view.sort"
          :order="order"
          :groups="groups"
          :grouped-by="view.group"
          :violations="violations"
          @choose="(places) => (chosen = places)"
          @remove="remove"
          @rekey="rekey"
          @sort="sortBy"
          @group="groupBy"
          @begun="(at) => (begun = at)"
          @out="out" />
        <footer>
          <div>
            <button type="button" class="link" @click="work = { kind: 'columns' }">columns, groups</button>
          </div>
          <div v-if="!middle.external">
            <button
              type="button"
              class="link"
              :disabled="place === undefined"
              @click="work = { kind: 'ask' }">
              ask
            </button>
            <button
              v-if="middle.rows.length > 0"
              type="button"
              class="link"
              @click="work = { kind: 'connect' }">
              connect rows
            </button>
            <button
              v-if="isJunction(middle)"
              type="button"
              class="link"
              @click="work = { kind: 'pairs', junction: middle.id }">
              missing pairs
            </button>
            <button type="button" class="link" :class="{ lost: lost }" @click="work = { kind: 'orphans' }">
              {{ lostSaid }}
            </button>
          </div>
          <div class="last">
            <button v-if="!middle.external" type="button" class="link" @click="work = { kind: 'generate' }">
              make some
            </button>
            <button v-if="!middle.external" type="button" class="link" @click="work = { kind: 'import' }">
              import
            </button>
            <button v-if="middle.rows.length > 0" type="button" class="link" @click="exportRows">
              export
            </button>
          </div>
        </footer>
      </section>
      <div class="side" data-side="many" @keydown="cardKey($event, 'many')">
        <h2>{{ label ? `refers to “${label}”` : `refers to ${middle.name}` }}</h2>
        <SideCard
          v-for="many in manys"
          :key="many.foreignKey.id"
          :table="many.table"
          :child="many.table"
          :foreign-key="many.foreignKey"
          :places="many.places"
          :far="many.far"
          side="many"
          @walk="walk"
          @fill="work = { kind: 'pairs', junction: many.table.id, place }"
          @figure="work = { kind: 'figure', over: many.foreignKey.id }"
          @ask="work = { kind: 'ask', over: many.foreignKey.id }" />
        <TableStops v-if="!row" :tables="referring" @walk="walk" />
        <p v-else-if="manys.length === 0" class="none">nothing</p>
      </div>
    </div>
    <WorkCards
      v-if="work"
      :work="work"
      :table="middle"
      :place="place"
      :view="view"
      @view="change"
      @turn="(to) => (work = to)"
      @close="closed" />
  </div>
</template>

<style scoped>
.screen {
  height: 100%;
  display: grid;
  grid-template-rows: 34px minmax(0, 1fr);
}
.trail {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 0 20px;
  color: var(--quiet);
  overflow: hidden;
  white-space: nowrap;
}
.stop {
  border: 0;
  background: none;
  padding: 2px 0;
  cursor: pointer;
  color: var(--quiet);
}
.stop.here {
  color: var(--ink);
  font-weight: 600;
}
.keys {
  margin-left: auto;
  display: flex;
  gap: 14px;
}
.rows {
  display: grid;
  grid-template-columns: minmax(180px, 206px) minmax(420px, 1fr) minmax(200px, 252px);
  gap: 22px;
  padding: 4px 20px 16px;
  min-height: 0;
}
.side {
  display: flex;
  flex-direction: column;
  gap: 10px;
  overflow: auto;
  min-height: 0;
}
h2 {
  font-size: 12px;
  color: var(--quiet);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  flex: none;
}
.sheet {
  display: flex;
  flex-direction: column;
  min-height: 0;
  min-width: 0;
  background: var(--sheet);
  border: 1px solid var(--line);
  margin-top: 20px;
}
.sheet header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 10px;
  padding: 8px 12px;
  border-bottom: 1px solid var(--hair);
  min-width: 0;
}
.sheet footer {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  white-space: nowrap;
  padding: 6px 12px;
  border-top: 1px solid var(--hair);
  margin-top: auto;
}
/* What is looked at, what is done with rows, and what comes in or goes out. */
.sheet footer > div {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}
.sheet footer > div + div {
  padding-left: 22px;
  border-left: 1px solid var(--line);
}
.sheet footer .last {
  margin-left: auto;
}
.sheet footer .link.lost {
  color: var(--deleted);
}
h1 {
  font-size: 15px;
  font-weight: 700;
}
.amiss {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  color: var(--quiet);
  padding: 4px 12px;
  border-bottom: 1px solid var(--hair);
}
.sheet header > * {
  flex: none;
  white-space: nowrap;
}
.sheet header > h1 {
  max-width: min(100%, 400px);
  overflow: hidden;
  text-overflow: ellipsis;
}
.sheet header > .filter {
  margin-left: auto;
  width: 150px;
  min-width: 90px;
  flex: 0 1 150px;
}
.none {
  color: var(--quiet);
  font-size: 12px;
  padding: 8px 11px;
}
.side .none {
  border: 1px dashed var(--line);
}
.empty {
  padding: 12vh 20px 0;
  text-align: center;
}
@media (width < 1080px) {
  .rows {
    grid-template-columns: minmax(150px, 190px) minmax(320px, 1fr) minmax(160px, 220px);
    gap: 12px;
    padding: 4px 12px 12px;
  }
  .keys {
    display: none;
  }
}
</style>
