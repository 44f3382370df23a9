<script setup lang="ts">
import { defaultRangeExtractor, useVirtualizer, type Range } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, watch, onBeforeUnmount } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { tableOf } from '../../core/design/directory.ts'
import type { ForeignKey, Table } from '../../core/design/model.ts'
import { tableCalled } from '../../core/relate/propose.ts'
import RelateCard from '../bench/RelateCard.vue'
import { useTrail } from '../bench/trail.ts'
import { isTyping, useShortcuts } from '../frame/shortcuts.ts'
import SqlStrip from '../sheet/SqlStrip.vue'
import { useStrip } from '../sheet/strip.ts'
import { NEW_LINE } from '../sheet/useLines.ts'
import { useDesign } from '../stores/design.ts'
import LedgerHead from './LedgerHead.vue'
import LedgerSection from './LedgerSection.vue'

/** The whole design as one written document: only the sections in view are made. */
const store = useDesign()
const strip = useStrip()
const trail = useTrail()
const route = useRoute()
const router = useRouter()

const tables = computed(() => store.design?.tables ?? [])
const page = ref<HTMLElement>()
const folded = ref(new Set<string>())
/** The table that the keyboard is in. */
const at = ref('')
const current = computed(() => (store.design && tableOf(store.design, at.value)) ?? tables.value[0])

/** Heights before they are measured (pixels): the parts of a section, and a folded one. */
const HEIGHT = { head: 96, line: 29, reading: 44, foot: 34, folded: 42, gap: 14 }
function estimate(index: number): number {
  const table = tables.value[index]
  if (!table) return HEIGHT.head
  if (folded.value.has(table.id)) return HEIGHT.folded
  return (
    HEIGHT.head +
    (table.columns.length + 1) * HEIGHT.line +
    table.foreignKeys.length * HEIGHT.reading +
    HEIGHT.foot +
    HEIGHT.gap
  )
}

const head = ref<InstanceType<typeof LedgerHead>>()
const headHeight = computed(() => head.value?.height ?? 0)
const virtual = useVirtualizer(
  computed(() => ({
    count: tables.value.length,
    getScrollElement: () => page.value ?? null,
    estimateSize: estimate,
    overscan: 2,
    scrollMargin: headHeight.value,
    // The section that the keyboard is in stays, wherever one scrolls: what is being typed in it must not go.
    rangeExtractor: (range: Range) => {
      const shown = defaultRangeExtractor(range)
      const here = tables.value.findIndex((table) => table.id === at.value)
      return here < 0 || shown.includes(here) ? shown : [...shown, here].sort((a, b) => a - b)
    },
    getItemKey: (index: number) => tables.value[index]?.id ?? index
  }))
)
/**
 * Each section is measured when it comes, and by its observer from then on: asked again at each edit, the
 * page would be laid out each time.
 */
const measured = new WeakSet<HTMLElement>()
function measure(element: unknown): void {
  if (element === null) virtual.value.measureElement(null)
  else if (element instanceof HTMLElement && !measured.has(element)) {
    measured.add(element)
    virtual.value.measureElement(element)
  }
}

const sections = new Map<string, InstanceType<typeof LedgerSection>>()
function keep(id: string, section: unknown): void {
  if (section) sections.set(id, section as InstanceType<typeof LedgerSection>)
  else sections.delete(id)
}

/** Brings a table into view and the keyboard to it: to a column, or to its first or last line. */
async function go(id: string, to: { column?: string; last?: boolean } = {}): Promise<void> {
  const index = tables.value.findIndex((table) => table.id === id)
  if (index < 0) return
  at.value = id
  if (!sections.has(id)) {
    virtual.value.scrollToIndex(index, { align: to.last ? 'end' : 'start' })
    for (let tries = 0; tries < 12 && !sections.has(id); tries++) {
      await nextTick()
      await new Promise((resolve) => requestAnimationFrame(resolve))
    }
  } else if (!to.last && !isInView(id)) virtual.value.scrollToIndex(index, { align: 'start' })
  await nextTick()
  sections.get(id)?.go(to)
}

function isInView(id: string): boolean {
  const box = page.value?.querySelector(`[data-table="${CSS.escape(id)}"]`)?.getBoundingClientRect()
  const view = page.value?.getBoundingClientRect()
  return box !== undefined && view !== undefined && box.top >= view.top && box.top < view.bottom - 120
}

/** To the section above or below. */
function out(from: string, to: 'up' | 'down'): void {
  const index = tables.value.findIndex((table) => table.id === from) + (to === 'up' ? -1 : 1)
  const next = tables.value[index]
  if (next) void go(next.id, { last: to === 'up' })
  else if (to === 'down') field.value?.focus()
  else head.value?.focus()
}

async function fold(id: string, all: boolean): Promise<void> {
  const shut = !folded.value.has(id)
  folded.value = all
    ? new Set(shut ? tables.value.map((table) => table.id) : [])
    : new Set(shut ? [...folded.value, id] : [...folded.value].filter((each) => each !== id))
  virtual.value.measure()
  await nextTick()
  await go(id)
}

