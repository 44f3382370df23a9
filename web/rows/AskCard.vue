<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Dialect } from '../../core/dialect/dialect.ts'
import type { Table } from '../../core/design/model.ts'
import { counted } from '../../core/naming/words.ts'
import { rowLabel } from '../../core/relate/label.ts'
import {
  answer,
  changeSql,
  CHANGES,
  pathsFrom,
  QUESTIONS,
  questionSql,
  sayQuestion,
  turned,
  type PairChange,
  type Path,
  type Question
} from '../../core/rows/questions.ts'
import SqlFor from '../parts/SqlFor.vue'
import WorkCard from '../parts/WorkCard.vue'
import { useDesign } from '../stores/design.ts'

/** The everyday questions about a relationship, from either side: answered by the rows here, and as SQL. */
const props = defineProps<{ table: Table; place: number; over?: string | undefined }>()
const emit = defineEmits<{ close: [] }>()
const store = useDesign()

/** How many rows are offered, and how many of an answer are listed. */
const OFFERED = 300
const LISTED = 60

const paths = computed(() => (store.design ? pathsFrom(store.design, props.table) : []))
const isOver = (path: Path): boolean => (path.kind === 'through' ? path.near.id : path.key.id) === props.over
const chosen = ref(Math.max(0, paths.value.findIndex(isOver)))
const isTurned = ref(false)
const path = computed(() => {
  const found = paths.value[chosen.value]
  return found && isTurned.value ? turned(found) : found
})
const row = ref(props.place)
const other = ref(0)
watch([chosen, isTurned], () => {
  row.value = isTurned.value ? 0 : props.place
  other.value = isTurned.value ? props.place : 0
})

/** What is looked at: a question, or a change. */
const looked = ref<Question | PairChange>('has')
const isChange = computed(() => (CHANGES as readonly string[]).includes(looked.value))
const those = ref<number[]>([])

const sayPath = (each: Path): string => {
  switch (each.kind) {
    case 'through':
      return `${each.to.name}, through ${each.junction.name}`
    case 'down':
      return `${each.to.name}, which refers to it`
    case 'up':
      return `${each.to.name}, which it refers to`
  }
}
const label = (table: Table, place: number): string => {
  const found = table.rows[place]
  return store.design && found ? rowLabel(store.design, table, found) : ''
}
const asked = computed(() => ({ row: row.value, other: other.value }))
const sayChange = (change: PairChange): string => {
  const words = { attach: 'Attach some', detach: 'Take some away', set: 'Let it have just these' }
  return words[change]
}
const answered = computed(() => {
  const [design, now] = [store.design, path.value]
  if (!design || !now || isChange.value) return undefined
  const { of, rows } = answer(design, now, looked.value as Question, asked.value)
  const list = rows.slice(0, LISTED).map(({ place, says }) => {
    const said = typeof says === 'boolean' ? (says ? 'yes' : 'no') : says === undefined ? '' : String(says)
    return { label: label(of, place), says: said }
  })
  return { list, count: rows.length, of }
})
const change = computed(() => {
  const [design, now] = [store.design, path.value]
  if (!design || !now || !isChange.value) return undefined
  return (dialect: Dialect) =>
    changeSql(design, dialect, now, looked.value as PairChange, row.value, those.value)
})
const remarks = ref<string[]>([])
function sql(dialect: Dialect): string {
  const [design, now] = [store.design, path.value]
  if (!design || !now) return ''
  if (!change.value) return `${questionSql(design, dialect, now, looked.value as Question, asked.value)};`
  const said = change.value(dialect)
  remarks.value = said.remarks
  return said.statements.map((each) => `${each};`).join('\n\n')
}
watch(looked, () => {
  remarks.value = []
  // What it has now is where one begins.
  const [design, now] = [store.design, path.value]
  if (design && now && looked.value === 'set')
    those.value = answer(design, now, 'has', asked.value).rows.map(({ place }) => place)
  else if (isChange.value) those.value = []
})
function toggle(place: number): void {
  those.value = those.value.includes(place)
    ? those.value.filter((each) => each !== place)
    : [...those.value, place]
}
</script>

<template>
  <WorkCard :title="`What is asked of ${table.name}`" :width="980" @close="emit('close')">
    <p v-if="!path">{{ table.name }} is related to nothing, so there is nothing to ask.</p>
    <template v-else>
      <p class="about">
        <select v-model="chosen" class="choice" aria-label="By which relationship">
          <option v-for="(each, at) in paths" :key="at" :value="at">{{ sayPath(each) }}</option>
        </select>
        <label
          >{{ path.from.name }}
          <select v-model="row" class="choice" :aria-label="`Which ${path.from.name}`">
            <option v-for="(_, at) in path.from.rows.slice(0, OFFERED)" :key="at" :value="at">
              {{ label(path.from, at) }}
            </option>
          </select></label
        >
        <label
          >{{ path.to.name }}
          <select v-model="other" class="choice" :aria-label="`Which ${path.to.name}`">
            <option v-for="(_, at) in path.to.rows.slice(0, OFFERED)" :key="at" :value="at">
              {{ label(path.to, at) }}
            </option>
          </select></label
        >
        <label><input v-model="isTurned" type="checkbox" /> from the other side</label>
      </p>
      <div class="two">
        <div class="asks" role="group" aria-label="What is asked">
          <label v-for="each in QUESTIONS" :key="each" class="ask" :class="{ on: looked === each }"
            ><input v-model="looked" type="radio" :value="each" />
            {{ store.design ? sayQuestion(store.design, path, each, asked) : '' }}</label
          >
          <p class="quiet">or what is done</p>
          <label v-for="each in CHANGES" :key="each" class="ask" :class="{ on: looked === each }"
            ><input v-model="looked" type="radio" :value="each" /> {{ sayChange(each) }}</label
          >
        </div>
        <div class="answer">
          <template v-if="answered">
            <p class="quiet" role="status">the rows here say: {{ counted(answered.count, 'row') }}</p>
            <ul tabindex="0" aria-label="The answer of the rows here">
              <li v-for="(each, at) in answered.list" :key="at">
                <span>{{ each.label }}</span> <b>{{ each.says }}</b>
              </li>
              <li v-if="answered.count > answered.list.length" class="quiet">
                and {{ (answered.count - answered.list.length).toLocaleString('en-GB') }} more
              </li>
            </ul>
          </template>
          <ul v-else tabindex="0" :aria-label="`Which ${path.to.name}`">
            <li v-for="(_, at) in path.to.rows.slice(0, OFFERED)" :key="at">
              <label
                ><input type="checkbox" :checked="those.includes(at)" @change="toggle(at)" />
                {{ label(path.to, at) }}</label
              >
            </li>
          </ul>
        </div>
      </div>
      <p v-for="each in remarks" :key="each" class="effect-emptied">{{ each }}</p>
      <SqlFor :write="sql" />
    </template>
    <template #acts>
      <button type="button" class="button main" @click="emit('close')">Done <kbd>Esc</kbd></button>
    </template>
  </WorkCard>
</template>

<style scoped>
.about {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 4fr);
  gap: 24px;
}
.asks {
  display: flex;
  flex-direction: column;
}
.ask {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 3px 8px;
}
.ask.on {
  background: var(--chosen-tint);
  box-shadow: inset 2px 0 0 var(--chosen);
}
.asks .quiet {
  padding: 6px 8px 2px;
}
ul {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
  max-height: 30vh;
  overflow: auto;
}
li {
  display: flex;
  gap: 12px;
  padding: 2px 0;
  border-bottom: 1px solid var(--hair);
}
li b {
  margin-left: auto;
  padding-right: 6px;
}
</style>
