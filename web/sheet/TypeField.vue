<script setup lang="ts">
import { computed, ref } from 'vue'
import { parseType } from '../../core/design/type.ts'
import { fullName } from '../../core/design/directory.ts'
import { LOOSE } from '../../core/dialect/facts.ts'
import { dialectsOf } from '../../core/dialect/index.ts'
import { findTables } from '../../core/design/find.ts'
import { useDesign } from '../stores/design.ts'

/** A field for a type that completes what is typed: a type's word, or `>` and a table. */
const model = defineModel<string>({ required: true })
defineProps<{
  label: string
  placeholder?: string
  /** What was last taken over, so that undo knows whether something is being typed. */
  taken?: string
}>()
const emit = defineEmits<{ commit: [] }>()
const store = useDesign()
const field = ref<HTMLInputElement>()
const open = ref(false)
const at = ref(-1)

const WORDS = [
  'integer',
  'text',
  'text(120)',
  'boolean',
  'date',
  'timestamp',
  'timestamp zone',
  'decimal(10,2)',
  'bigint',
  'smallint',
  'char(6)',
  'time',
  'interval',
  'float',
  'uuid',
  'json',
  'binary',
  'binary(16)'
]

/** What the dialects that the design is written for lose of a type. */
function losses(word: string): string {
  const type = parseType(word)
  if (!type.ok || !store.design || store.design.dialects.length === 0) return ''
  return dialectsOf(store.design)
    .filter((dialect) => dialect.type(type.value, LOOSE).loss)
    .map((dialect) => dialect.title)
    .join(', ')
}
const hint = (word: string): string => {
  const lost = losses(word)
  return lost && `with a loss in ${lost}`
}

const proposals = computed(() => {
  const typed = model.value.trim().toLowerCase()
  if (typed.startsWith('>'))
    return store.design
      ? findTables(store.design, typed.slice(1), 8)
          .filter((each) => !each.column)
          .map(({ table }) => ({
            text: `> ${store.design ? fullName(store.design, table) : table.name}`,
            hint: table.primaryKey ? '' : 'has no key yet'
          }))
      : []
  const lists = (store.design?.enums ?? [])
    .map((each) => ({ text: `enum ${each.name}`, hint: each.values.join(', ').slice(0, 40) }))
    .filter(({ text }) => text.startsWith(typed) || text.slice(5).toLowerCase().startsWith(typed))
  const others = ['one of ', 'native ']
    .filter((word) => word.startsWith(typed) && typed !== '')
    .map((text) => ({
      text,
      hint: text === 'one of ' ? 'values, with commas between' : 'as the engine spells it'
    }))
  return [
    ...WORDS.filter((word) => word.startsWith(typed)).map((text) => ({ text, hint: hint(text) })),
    ...lists,
    ...others
  ]
})
const shown = computed(
  () =>
    open.value &&
    proposals.value.length > 0 &&
    !(proposals.value.length === 1 && proposals.value[0]?.text === model.value.trim())
)

function typed(): void {
  open.value = true
  const text = model.value.trim()
  // What is complete already is taken as it stands; only what is not would otherwise be refused.
  const complete =
    text === '' ||
    (text.startsWith('>')
      ? proposals.value.some((each) => each.text === text)
      : /^(?:one of|native)\b/i.test(text) || parseType(text, store.design?.enums).ok)
  at.value = complete ? -1 : 0
}

/** Takes the proposal that is marked. True where there was one. */
function complete(): boolean {
  const proposal = shown.value ? proposals.value[at.value] : undefined
  open.value = false
  if (!proposal) return false
  model.value = proposal.text
  return true
}

function choose(index: number): void {
  at.value = index
  complete()
  emit('commit')
}

function key(event: KeyboardEvent): void {
  if (!shown.value) return
  if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
    at.value =
      (at.value + (event.key === 'ArrowDown' ? 1 : -1) + proposals.value.length) % proposals.value.length
    event.preventDefault()
    event.stopPropagation()
  } else if (event.key === 'Escape') {
    open.value = false
    event.stopPropagation()
  }
}

defineExpose({ complete, focus: () => field.value?.focus() })
</script>

<template>
  <div class="type">
    <input
      ref="field"
      v-model="model"
      class="cell"
      role="combobox"
      aria-autocomplete="list"
      :aria-expanded="shown"
      :aria-label="label"
      :placeholder="placeholder"
      data-cell="type"
      tabindex="-1"
      :data-taken="taken ?? ''"
      autocomplete="off"
      spellcheck="false"
      @input="typed"
      @focus="open = false"
      @blur="open = false"
      @keydown.capture="key" />
    <div v-if="shown" class="list" role="listbox" aria-label="Types">
      <div
        v-for="(proposal, index) in proposals"
        :key="proposal.text"
        role="option"
        class="entry"
        :class="{ at: index === at }"
        :aria-selected="index === at"
        @pointerdown.prevent="choose(index)">
        <span class="mono">{{ proposal.text }}</span> <span class="quiet small">{{ proposal.hint }}</span>
      </div>
    </div>
  </div>
</template>

<style scoped>
.type {
  position: relative;
  min-width: 0;
}
.cell {
  width: 100%;
  border: 0;
  background: none;
  padding: 3px 0;
  font: 12.5px var(--mono);
  letter-spacing: -0.02em;
  color: inherit;
  outline: none;
  text-overflow: ellipsis;
}
.cell::placeholder {
  color: var(--quiet);
  opacity: 0.85;
}
.list {
  position: absolute;
  z-index: 20;
  left: -8px;
  top: calc(100% + 2px);
  min-width: 180px;
  max-height: 230px;
  overflow: auto;
  background: var(--sheet);
  border: 1px solid var(--line);
  box-shadow: var(--shadow);
  padding: 3px 0;
}
.entry {
  padding: 2px 9px;
  cursor: pointer;
  color: var(--ink);
  white-space: nowrap;
}
.entry.at,
.entry:hover {
  background: var(--chosen-tint);
  box-shadow: inset 2px 0 0 var(--chosen);
}
</style>