function jump(table: string): void {
  trail.step(at.value)
  trail.step(table)
  void router.push({ name: 'ledger', params: { table } })
}

function back(): void {
  const table = trail.back()
  if (table) void router.push({ name: 'ledger', params: { table } })
}

watch(
  [() => route.params.table, () => route.query.column, () => store.design !== undefined],
  async ([table, column], [before, asked]) => {
    if (!table || (table === before && asked && !column)) return
    await nextTick()
    const where = column === NEW_LINE ? { last: true } : column ? { column: String(column) } : {}
    await go(String(table), where)
    // It is asked for once: asked again, it is a way to go again.
    if (column) void router.replace({ name: 'ledger', params: { table } })
  },
  { immediate: true }
)

const relating = ref<{ table: Table; resolve?: ForeignKey }>()
function related(table: string | undefined): void {
  const { value } = relating
  relating.value = undefined
  void nextTick(() => go(table ?? value?.table.id ?? at.value))
}

/** Elsewhere one goes on at the table that one was at. */
onBeforeUnmount(() => {
  if (at.value !== '') trail.step(at.value)
})

const field = ref<HTMLInputElement>()
const name = ref('')
const slip = ref('')
async function make(): Promise<void> {
  const wanted = name.value.trim()
  if (wanted === '' || !store.design) return
  const { table, operation } = tableCalled(store.design, wanted)
  const refusal = store.submit(operation)
  slip.value = refusal?.message ?? ''
  if (refusal) return
  name.value = ''
  await nextTick()
  await go(table.id, { last: true })
}

function removed(id: string): void {
  sections.delete(id)
  const index = Math.max(
    0,
    tables.value.findIndex((table) => table.id === id)
  )
  const next = tables.value[index] ?? tables.value.at(-1)
  if (next) void nextTick(() => go(next.id))
}

useShortcuts((event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || relating.value || isTyping(event)) return false
  if (event.key === 't') field.value?.focus()
  else if (event.key === 'Backspace') back()
  else if (
    ['ArrowDown', 'ArrowUp'].includes(event.key) &&
    document.activeElement === document.body &&
    current.value
  )
    void go(current.value.id)
  else return false
  return true
})
</script>

<template>
  <div class="screen">
    <div ref="page" class="page" tabindex="-1">
      <LedgerHead ref="head" />
      <div class="sections" :style="{ height: `${virtual.getTotalSize()}px` }">
        <div
          v-for="item in virtual.getVirtualItems()"
          :key="String(item.key)"
          :ref="measure"
          :data-index="item.index"
          :data-table="tables[item.index]?.id"
          class="section"
          :style="{ transform: `translateY(${item.start - headHeight}px)` }"
          @focusin="at = tables[item.index]?.id ?? at">
          <LedgerSection
            v-for="table in tables.slice(item.index, item.index + 1)"
            :key="table.id"
            :ref="(section) => keep(table.id, section)"
            :table="table"
            :folded="folded.has(table.id)"
            @back="back"
            @relate="relating = { table, ...($event && { resolve: $event }) }"
            @removed="removed(table.id)"
            @jump="jump"
            @out="out(table.id, $event)"
            @fold="fold(table.id, $event)"
            @sql="strip.toggle()" />
        </div>
      </div>
      <form class="next" @submit.prevent="make">
        <input
          ref="field"
          v-model="name"
          class="field"
          aria-label="Name of a new table"
          :placeholder="tables.length === 0 ? 'Name the first table…' : 'Name another table…'"
          :autofocus="tables.length === 0"
          spellcheck="false"
          autocomplete="off"
          @keydown.up.prevent="tables.length > 0 && go((tables.at(-1) as Table).id, { last: true })"
          @keydown.esc="go(at)" />
        <button type="submit" class="button">Make it <kbd>Enter</kbd></button
        ><span class="quiet small">from anywhere: <kbd>T</kbd></span>
        <p v-if="tables.length === 0" class="quiet hint">
          Nothing is written down yet. One table for each kind of thing: an admission, a medicine, a ward. Its
          columns can be typed, or pasted as lines of <span class="mono">name type</span>.
        </p>
        <p v-if="slip" role="alert" class="slip">{{ slip }}</p>
      </form>
    </div>
    <SqlStrip :table="current" />
    <RelateCard v-if="relating" :table="relating.table" :resolve="relating.resolve" @close="related" />
  </div>
</template>

<style scoped>
.screen {
  height: 100%;
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  --sheet-columns: 40px minmax(150px, 1.1fr) minmax(170px, 1.2fr) 60px minmax(130px, 1.35fr)
    minmax(150px, 1.4fr);
}
.page {
  overflow: auto;
  padding: 0 20px;
  min-height: 0;
  overflow-anchor: none;
}
.page:focus {
  outline: none;
}
.sections {
  position: relative;
}
.section {
  position: absolute;
  top: 0;
  left: 0;
  width: 100%;
  padding-bottom: 14px;
}
.next {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
  padding: 0 0 60px;
}
.next .field {
  width: 320px;
}
.slip {
  color: var(--deleted);
  flex-basis: 100%;
}
.hint {
  flex-basis: 100%;
}
</style>
