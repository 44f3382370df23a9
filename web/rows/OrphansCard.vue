<script setup lang="ts">
import { computed, ref } from 'vue'
import { columnOf } from '../../core/design/directory.ts'
import type { Table } from '../../core/design/model.ts'
import type { Dialect } from '../../core/dialect/dialect.ts'
import { counted } from '../../core/naming/words.ts'
import { rowLabel } from '../../core/relate/label.ts'
import {
  mendingsFor,
  mendOrphans,
  orphansOf,
  orphansSql,
  type Mending,
  type Orphaned
} from '../../core/rows/orphans.ts'
import SqlFor from '../parts/SqlFor.vue'
import WorkCard from '../parts/WorkCard.vue'
import { useDesign } from '../stores/design.ts'

/** Rows of a table that point at nothing, by its references and by columns that only look like one, and what mends them. */
const props = defineProps<{ table: Table }>()
const emit = defineEmits<{ close: [] }>()
const store = useDesign()

/** How many rows are listed, and how many are offered to point at. */
const LISTED = 8
const OFFERED = 300

const all = computed(() => (store.design ? orphansOf(store.design, props.table) : []))
const at = ref(
  Math.max(
    0,
    all.value.findIndex(({ rows }) => rows.length > 0)
  )
)
const chosen = computed(() => all.value[at.value])
const mending = ref<Mending>('make')
const to = ref(0)
const mendings = computed(() => (chosen.value ? mendingsFor(chosen.value) : []))

const by = ({ pairs }: Orphaned): string =>
  pairs.map(({ column }) => columnOf(props.table, column)?.name ?? '').join(', ')
const sayMending = (each: Mending, { parent, rows }: Orphaned): string => {
  const those = rows.length === 1 ? 'it' : 'them'
  switch (each) {
    case 'make':
      return `make the ${parent.name} that is missing`
    case 'point':
      return `let ${those} point at another ${parent.name}`
    case 'empty':
      return `let ${those} point at nothing, and say so`
    case 'delete':
      return `delete ${those}`
  }
}
const sample = computed(() =>
  (chosen.value?.rows ?? []).slice(0, LISTED).map((place) => {
    const row = props.table.rows[place] ?? {}
    const says = (chosen.value?.pairs ?? []).map(({ column }) => String(row[column] ?? '')).join(', ')
    return { label: store.design ? rowLabel(store.design, props.table, row) : '', says }
  })
)
const label = (table: Table, place: number): string => {
  const row = table.rows[place]
  return store.design && row ? rowLabel(store.design, table, row) : ''
}
const look = (dialect: Dialect): string =>
  store.design && chosen.value ? `${orphansSql(store.design, dialect, chosen.value, 'look')};` : ''
const sql = (dialect: Dialect): string =>
  store.design && chosen.value
    ? `-- first look at them\n${look(dialect)}\n\n${orphansSql(store.design, dialect, chosen.value, mending.value, to.value)};`
    : ''

function mend(): void {
  if (!store.design || !chosen.value) return
  const operation = mendOrphans(store.design, chosen.value, mending.value, to.value)
  store.submit(operation, operation.label)
}
</script>

<template>
  <WorkCard :title="`What ${table.name} points at`" :width="820" @close="emit('close')">
    <p v-if="all.length === 0">{{ table.name }} refers to nothing that has rows here.</p>
    <template v-else>
      <div class="ways" role="group" aria-label="By which columns">
        <label v-for="(each, index) in all" :key="index" class="way" :class="{ on: index === at }"
          ><input v-model="at" type="radio" :value="index" /> <span class="mono">{{ by(each) }}</span> to
          {{ each.parent.name }}
          <span v-if="!each.foreignKey" class="effect-emptied">nothing holds it to that</span>
          <b :class="each.rows.length > 0 ? 'effect-deleted' : 'quiet'">{{
            each.rows.length > 0
              ? `${counted(each.rows.length, 'row')} at nothing`
              : 'every row points at something'
          }}</b></label
        >
      </div>
      <template v-if="chosen && chosen.rows.length > 0">
        <ul aria-label="Rows that point at nothing">
          <li v-for="(each, index) in sample" :key="index">
            <span>{{ each.label }}</span> <span class="mono effect-deleted">{{ each.says }}</span>
          </li>
          <li v-if="chosen.rows.length > sample.length" class="quiet">
            and {{ (chosen.rows.length - sample.length).toLocaleString('en-GB') }} more
          </li>
        </ul>
        <p class="mend">
          <select v-model="mending" class="choice" aria-label="What mends them">
            <option v-for="each in mendings" :key="each" :value="each">{{ sayMending(each, chosen) }}</option>
          </select>
          <select v-if="mending === 'point'" v-model="to" class="choice" aria-label="Which they point at">
            <option v-for="(_, place) in chosen.parent.rows.slice(0, OFFERED)" :key="place" :value="place">
              {{ label(chosen.parent, place) }}
            </option>
          </select>
        </p>
      </template>
      <SqlFor :write="chosen && chosen.rows.length > 0 ? sql : look" />
    </template>
    <template #acts>
      <button v-if="chosen && chosen.rows.length > 0" type="button" class="button main" @click="mend">
        Mend {{ counted(chosen.rows.length, 'row') }}
      </button>
      <button type="button" class="button" @click="emit('close')">Done <kbd>Esc</kbd></button>
    </template>
  </WorkCard>
</template>

<style scoped>
.ways {
  display: flex;
  flex-direction: column;
}
.way {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 3px 8px;
}
.way.on {
  background: var(--chosen-tint);
  box-shadow: inset 2px 0 0 var(--chosen);
}
.way b {
  margin-left: auto;
  font-weight: 400;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  gap: 14px;
  padding: 2px 8px;
  border-bottom: 1px solid var(--hair);
}
li .mono {
  margin-left: auto;
}
.mend {
  display: flex;
  gap: 12px;
}
</style>
