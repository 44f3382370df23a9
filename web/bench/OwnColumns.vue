<script setup lang="ts">
import { nextTick, ref } from 'vue'
import { newId } from '../../core/design/model.ts'
import { factLines, USUAL_FACTS, type OwnLine } from '../../core/restructure/pair-facts.ts'
import TypeField from '../sheet/TypeField.vue'
import { useDesign } from '../stores/design.ts'

/** The lines of a junction's own columns, the facts about the pair: typed, or taken from those that are usual. */
const props = defineProps<{
  lines: readonly OwnLine[]
  /** Whether one may stand in the key. */
  mayBeKey: boolean
  /** What pairs are made of that are carried here, where there are such. */
  from?: string | undefined
}>()
const emit = defineEmits<{ change: [lines: OwnLine[]]; build: [] }>()
const store = useDesign()
const list = ref<HTMLElement>()

function change(line: OwnLine, to: Partial<OwnLine>): void {
  emit(
    'change',
    props.lines.map((each) => (each === line ? { ...line, ...to } : each))
  )
}

/** The keyboard goes to a cell of the line that is the last by then. */
const toLast = (cell: string): void =>
  void nextTick(() =>
    list.value?.querySelector<HTMLInputElement>(`.own:last-of-type [data-cell=${cell}]`)?.focus()
  )

function add(): void {
  emit('change', [...props.lines, { id: newId('c'), name: '', type: '', inKey: false, required: false }])
  toLast('name')
}

function addUsual(usual: (typeof USUAL_FACTS)[number]): void {
  if (!store.design) return
  emit('change', [...props.lines, ...factLines(store.design, usual, () => newId('c'))])
  toLast('type')
}

/** Enter goes on to the type, then to a new line; on an empty line it builds. */
function entered(line: OwnLine, cell: 'name' | 'type', event: KeyboardEvent): void {
  if (line.name.trim() === '' && line.type.trim() === '') {
    emit(
      'change',
      props.lines.filter((each) => each !== line)
    )
    emit('build')
  } else if (cell === 'name')
    (event.target as HTMLElement)
      .closest('.own')
      ?.querySelector<HTMLInputElement>('[data-cell=type]')
      ?.focus()
  else add()
}
const textOf = (event: Event): string => (event.target as HTMLInputElement).value
const isOn = (event: Event): boolean => (event.target as HTMLInputElement).checked
</script>

<template>
  <div ref="list">
    <div v-for="line in lines" :key="line.id" class="own mono" :class="{ carried: from !== undefined }">
      <input
        :value="line.name"
        class="lined"
        data-cell="name"
        placeholder="name"
        aria-label="Name of an own column"
        spellcheck="false"
        @input="change(line, { name: textOf($event) })"
        @keydown.enter.prevent.stop="entered(line, 'name', $event)" />
      <TypeField
        :model-value="line.type"
        label="Type of an own column"
        placeholder="type, or > table"
        @update:model-value="change(line, { type: $event })"
        @keydown.enter.prevent.stop="entered(line, 'type', $event)" />
      <span class="flags"
        ><label
          ><input
            type="checkbox"
            :checked="line.inKey"
            :disabled="!mayBeKey"
            @change="change(line, { inKey: isOn($event) })"
            @keydown.enter.prevent.stop="emit('build')" />key</label
        ><label
          ><input
            type="checkbox"
            :checked="line.required || line.inKey"
            :disabled="line.inKey"
            @change="change(line, { required: isOn($event) })"
            @keydown.enter.prevent.stop="emit('build')" />required</label
        ></span
      >
      <label v-if="from !== undefined" class="takes"
        ><span class="quiet">the pairs that are carried here take</span
        ><input
          :value="line.takes ?? ''"
          class="lined"
          :placeholder="`a column of ${from}, or a value`"
          :aria-label="`What ${line.name || 'it'} takes in the pairs that are carried here`"
          spellcheck="false"
          @input="change(line, { takes: textOf($event) })"
          @keydown.enter.prevent.stop="emit('build')"
      /></label>
    </div>
    <p class="usual">
      <button type="button" class="link quiet" @click="add">new column about the pair…</button>
      <button
        v-for="usual in USUAL_FACTS"
        :key="usual.words"
        type="button"
        class="link"
        :aria-label="`Add the usual fact: ${usual.words}`"
        @click="addUsual(usual)">
        {{ usual.words }}
      </button>
    </p>
  </div>
</template>

<style scoped>
.own {
  display: grid;
  grid-template-columns: 40px minmax(0, 1fr) minmax(0, 1fr) 118px;
  gap: 0 8px;
  padding: 2px 0;
  align-items: center;
}
.own > :first-child {
  grid-column: 2;
}
.takes {
  grid-column: 2 / 5;
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 8px;
  align-items: baseline;
  font-size: 12px;
}
.takes .quiet {
  font-family: var(--sans);
}
.flags {
  display: flex;
  gap: 10px;
  font: 12px var(--sans);
  color: var(--quiet);
}
.flags label {
  display: inline-flex;
  align-items: center;
  gap: 3px;
}
.usual {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  padding-top: 2px;
}
.link.quiet {
  color: var(--quiet);
}
</style>
