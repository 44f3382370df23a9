<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { fullName, tableOf } from '../../core/design/directory.ts'
import type { ForeignKey } from '../../core/design/model.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { tableCalled } from '../../core/relate/propose.ts'
import KeyMark from '../parts/KeyMark.vue'
import { isTyping, useShortcuts } from '../frame/shortcuts.ts'
import RowsStrip from '../rows/RowsStrip.vue'
import SqlStrip from '../sheet/SqlStrip.vue'
import { useStrip } from '../sheet/strip.ts'
import { NEW_LINE } from '../sheet/useLines.ts'
import TableSheet from '../sheet/TableSheet.vue'
import { useDesign } from '../stores/design.ts'
import BenchWires from './BenchWires.vue'
import NeighbourCard from './NeighbourCard.vue'
import MindCard from '../mind/MindCard.vue'
import RelateCard from './RelateCard.vue'
import { useTrail } from './trail.ts'
import { useMiddle } from './useMiddle.ts'
import { useNeighbours, type Neighbour } from './useNeighbours.ts'

const store = useDesign()
const trail = useTrail()
const strip = useStrip()
const route = useRoute()
const router = useRouter()

const middle = useMiddle()
const { ones, manys } = useNeighbours(
  computed(() => store.design),
  middle
)
const trailTables = computed(() =>
  trail.tables.flatMap((id) => (store.design && tableOf(store.design, id)) ?? [])
)

/** With more cards than this on a side they say what they say in a few words. */
const MANY = 7

const bench = ref<HTMLElement>()
const sheet = ref<InstanceType<typeof TableSheet>>()
const wires = ref<InstanceType<typeof BenchWires>>()
/** The relate card: open for the table in the middle, or for a reference that is to become a junction. */
const relating = ref<{ resolve?: ForeignKey }>()
/** The changes of mind, open for the table in the middle, or for one of its relationships. */
const minding = ref<{ about?: string | undefined }>()

/** Brings the keyboard to the column that the address asks for, or to the line for a new one; it asks once. */
function toColumn(): boolean {
  const column = String(route.query.column ?? '')
  if (column === '') return false
  if (column === NEW_LINE) void sheet.value?.write()
  else void sheet.value?.focusColumn(column)
  void router.replace({ name: 'bench', params: route.params })
  return true
}

const first = useTemplateRef('first')
/** Whether the table that comes to the middle was just made, as the first of all. */
let isFirst = false
watch(
  () => middle.value?.id,
  async (id) => {
    if (!id) {
      await nextTick()
      if (document.activeElement === document.body) first.value?.focus()
      return
    }
    trail.step(id)
    if (route.params.table !== id)
      void router.replace({ name: 'bench', params: { ...route.params, table: id } })
    await nextTick()
    wires.value?.redraw()
    if (toColumn()) return
    if (isFirst) {
      isFirst = false
      return void sheet.value?.write()
    }
    const active = document.activeElement
    if (active === null || isFree() || bench.value?.contains(active)) void sheet.value?.focusLine(0)
  },
  { immediate: true }
)
watch(() => route.query.column, toColumn)
watch(
  () => middle.value,
  () => wires.value?.redraw(),
  { flush: 'post' }
)

function walk(table: string): void {
  void router.push({ name: 'bench', params: { table } })
}

function cards(side: 'one' | 'many'): HTMLElement[] {
  return [...(bench.value?.querySelectorAll<HTMLElement>(`[data-side="${side}"] article`) ?? [])]
}

function reach(to: 'left' | 'right' | 'back'): void {
  if (to === 'back') {
    const table = trail.back()
    if (table) walk(table)
  } else cards(to === 'left' ? 'one' : 'many')[0]?.focus()
}

/** Along the cards with up and down, back to the sheet with the arrow that points to it. */
function cardKey(event: KeyboardEvent, side: 'one' | 'many'): void {
  const list = cards(side)
  const at = list.indexOf(event.target as HTMLElement)
  if (at < 0 || event.ctrlKey || event.altKey || event.metaKey) return
  const inward = side === 'one' ? 'ArrowRight' : 'ArrowLeft'
  const next = event.key === 'ArrowDown' ? list[at + 1] : event.key === 'ArrowUp' ? list[at - 1] : undefined
  if (next) next.focus()
  else if (event.key === inward || event.key === 'Escape') void sheet.value?.focusLine()
  else if (event.key === 'Backspace') reach('back')
  else return
  event.preventDefault()
}

