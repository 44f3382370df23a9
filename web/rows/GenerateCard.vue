<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { columnOf, tableOf } from '../../core/design/directory.ts'
import type { ForeignKey, Table } from '../../core/design/model.ts'
import { addRows } from '../../core/edit/row.ts'
import { counted } from '../../core/naming/words.ts'
import { cellText } from '../../core/rows/cells.ts'
import WorkCard from '../parts/WorkCard.vue'
import { useDesign } from '../stores/design.ts'
import { useGenerated } from './useGenerated.ts'

/** Believable rows for a table, in any number, the same from the same seed. */
const props = defineProps<{ table: Table }>()
const emit = defineEmits<{ close: [] }>()
const store = useDesign()
const { progress, made, failure, make, cancel } = useGenerated()

const MOST = 100_000
/** So many rows are put in at a time. */
const AT_A_TIME = 10_000
/** How many are shown before. */
const SHOWN = 6

const count = ref(100)
const seed = ref(1)
/** How many in a hundred are empty, by column or reference. */
const empty = reactive(new Map<string, number>())
const uneven = reactive(new Map<string, number>())

const referring = computed(
  () => new Set(props.table.foreignKeys.flatMap(({ pairs }) => pairs.map(({ column }) => column)))
)
const mayBeEmpty = computed(() =>
  props.table.columns.filter(
    ({ id, required, computed: worked }) => !required && worked === undefined && !referring.value.has(id)
  )
)
const isOptional = (key: ForeignKey): boolean =>
  key.pairs.some(({ column }) => columnOf(props.table, column)?.required === false)
const called = (key: ForeignKey): string =>
  key.pairs.map(({ column }) => columnOf(props.table, column)?.name ?? '').join(', ')
const parentOf = (key: ForeignKey): Table | undefined => store.design && tableOf(store.design, key.table)

const wanted = computed(() => Math.max(1, Math.min(MOST, Math.round(Number(count.value) || 0))))
function begin(): void {
  if (!store.design) return
  make(store.design, props.table, {
    seed: Math.round(Number(seed.value) || 1),
    rows: new Map([[props.table.id, wanted.value]]),
    empty: new Map(empty),
    uneven: new Map(uneven)
  })
}
const columns = computed(() => props.table.columns.slice(0, 6))
const sample = computed(() =>
  (made.value?.rows ?? [])
    .slice(0, SHOWN)
    .map((row) =>
      columns.value.map((column) => (store.design ? cellText(store.design, props.table, column, row) : ''))
    )
)

function put(): void {
  const rows = made.value?.rows ?? []
  for (let at = 0; at < rows.length; at += AT_A_TIME) {
    const table = store.design && tableOf(store.design, props.table.id)
    if (!table) return
    const some = rows.slice(at, at + AT_A_TIME)
    if (store.submit(addRows(table, some), `make ${counted(some.length, 'row')} of ${table.name}`)) return
  }
  emit('close')
}
</script>

<template>
  <WorkCard :title="`Believable rows for ${table.name}`" @close="emit('close')">
    <p class="line">
      <label
        >how many
        <input v-model="count" class="lined number" type="number" min="1" :max="MOST" aria-label="How many"
      /></label>
      <label>seed <input v-model="seed" class="lined number" type="number" min="1" aria-label="Seed" /></label
      ><span class="quiet">the same seed makes the same rows</span>
    </p>
    <div v-if="table.foreignKeys.length > 0 || mayBeEmpty.length > 0" class="shares">
      <p v-for="key in table.foreignKeys" :key="key.id" class="line">
        <span class="mono name">{{ called(key) }}</span>
        <label
          >{{ parentOf(key)?.name }} is chosen
          <select
            class="choice"
            :value="uneven.get(key.id) ?? 1"
            :aria-label="`How ${parentOf(key)?.name ?? ''} is chosen`"
            @change="uneven.set(key.id, Number(($event.target as HTMLSelectElement).value))">
            <option :value="1">evenly</option>
            <option :value="2">so that some have more</option>
            <option :value="4">so that a few have most</option>
          </select></label
        >
        <label v-if="isOptional(key)"
          >empty in
          <input
            class="lined number"
            type="number"
            min="0"
            max="100"
            :value="empty.get(key.id) ?? 10"
            :aria-label="`How many in a hundred have no ${called(key)}`"
            @change="empty.set(key.id, Number(($event.target as HTMLInputElement).value))" />
          of 100</label
        >
      </p>
      <p v-for="column in mayBeEmpty" :key="column.id" class="line">
        <span class="mono name">{{ column.name }}</span>
        <label
          >empty in
          <input
            class="lined number"
            type="number"
            min="0"
            max="100"
            :value="empty.get(column.id) ?? 10"
            :aria-label="`How many in a hundred have no ${column.name}`"
            @change="empty.set(column.id, Number(($event.target as HTMLInputElement).value))" />
          of 100</label
        >
      </p>
    </div>
    <p v-if="failure" class="effect-deleted" role="alert">{{ failure }}</p>
    <p v-if="progress" role="status">
      <progress :value="progress.made" :max="progress.of"></progress>
      {{ progress.made.toLocaleString('en-GB') }} of {{ progress.of.toLocaleString('en-GB') }}
    </p>
    <template v-if="made">
      <p role="status">
        <b>{{ counted(made.rows.length, 'row') }}</b> made<template v-if="made.why !== ''"
          >, and no more: {{ made.why }}</template
        >.
      </p>
      <div class="scroll" tabindex="0" role="region" aria-label="The first of them">
        <table>
          <thead>
            <tr>
              <th v-for="column in columns" :key="column.id" scope="col" class="mono">{{ column.name }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(row, at) in sample" :key="at">
              <td v-for="(text, index) in row" :key="index">{{ text }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
    <template #acts>
      <button v-if="progress" type="button" class="button" @click="cancel">Stop</button>
      <button v-else type="button" class="button" :class="{ main: !made }" @click="begin">
        {{ made ? 'Make others' : `Make ${counted(wanted, 'row')}` }}
      </button>
      <button v-if="made && made.rows.length > 0" type="button" class="button main" @click="put">
        Put {{ counted(made.rows.length, 'row') }} in
      </button>
      <button type="button" class="button" @click="emit('close')">Leave it <kbd>Esc</kbd></button>
    </template>
  </WorkCard>
</template>

<style scoped>
.line {
  display: flex;
  gap: 18px;
  align-items: baseline;
}
.name {
  flex: 0 0 150px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.number {
  width: 76px;
}
.shares {
  max-height: 34vh;
  overflow: auto;
  border-top: 1px solid var(--hair);
  border-bottom: 1px solid var(--hair);
  padding: 4px 0;
}
.scroll {
  overflow: auto;
}
table {
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  font-weight: 400;
  padding: 2px 14px 2px 0;
  border-bottom: 1px solid var(--hair);
  white-space: nowrap;
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
