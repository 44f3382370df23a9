<script setup lang="ts">
import { ElDialog } from 'element-plus/es/components/dialog/index.mjs'
import { computed, nextTick, ref, shallowRef, watch } from 'vue'
import type { Design, Table } from '../../core/design/model.ts'
import { dialectsOf } from '../../core/dialect/index.ts'
import type { Dialect } from '../../core/dialect/dialect.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Answers, ChangeOffer } from '../../core/restructure/change.ts'
import {
  foreseenRows,
  foreseenWords,
  priceOf,
  sayPrice,
  touchedTables
} from '../../core/version/foresight.ts'
import { newlyBroken, sayBroken } from '../../core/rehearse/ruling.ts'
import { useDesign } from '../stores/design.ts'
import MindAsks from './MindAsks.vue'
import SampleTable from './SampleTable.vue'
import SceneDrawing from './SceneDrawing.vue'
import { useMinds } from './useMinds.ts'

/**
 * The changes of mind that fit a table and its relationships, each as the sentence that it makes true; what one would
 * do is seen before it is done.
 */
const props = defineProps<{
  table: Table
  /** The relationship that is asked about; the table itself where there is none. */
  about?: string | undefined
}>()
const emit = defineEmits<{ close: [] }>()
const store = useDesign()

const groups = useMinds(
  computed(() => store.design),
  computed(() => props.table)
)
const all = computed(() => groups.value.flatMap(({ id, offers }) => offers.map((offer) => ({ id, offer }))))
const at = ref(0)
const chosen = computed((): ChangeOffer | undefined => all.value[at.value]?.offer)
const answers = shallowRef<Answers>({})
watch(chosen, () => (answers.value = {}))

const outcome = computed(() => chosen.value?.operation(answers.value))
const after = computed(() => {
  if (!store.design || !outcome.value?.ok) return undefined
  const result = apply(store.design, outcome.value.value)
  return result.ok ? result.design : undefined
})
const trouble = computed(() => (outcome.value && !outcome.value.ok ? outcome.value.message : ''))

/** The rulings that it would no longer keep to. */
const broken = computed(() => {
  const now = after.value
  if (!store.design || !now) return []
  return newlyBroken(store.design, now).map(
    (each) => `Breaks the ruling “${each.ruling.says}” ${sayBroken(now, each) ?? ''}`
  )
})
const words = computed(() => (store.design && after.value ? foreseenWords(store.design, after.value) : []))
const rows = computed(() => (store.design && after.value ? foreseenRows(store.design, after.value) : []))
const price = computed(() =>
  store.design && after.value
    ? priceOf(store.design, after.value, dialectsOf(after.value)[0] as Dialect)
    : undefined
)

/** More tables than this make no small drawing. */
const DRAWN = 7
/** The tables that a change is about, with the relationships among them. */
function part(design: Design, ids: ReadonlySet<string>): Design {
  const tables = design.tables.filter(({ id }) => ids.has(id))
  const among = (table: Table): Table => ({
    ...table,
    rows: [],
    foreignKeys: table.foreignKeys.filter((key) => ids.has(key.table))
  })
  return { ...design, tables: tables.map(among), positions: {}, carries: [] }
}
/** Whether a relationship comes or goes. */
const isOnlyInOne = (id: string, states: readonly Design[]): boolean =>
  states.filter(({ tables }) => tables.some(({ foreignKeys }) => foreignKeys.some((key) => key.id === id)))
    .length === 1

const drawings = computed((): [Design, Design] | undefined => {
  if (!store.design || !after.value) return undefined
  const states = [store.design, after.value]
  const ids = new Set(touchedTables(store.design, after.value))
  for (const { foreignKeys } of states.flatMap(({ tables }) => tables.filter(({ id }) => ids.has(id))))
    for (const key of foreignKeys) if (isOnlyInOne(key.id, states)) ids.add(key.table)
  return ids.size <= DRAWN ? [part(store.design, ids), part(after.value, ids)] : undefined
})

const list = ref<HTMLElement>()
/** Begins with the relationship that is asked about. */
function begin(): void {
  const wanted = all.value.findIndex(({ id }) => id === (props.about ?? ''))
  at.value = Math.max(wanted, 0)
  void nextTick(focusChosen)
}
const focusChosen = (): void => list.value?.querySelector<HTMLElement>('[aria-selected=true]')?.focus()

function move(by: number): void {
  at.value = (at.value + by + all.value.length) % all.value.length
  void nextTick(() => {
    focusChosen()
    list.value?.querySelector('[aria-selected=true]')?.scrollIntoView({ block: 'nearest' })
  })
}

function carryOut(): void {
  if (!outcome.value?.ok) return
  const said = chosen.value?.says ?? ''
  if (store.submit(outcome.value.value)) return
  store.say(`${said} Ctrl Z takes it back.`)
  emit('close')
}