/** The relationship whose card has the keyboard. */
const focusedRelation = (): string | undefined =>
  document.activeElement?.closest<HTMLElement>('[data-relation]')?.dataset.relation

/** Whether nothing has the keyboard, or only what was clicked on to come here. */
function isFree(): boolean {
  const active = document.activeElement
  return active === null || active === document.body || active.matches('header a')
}

useShortcuts((event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || relating.value || minding.value || isTyping(event))
    return false
  if (event.key.toLowerCase() === 'r' && middle.value) relating.value = {}
  else if (event.key.toLowerCase() === 'm' && middle.value) minding.value = { about: focusedRelation() }
  else if (event.key === 'Backspace') reach('back')
  else if (event.key.toLowerCase() === 'w' && middle.value) toggleRows()
  else if (!isFree()) return false
  else if (['ArrowDown', 'ArrowUp'].includes(event.key)) void sheet.value?.focusLine()
  else if (sheet.value && event.key !== 'Tab' && event.key !== 'Enter') void sheet.value.press(event)
  else return false
  return true
})

/** Whether the rows of the table in the middle are pulled up. */
const trying = ref(false)
function toggleRows(): void {
  if (trying.value) putAway()
  else trying.value = true
}
function putAway(): void {
  trying.value = false
  void nextTick(() => sheet.value?.focusLine())
}

function resolve(neighbour: Neighbour): void {
  relating.value = { resolve: neighbour.foreignKey }
}

function minded(): void {
  minding.value = undefined
  void nextTick(() => sheet.value?.focusLine())
}

function related(table: string | undefined): void {
  relating.value = undefined
  if (table && table !== middle.value?.id) walk(table)
  else void nextTick(() => sheet.value?.focusLine())
}

