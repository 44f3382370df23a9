<script setup lang="ts">
import { computed, ref } from 'vue'
import { tableOf } from '../../core/design/directory.ts'
import { ENDS, LINE_WORDS, ROWS } from '../../core/design/model.ts'
import { counted } from '../../core/naming/words.ts'
import PickOne from '../parts/PickOne.vue'
import { useDesign } from '../stores/design.ts'
import type { LitBy } from './useLit.ts'
import type { useShown } from './useShown.ts'

/** What is asked of the diagram: what it shows, what lights up in it, and how it is drawn. */
const props = defineProps<{
  asked: ReturnType<typeof useShown>
  wanted: string
  by: LitBy
  /** What is lit up, and by what where it is not by names. */
  lit: ReadonlySet<string>
  says: string
  /** How many of the tables that it names are gone. */
  gone: number
}>()
const emit = defineEmits<{
  'update:wanted': [text: string]
  'update:by': [by: LitBy]
  visit: []
  subjects: []
  keep: []
}>()
const store = useDesign()
const shown = computed(() => props.asked.shown.value)
const view = computed(() => props.asked.view.value)

const ROW_WORDS = { all: 'all columns', keys: 'keys', none: 'names' }
const END_WORDS = { feet: 'crow’s feet', numbers: 'min..max' }
const WORD_WORDS = { none: 'no words', verbs: 'verbs', roles: 'roles' }

/** What is drawn, as the list of what can be names it. */
const part = computed(() => {
  const { shows } = shown.value
  if (shows.kind === 'near') return 'near'
  if (shows.kind === 'tables' && !view.value) return 'tables'
  if (view.value) return `view ${view.value.id}`
  return shows.kind === 'subject' ? `subject ${shows.subject}` : ''
})
function choose(wanted: string): void {
  const [kind, id] = wanted.split(' ')
  if (kind === 'near' || kind === 'tables') return
  props.asked.show(kind === 'view' ? { view: id } : kind === 'subject' ? { subject: id } : {})
}
const near = computed(() => {
  const { shows } = shown.value
  return shows.kind === 'near' && store.design
    ? {
        table: shows.table,
        steps: shows.steps,
        name: tableOf(store.design, shows.table)?.name ?? 'a table that is gone'
      }
    : undefined
})
/** What is lit up is drawn by itself, with what is beside it. */
function alone(): void {
  const tables = [...props.lit].join(',')
  emit('update:wanted', '')
  emit('update:by', { kind: 'names' })
  props.asked.show({ tables })
}
const isHow = ref(false)
</script>

<template>
  <div class="asks">
    <div class="line">
      <select
        class="choice what"
        :value="part"
        aria-label="What is drawn"
        @change="choose(($event.target as HTMLSelectElement).value)">
        <option value="">all {{ counted(store.design?.tables.length ?? 0, 'table') }}</option>
        <option v-if="near" value="near">near {{ near.name }}</option>
        <option v-if="part === 'tables'" value="tables">some tables</option>
        <optgroup v-if="store.design?.subjects" label="subjects">
          <option v-for="each in store.design.subjects" :key="each.id" :value="`subject ${each.id}`">
            {{ each.name }}
          </option>
        </optgroup>
        <optgroup v-if="store.design?.views" label="views">
          <option v-for="each in store.design.views" :key="each.id" :value="`view ${each.id}`">
            {{ each.name }}
          </option>
        </optgroup>
      </select>
      <span v-if="near" class="group">
        <button
          v-for="steps in [1, 2]"
          :key="steps"
          type="button"
          class="link"
          :aria-pressed="near.steps === steps"
          @click="asked.ask({ near: near.table, steps: String(steps) })">
          {{ steps === 1 ? '1 step' : '2 steps' }}
        </button>
        <button type="button" class="link" @click="asked.show({})">
          all {{ counted(store.design?.tables.length ?? 0, 'table') }}
        </button>
      </span>
      <input
        :value="wanted"
        class="lined"
        placeholder="light up…"
        aria-label="Light up the tables whose names have"
        spellcheck="false"
        @input="emit('update:wanted', ($event.target as HTMLInputElement).value)"
        @keydown.enter.prevent="emit('visit')"
        @keydown.esc="emit('update:wanted', '')" />
      <span v-if="wanted.trim() !== '' || says !== ''" class="quiet" role="status">
        {{ says }} {{ lit.size === 0 ? 'none' : lit.size }}
        <kbd v-if="lit.size > 0 && says === ''">Enter</kbd>
        <button v-if="lit.size > 0" type="button" class="link" @click="alone">alone</button>
        <button v-if="says !== ''" type="button" class="link" @click="emit('update:by', { kind: 'names' })">
          no more
        </button>
      </span>
      <button v-else type="button" class="link" @click="emit('update:by', { kind: 'findings' })">
        findings
      </button>
      <button type="button" class="link" :aria-expanded="isHow" @click="isHow = !isHow">drawn how</button>
      <button v-if="!store.looking" type="button" class="link" @click="emit('subjects')">subjects</button>
      <button
        v-if="!store.looking && (view || asked.isOtherwise.value)"
        type="button"
        class="link"
        @click="emit('keep')">
        {{ view ? 'this view' : 'keep as a view' }}
      </button>
    </div>
    <div v-if="isHow" class="line how">
      <PickOne
        label="What is drawn of each table"
        :value="shown.look.rows"
        :options="ROWS"
        :words="ROW_WORDS"
        @pick="(each) => asked.ask({ rows: each })" />
      <label
        ><input
          type="checkbox"
          :checked="shown.look.types"
          @change="asked.ask({ types: shown.look.types ? 'no' : 'yes' })" />
        types</label
      >
      <PickOne
        label="The ends of lines"
        :value="shown.look.ends"
        :options="ENDS"
        :words="END_WORDS"
        @pick="(each) => asked.ask({ ends: each })" />
      <PickOne
        label="Words on lines"
        :value="shown.look.words"
        :options="LINE_WORDS"
        :words="WORD_WORDS"
        @pick="(each) => asked.ask({ words: each })" />
      <label v-if="store.design?.subjects"
        ><input
          type="checkbox"
          :checked="shown.look.regions"
          @change="asked.ask({ regions: shown.look.regions ? 'no' : 'yes' })" />
        regions</label
      >
      <label v-if="store.versions.length > 0 && !store.looking">
        what is otherwise since
        <select
          class="choice"
          :value="asked.since.value ?? ''"
          @change="asked.ask({ since: ($event.target as HTMLSelectElement).value || undefined })">
          <option value="">nothing</option>
          <option v-for="{ number } in store.versions" :key="number" :value="number">
            version {{ number }}
          </option>
        </select>
      </label>
    </div>
    <p v-if="view?.note" class="quiet">{{ view.note }}</p>
    <p v-if="gone > 0" class="gone" role="status">
      {{ gone === 1 ? 'One of its tables is' : `${gone} of its tables are` }} not in the design any longer.
    </p>
  </div>
</template>

<style scoped>
.asks {
  position: absolute;
  top: 10px;
  left: 20px;
  max-width: calc(100% - 440px);
  display: flex;
  flex-direction: column;
  gap: 4px;
  align-items: flex-start;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 14px;
  background: var(--film);
  padding: 2px 8px;
}
.what {
  max-width: 190px;
}
.lined {
  width: 100px;
}
.group {
  display: flex;
  gap: 10px;
}
.group [aria-pressed='true'] {
  color: var(--ink);
  border-bottom-style: solid;
}
p {
  background: var(--film);
  padding: 0 8px;
}
.gone {
  color: var(--deleted);
}
</style>
