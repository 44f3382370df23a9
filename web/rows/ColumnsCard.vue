<script setup lang="ts">
import { computed, ref } from 'vue'
import { fold } from '../../core/design/directory.ts'
import type { Table } from '../../core/design/model.ts'
import { beyondOf, mayGroup, ownShown, type RowsView, type ShownColumn } from '../../core/rows/shown.ts'
import { referenceAt } from '../../core/rows/cells.ts'
import WorkCard from '../parts/WorkCard.vue'
import { useDesign } from '../stores/design.ts'

/** Which columns the rows of a table show: its own, its figures, and those of what a row refers to; and by which of
 * them they are put together. */
const props = defineProps<{ table: Table; view: RowsView }>()
const emit = defineEmits<{ close: []; change: [next: Partial<RowsView>]; figure: [id: string | undefined] }>()
const store = useDesign()

const own = computed(() => (store.design ? ownShown(store.design, props.table) : []))
/** By what the rows can be put together: what a row refers to comes first. */
const groupings = computed(() => {
  const all = store.design ? mayGroup(store.design, props.table, props.view) : []
  const isReference = (each: ShownColumn): boolean =>
    each.kind === 'own' && referenceAt(props.table, each.column) !== undefined
  return [...all.filter(isReference), ...all.filter((each) => !isReference(each))]
})
function group(event: Event): void {
  emit('change', { group: (event.target as HTMLSelectElement).value || undefined })
}
const wanted = ref('')
/** How many are listed. */
const LISTED = 60
const beyond = computed(() => {
  const all = store.design ? beyondOf(store.design, props.table) : []
  const found = all.filter(({ says }) => fold(says).includes(fold(wanted.value.trim())))
  return found.slice(0, LISTED)
})
const isShown = (path: readonly string[]): boolean =>
  props.view.beyond.some((each) => each.join() === path.join())

function toggle(id: string): void {
  const { hidden } = props.view
  const next = hidden.includes(id) ? hidden.filter((each) => each !== id) : [...hidden, id]
  if (next.length < own.value.length || props.view.beyond.length > 0) emit('change', { hidden: next })
}
function toggleBeyond(path: readonly string[]): void {
  const others = props.view.beyond.filter((each) => each.join() !== path.join())
  emit('change', { beyond: isShown(path) ? others : [...others, path] })
}
</script>

<template>
  <WorkCard :title="`Columns of ${table.name}’s rows`" :width="720" @close="emit('close')">
    <div class="lists">
      <fieldset>
        <legend>its own</legend>
        <label v-for="each in own" :key="each.id"
          ><input type="checkbox" :checked="!view.hidden.includes(each.id)" @change="toggle(each.id)" />
          <span class="mono">{{ each.name }}</span>
          <button
            v-if="each.kind === 'figure'"
            type="button"
            class="link"
            :aria-label="`Change the figure ${each.name}`"
            @click.prevent="emit('figure', each.id)">
            a figure
          </button></label
        >
      </fieldset>
      <fieldset v-if="beyond.length > 0 || wanted !== ''">
        <legend>of what a row refers to</legend>
        <input
          v-model="wanted"
          class="lined"
          placeholder="only those with…"
          aria-label="Only columns that have"
          spellcheck="false" />
        <div class="scroll" tabindex="0" role="group" aria-label="Columns of what a row refers to">
          <label v-for="each in beyond" :key="each.path.join()"
            ><input type="checkbox" :checked="isShown(each.path)" @change="toggleBeyond(each.path)" />
            <span class="mono">{{ each.says }}</span></label
          >
        </div>
      </fieldset>
    </div>
    <label class="together"
      >put together by
      <select class="choice" :value="view.group ?? ''" @change="group">
        <option value="">nothing</option>
        <option v-for="each in groupings" :key="each.id" :value="each.id">{{ each.name }}</option>
      </select>
      <span v-if="view.group" class="quiet"
        ><kbd>Alt</kbd> <kbd>↓</kbd> goes to the next group, <kbd>Alt</kbd> <kbd>G</kbd> parts them</span
      >
    </label>
    <template #acts>
      <button type="button" class="button main" @click="emit('close')">Done <kbd>Esc</kbd></button>
      <button type="button" class="button" @click="emit('figure', undefined)">New figure</button>
    </template>
  </WorkCard>
</template>

<style scoped>
.lists {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 3fr);
  gap: 26px;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  min-width: 0;
  display: flex;
  flex-direction: column;
  gap: 3px;
}
legend {
  padding: 0 0 4px;
  color: var(--quiet);
}
label {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
label .mono {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
label .link {
  margin-left: auto;
}
.together {
  align-items: center;
  margin-top: 14px;
}
.scroll {
  max-height: 46vh;
  overflow: auto;
}
</style>