const firstName = ref('')
function makeFirst(): void {
  const name = firstName.value.replace(/^\//, '').trim()
  if (name === '' || !store.design) return
  const { operation } = tableCalled(store.design, name)
  if (store.submit(operation)) return
  firstName.value = ''
  isFirst = true
}
</script>

<template>
  <div v-if="!middle" class="first">
    <h1>Nothing is designed yet</h1>
    <p class="quiet">Begin with one table for each kind of thing: an admission, a medicine, a ward.</p>
    <form @submit.prevent="makeFirst">
      <input
        ref="first"
        v-model="firstName"
        class="field"
        aria-label="Name of the first table"
        placeholder="Name the first table…"
        spellcheck="false" />
      <button class="button main" type="submit">Make it <kbd>Enter</kbd></button>
    </form>
  </div>
  <div v-else class="screen">
    <div class="trail">
      <template v-for="(table, at) in trailTables" :key="table.id">
        <span v-if="at > 0" aria-hidden="true">›</span>
        <button
          type="button"
          class="stop"
          :class="{ here: table.id === middle.id }"
          :aria-current="table.id === middle.id ? 'true' : undefined"
          @click="walk(table.id)">
          <KeyMark
            v-for="mark in store.design ? tableMarks(store.design, table).slice(0, 1) : []"
            :key="mark.key"
            :mark="mark" />{{ store.design ? fullName(store.design, table) : table.name }}
        </button>
      </template>
      <span class="keys"
        ><span>walk <kbd>←</kbd> <kbd>→</kbd></span
        ><span>to the middle <kbd>Enter</kbd></span
        ><span>back <kbd>⌫</kbd></span
        ><span>move a line <kbd>Alt ↑↓</kbd></span
        ><button type="button" class="link" @click="toggleRows">rows <kbd>W</kbd></button
        ><button type="button" class="link" @click="minding = {}">change of mind <kbd>M</kbd></button></span
      >
    </div>
    <div class="scroll">
      <div ref="bench" class="bench">
        <BenchWires ref="wires" :ones="ones" :manys="manys" :root="bench" />
        <div
          class="side"
          :class="{ dense: ones.length > MANY }"
          data-side="one"
          @keydown="cardKey($event, 'one')">
          <h2>{{ middle.name }} refers to</h2>
          <NeighbourCard
            v-for="neighbour in ones"
            :key="neighbour.foreignKey.id"
            :neighbour="neighbour"
            side="one"
            :slim="ones.length > MANY"
            :data-relation="neighbour.foreignKey.id"
            @walk="walk"
            @mind="minding = { about: neighbour.foreignKey.id }"
            @resolve="resolve(neighbour)" />
          <p v-if="ones.length === 0" class="none">
            nothing yet. Write <span class="mono">&gt; table</span> as a type, or press <kbd>R</kbd>
          </p>
        </div>
        <div class="middle">
          <TableSheet
            :key="middle.id"
            ref="sheet"
            class="arrives"
            :table="middle"
            @walk="reach"
            @relate="relating = {}"
            @removed="trail.clear()"
            @jump="walk"
            @out="(to) => sheet?.focusLine(to === 'up' ? 0 : undefined)"
            @sql="strip.toggle()" />
        </div>
        <div
          class="side"
          :class="{ dense: manys.length > MANY }"
          data-side="many"
          @keydown="cardKey($event, 'many')">
          <h2>refers to {{ middle.name }}</h2>
          <NeighbourCard
            v-for="neighbour in manys"
            :key="neighbour.foreignKey.id"
            :neighbour="neighbour"
            side="many"
            :slim="manys.length > MANY"
            :data-relation="neighbour.foreignKey.id"
            @walk="walk"
            @mind="minding = { about: neighbour.foreignKey.id }" />
          <p v-if="manys.length === 0" class="none">nothing yet</p>
        </div>
      </div>
    </div>
    <div>
      <RowsStrip v-if="trying" :table="middle" @close="putAway" @out="sheet?.focusLine()" />
      <SqlStrip :table="middle" />
    </div>
    <MindCard v-if="minding" :table="middle" :about="minding.about" @close="minded" />
    <RelateCard v-if="relating" :table="middle" :resolve="relating.resolve" @close="related" />
  </div>
</template>

<style scoped>
.screen {
  height: 100%;
  display: grid;
  grid-template-rows: 34px minmax(0, 1fr) auto;
}
.trail {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 0 20px;
  color: var(--quiet);
  min-width: 0;
  overflow: hidden;
}
.stop {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  border: 0;
  background: none;
  padding: 2px 0;
  cursor: pointer;
  color: var(--quiet);
  white-space: nowrap;
  max-width: 180px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.stop.here {
  color: var(--ink);
  font-weight: 600;
}
.keys {
  margin-left: auto;
  display: flex;
  gap: 14px;
  white-space: nowrap;
}
.scroll {
  overflow: auto;
  min-height: 0;
}
.bench {
  position: relative;
  display: grid;
  grid-template-columns: minmax(220px, 256px) minmax(480px, 640px) minmax(240px, 300px);
  justify-content: space-between;
  column-gap: 56px;
  padding: 4px 20px 40px;
  min-height: 100%;
  align-items: start;
}
/* All three are in view, as narrow as they can be read. */
@media (width < 1080px) {
  .bench {
    --name-least: 84px;
    --type-least: 92px;
    --default-least: 56px;
    --note-least: 16px;
    grid-template-columns: minmax(160px, 220px) minmax(404px, 1fr) minmax(160px, 240px);
    column-gap: 30px;
    padding: 4px 12px 40px;
  }
}
@media (width >= 1500px) {
  .bench {
    --note-share: 1.4fr;
    grid-template-columns: 300px minmax(480px, 940px) 340px;
  }
}
.side {
  display: flex;
  flex-direction: column;
  gap: 10px;
  position: relative;
}
/* As high as the lines of the sheet, so that each stands near the line that it is about. */
.dense {
  gap: 0;
}
.dense > article {
  margin-bottom: -1px;
  flex: none;
}
.dense h2 {
  margin-bottom: 6px;
}
/* From the first line under the sheet's head on, so that most lines run straight. */
.dense[data-side='one'] {
  padding-top: 132px;
}
.dense[data-side='one'] h2 {
  position: absolute;
  top: 0;
}
h2 {
  font-size: 12px;
  color: var(--quiet);
  margin-bottom: -2px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.middle {
  padding-top: 20px;
  position: relative;
}
.none {
  color: var(--quiet);
  font-size: 12px;
  border: 1px dashed var(--line);
  padding: 8px 11px;
}
.first {
  max-width: 520px;
  margin: 12vh auto 0;
  padding: 0 20px;
}
.first h1 {
  font-size: 20px;
  font-weight: 600;
}
.first form {
  display: flex;
  gap: 8px;
  margin-top: 14px;
}
.first .field {
  flex: 1;
  padding: 6px 10px;
}
.arrives {
  animation: arrive 0.16s ease-out;
}
@keyframes arrive {
  from {
    transform: translateX(18px);
    opacity: 0;
  }
}
</style>
