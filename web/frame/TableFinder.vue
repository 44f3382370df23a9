<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { findTables } from '../../core/design/find.ts'
import { fold, fullName, directory } from '../../core/design/directory.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { tableCalled } from '../../core/relate/propose.ts'
import KeyMark from '../parts/KeyMark.vue'
import { NEW_LINE } from '../sheet/useLines.ts'
import { useDesign } from '../stores/design.ts'

const store = useDesign()
const router = useRouter()
const route = useRoute()
const field = ref<HTMLInputElement>()
const typed = ref('')
const open = ref(false)
const at = ref(0)

const found = computed(() => (open.value && store.design ? findTables(store.design, sought.value, 14) : []))
/** The key that leads here may have been pressed here already. */
const sought = computed(() => typed.value.replace(/^\//, ''))
const wanted = computed(() => sought.value.trim())
const newSchema = computed(() =>
  makes.value && store.design ? tableCalled(store.design, wanted.value).newSchema : undefined
)
const makes = computed(
  () =>
    wanted.value !== '' &&
    store.design !== undefined &&
    !directory(store.design).byName.has(fold(wanted.value))
)
const count = computed(() => found.value.length + (makes.value ? 1 : 0))

/** The screens of one table: there one stays; everywhere else a table is found on the bench. */
const OF_A_TABLE = ['bench', 'ledger', 'rows', 'reach']
const WRITTEN_ON = ['bench', 'ledger']

function go(table: string, column?: string, screens = OF_A_TABLE): void {
  leave()
  void router.push({
    name: screens.find((name) => name === route.name) ?? 'bench',
    params: { table },
    ...(column !== undefined && { query: { column } })
  })
}

function make(): void {
  if (!store.design) return
  const { table, operation } = tableCalled(store.design, wanted.value)
  if (!store.submit(operation)) go(table.id, NEW_LINE, WRITTEN_ON)
}

function take(index: number): void {
  const entry = found.value[index]
  if (entry) go(entry.table.id, entry.column?.id)
  else if (makes.value) make()
}

function searchAnew(): void {
  at.value = 0
  open.value = true
}

function leave(): void {
  open.value = false
  typed.value = ''
  at.value = 0
  if (cameFrom?.isConnected) cameFrom.focus()
  else field.value?.blur()
}

/** Where the keyboard was before, to go back to. */
let cameFrom: HTMLElement | undefined
function arrive(event: FocusEvent): void {
  open.value = true
  cameFrom = event.relatedTarget instanceof HTMLElement ? event.relatedTarget : undefined
}

function focus(): void {
  field.value?.focus()
}

defineExpose({ focus })
</script>

<template>
  <div class="finder">
    <input
      ref="field"
      v-model="typed"
      class="field"
      role="combobox"
      aria-label="Find or make a table"
      :aria-expanded="open && count > 0"
      aria-controls="finder-list"
      :aria-activedescendant="open && count > 0 ? `finder-${at}` : undefined"
      autocomplete="off"
      spellcheck="false"
      placeholder="Find or make a table…"
      @focus="arrive"
      @blur="open = false"
      @input="searchAnew"
      @keydown.down.prevent="at = Math.min(at + 1, count - 1)"
      @keydown.up.prevent="at = Math.max(at - 1, 0)"
      @keydown.enter.exact.prevent="take(at)"
      @keydown.shift.enter.prevent="makes && make()"
      @keydown.esc.prevent="leave" />
    <kbd v-if="!open" aria-hidden="true">/</kbd>
    <div v-if="open && count > 0" id="finder-list" class="list" role="listbox" aria-label="Tables">
      <div
        v-for="({ table, column }, index) in found"
        :id="`finder-${index}`"
        :key="`${table.id} ${column?.id ?? ''}`"
        role="option"
        class="entry"
        :class="{ at: index === at }"
        :aria-selected="index === at"
        @pointerdown.prevent="take(index)">
        <span class="marks"
          ><KeyMark
            v-for="mark in store.design ? tableMarks(store.design, table) : []"
            :key="mark.key"
            :mark="mark"
        /></span>
        <span class="word">{{ store.design ? fullName(store.design, table) : table.name }}</span>
        <span class="quiet small">{{
          column
            ? `has ${column.name}`
            : table.columns.length === 1
              ? '1 column'
              : `${table.columns.length} columns`
        }}</span>
      </div>
      <div
        v-if="makes"
        :id="`finder-${found.length}`"
        role="option"
        class="entry"
        :class="{ at: at === found.length }"
        :aria-selected="at === found.length"
        @pointerdown.prevent="make">
        <span class="marks quiet">new</span
        ><span class="word"
          >make {{ wanted
          }}<template v-if="newSchema !== undefined"> and the schema {{ newSchema }}</template></span
        ><kbd>{{ at === found.length ? 'Enter' : 'Shift Enter' }}</kbd>
      </div>
    </div>
  </div>
</template>

<style scoped>
.finder {
  position: relative;
  /* It gives way before what stands beside it does. */
  flex: 0 100000 300px;
  min-width: 96px;
}
.finder .field {
  width: 100%;
}
.finder > kbd {
  position: absolute;
  right: 8px;
  top: 6px;
}
.list {
  position: absolute;
  z-index: 30;
  top: calc(100% + 4px);
  left: 0;
  right: 0;
  min-width: 380px;
  max-height: 420px;
  overflow: auto;
  background: var(--sheet);
  border: 1px solid var(--line);
  box-shadow: var(--shadow);
  padding: 4px 0;
}
.entry {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 10px;
  cursor: pointer;
}
.entry.at {
  background: var(--chosen-tint);
  box-shadow: inset 2px 0 0 var(--chosen);
}
.marks {
  display: flex;
  gap: 3px;
  min-width: 24px;
}
.word {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