function key(event: KeyboardEvent): void {
  const target = event.target as HTMLElement
  const isOwn = target instanceof HTMLSelectElement || target instanceof HTMLButtonElement
  if (event.key !== 'Enter' || event.defaultPrevented || (isOwn && !event.ctrlKey)) return
  event.preventDefault()
  // What is half typed is said first.
  if (target instanceof HTMLInputElement) target.blur()
  void nextTick(carryOut)
}
const indexOf = (offer: ChangeOffer): number => all.value.findIndex((each) => each.offer === offer)
</script>

<template>
  <ElDialog
    :model-value="true"
    class="relate mind"
    :show-close="false"
    width="min(1180px, 96vw)"
    top="6vh"
    :title="`Change of mind about ${table.name}`"
    destroy-on-close
    @opened="begin"
    @open-auto-focus="begin"
    @close="emit('close')">
    <div class="card" @keydown="key">
      <div
        ref="list"
        class="offers"
        role="listbox"
        aria-label="What could be true instead"
        @keydown.down.prevent="move(1)"
        @keydown.up.prevent="move(-1)">
        <div v-for="group in groups" :key="group.id" role="group" :aria-label="group.about">
          <p class="about" aria-hidden="true">{{ group.about }}</p>
          <div
            v-for="offer in group.offers"
            :key="`${group.id} ${indexOf(offer)}`"
            role="option"
            class="offer"
            :tabindex="offer === chosen ? 0 : -1"
            :aria-selected="offer === chosen"
            @click="at = indexOf(offer)">
            {{ offer.says }}
          </div>
        </div>
      </div>
      <div v-if="chosen" class="seen">
        <h1>{{ chosen.says }}</h1>
        <p class="quiet term">{{ chosen.term }}</p>
        <MindAsks :asks="chosen.asks" :answers="answers" @answer="answers = $event" />
        <p v-if="trouble" class="slip" role="alert">{{ trouble }}</p>
        <template v-else-if="after">
          <p v-for="each in broken" :key="each" class="effect-deleted" role="alert">{{ each }}</p>
          <p v-if="price" class="price" :class="price.kind.replace(' ', '-')">{{ sayPrice(price) }}</p>
          <div v-if="drawings" class="pair drawn">
            <div>
              <h3>now</h3>
              <SceneDrawing :design="drawings[0]" label="The tables as they are" />
            </div>
            <div>
              <h3>then</h3>
              <SceneDrawing :design="drawings[1]" label="The tables as they would be" />
            </div>
          </div>
          <div v-for="each in rows" :key="each.id" class="pair">
            <SampleTable :sample="each.before" none="not there yet" />
            <SampleTable :sample="each.after" none="no longer there" />
          </div>
          <h3>in words</h3>
          <ul>
            <li v-for="sentence in words" :key="sentence">{{ sentence }}</li>
          </ul>
        </template>
      </div>
      <div class="act">
        <button type="button" class="button main" :disabled="!after" @click="carryOut">
          Make it so <kbd>Enter</kbd>
        </button>
        <button type="button" class="link quiet" @click="emit('close')">Leave it <kbd>Esc</kbd></button>
        <span class="quiet away">One step: <kbd>Ctrl Z</kbd> takes it back, rows and all.</span>
      </div>
    </div>
  </ElDialog>
</template>

<style scoped>
.card {
  display: grid;
  grid-template-columns: 370px minmax(0, 1fr);
  grid-template-rows: minmax(0, 1fr) auto;
  height: 82vh;
}
.offers {
  border-right: 1px solid var(--line);
  background: var(--tint);
  padding: 12px 0 16px;
  overflow: auto;
}
.about {
  font-size: 12px;
  color: var(--quiet);
  padding: 10px 18px 3px;
}
.offer {
  padding: 4px 14px 4px 18px;
  cursor: pointer;
  line-height: 1.35;
}
.offer:hover {
  background: var(--sheet);
}
.offer[aria-selected='true'] {
  background: var(--sheet);
  box-shadow: inset 3px 0 0 var(--chosen);
  font-weight: 600;
}
.offer:focus-visible {
  outline: 2px solid var(--chosen);
  outline-offset: -2px;
}
.seen {
  padding: 18px 24px 14px;
  overflow: auto;
  min-width: 0;
}
h1 {
  font-size: 18px;
  font-weight: 600;
  line-height: 1.3;
}
.term {
  margin-bottom: 10px;
}
h3 {
  font-size: 12px;
  color: var(--quiet);
  font-weight: 400;
  margin: 10px 0 3px;
}
.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 26px;
  padding-top: 12px;
}
.pair > * {
  min-width: 0;
}
.drawn {
  border-top: 1px solid var(--hair);
  padding-top: 2px;
}
.price {
  padding: 7px 0;
  border-top: 1px solid var(--hair);
}
.price.knowledge-lost {
  color: var(--emptied);
}
.slip {
  color: var(--deleted);
  padding-top: 10px;
}
ul {
  margin: 0;
  padding-left: 18px;
}
.act {
  grid-column: 1 / 3;
  border-top: 1px solid var(--line);
  padding: 11px 22px;
  display: flex;
  gap: 16px;
  align-items: center;
}
.away {
  margin-left: auto;
}
.link.quiet {
  color: var(--quiet);
}
</style>
