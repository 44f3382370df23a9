<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import type { Column, Table } from '../../core/design/model.ts'
import { candidates, referenceAt, wordBegun, wordsWith, type Candidate } from '../../core/rows/cells.ts'
import { missingRow, type MissingRow } from '../../core/rows/make-referred.ts'
import { moment } from '../parts/moment.ts'
import { useDesign } from '../stores/design.ts'

/** What is to stand in a cell: as it was typed, as one of the rows offered, or as a row that is to be made first. */
export type Taken = { text: string } | { offer: Candidate } | { missing: MissingRow }

/** The field in which a cell is written, with what it may hold beneath it: rows to refer to, or words of a list. */
const props = defineProps<{
  table: Table
  column: Column
  /** What stands in it at first; it is chosen whole unless it was typed just now. */
  text: string
  isTyped: boolean
  /** What the cell held. */
  begun: string
  isFlawed: boolean
  label: string
}>()
const emit = defineEmits<{
  take: [taken: Taken]
  stop: []
  /** Taken, and on to the next cell: below, or beside. */
  next: [to: 'below' | 'right' | 'left']
}>()
const store = useDesign()

/** How many words of a list are offered at once. */
const MOST_WORDS = 12

const text = ref(props.text)
const field = ref<HTMLInputElement>()
onMounted(() => {
  field.value?.focus({ preventScroll: true })
  if (!props.isTyped) field.value?.select()
})

const reference = computed(() => referenceAt(props.table, props.column))
const isAsBegun = computed(() => text.value === props.begun)
/** What may be meant by what is being written. */
const offers = computed((): { label: string; taken: Taken }[] => {
  if (!store.design) return []
  const typed = isAsBegun.value ? '' : text.value
  if (reference.value)
    return candidates(store.design, reference.value, typed).map((offer) => ({
      label: offer.label,
      taken: { offer }
    }))
  const words = wordsWith(props.column, typed, store.design.enums)
  return words.slice(0, MOST_WORDS).map((word) => ({ label: word, taken: { text: word } }))
})
/** The row that is missing for what is being written, where it may be made on the spot. */
const missing = computed(() => {
  if (!reference.value || !store.design || isAsBegun.value) return undefined
  return missingRow(store.design, reference.value, text.value, moment())
})
const offered = ref(-1)
/** A word of a list may be begun only. */
const meant = (typed: string): string =>
  (store.design && wordBegun(props.column, typed, store.design.enums)) ?? typed
let isDone = false

function take(): void {
  if (isDone) return
  isDone = true
  const offer = offers.value[offered.value]
  if (missing.value && offered.value === offers.value.length) emit('take', { missing: missing.value })
  else if (offer) emit('take', offer.taken)
  else if (isAsBegun.value) emit('stop')
  else emit('take', { text: meant(text.value) })
}
function takeOffer(index: number): void {
  offered.value = index
  take()
}
function stop(): void {
  isDone = true
  emit('stop')
}

function key(event: KeyboardEvent): void {
  event.stopPropagation()
  const last = offers.value.length - (missing.value ? 0 : 1)
  if (event.key === 'Escape') stop()
  else if (event.key === 'ArrowDown' && last >= 0) offered.value = Math.min(offered.value + 1, last)
  else if (event.key === 'ArrowUp' && offered.value >= 0) offered.value--
  else if (event.key === 'Enter') {
    take()
    emit('next', 'below')
  } else if (event.key === 'Tab') {
    take()
    emit('next', event.shiftKey ? 'left' : 'right')
  } else return
  event.preventDefault()
}

defineExpose({ take })
</script>

<template>
  <input
    ref="field"
    v-model="text"
    class="field"
    :class="{ flawed: isFlawed }"
    :aria-label="label"
    spellcheck="false"
    autocomplete="off"
    @keydown="key"
    @input="offered = -1"
    @blur="take" />
  <ul
    v-if="offers.length > 0 || missing"
    class="under"
    role="listbox"
    :aria-label="`What ${column.name} may be`">
    <li
      v-for="(offer, index) in offers"
      :key="index"
      role="option"
      :aria-selected="index === offered"
      :class="{ on: index === offered }"
      @mousedown.prevent="takeOffer(index)">
      {{ offer.label }}
    </li>
    <li
      v-if="missing"
      role="option"
      class="make"
      :aria-selected="offered === offers.length"
      :class="{ on: offered === offers.length }"
      @mousedown.prevent="takeOffer(offers.length)">
      {{ missing.says }}
    </li>
  </ul>
</template>

<style scoped>
.field {
  position: absolute;
  inset: 0;
  width: 100%;
  border: 0;
  padding: 2px 7px;
  outline: 2px solid var(--chosen);
  outline-offset: -2px;
  background: var(--sheet);
}
.field.flawed {
  outline-color: var(--deleted);
}
.under {
  position: absolute;
  top: 26px;
  left: 0;
  z-index: 3;
  min-width: 100%;
  max-width: 340px;
  margin: 0;
  padding: 3px 0;
  list-style: none;
  background: var(--sheet);
  border: 1px solid var(--line);
  box-shadow: var(--shadow);
  text-align: left;
  white-space: nowrap;
}
.under li {
  padding: 2px 10px;
  cursor: pointer;
  overflow: hidden;
  text-overflow: ellipsis;
}
.under .make {
  color: var(--act);
}
.under li.on,
.under li:hover {
  background: var(--chosen-tint);
  box-shadow: inset 2px 0 0 var(--chosen);
}
</style>
