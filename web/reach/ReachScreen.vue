<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { tableOf } from '../../core/design/directory.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { dialectsOf } from '../../core/dialect/index.ts'
import { counted } from '../../core/naming/words.ts'
import { rowLabel } from '../../core/relate/label.ts'
import { reachOf, waysOf, type Reach, type ReachEdge } from '../../core/rehearse/reach.ts'
import { rulebookOf } from '../../core/rehearse/rules.ts'
import { useTrail } from '../bench/trail.ts'
import { useMiddle } from '../bench/useMiddle.ts'
import type { Relation } from '../bench/useRelation.ts'
import KeyMark from '../parts/KeyMark.vue'
import RowsTabs from '../rows/RowsTabs.vue'
import { useDesign } from '../stores/design.ts'
import ReachCard from './ReachCard.vue'
import ReachDrawing from './ReachDrawing.vue'

/** Everything that deleting a row of a table can touch, as columns of steps from left to right. */
const store = useDesign()
const trail = useTrail()
const route = useRoute()
const router = useRouter()

const start = useMiddle()
watch(
  () => start.value?.id,
  (id) => {
    if (!id) return
    trail.step(id)
    if (route.params.table !== id) void router.replace({ name: 'reach', params: { table: id } })
  },
  { immediate: true }
)

/** The row that it begins with, by its place; every row where none is named. */
const place = ref('')
watch(
  () => start.value?.id,
  () => (place.value = '')
)
/** How many rows are offered. */
const OFFERED = 300
const labels = computed(() => {
  const [design, table] = [store.design, start.value]
  return design && table ? table.rows.slice(0, OFFERED).map((row) => rowLabel(design, table, row)) : []
})
const dialects = computed(() => (store.design ? dialectsOf(store.design) : []))
const named = ref<string>()
const dialect = computed(() => dialects.value.find(({ name }) => name === named.value) ?? dialects.value[0])
const reach = computed((): Reach | undefined =>
  store.design && dialect.value && start.value
    ? reachOf(
        store.design,
        rulebookOf(store.design, dialect.value),
        start.value.id,
        place.value === '' ? undefined : [Number(place.value)]
      )
    : undefined
)
/** What it was before the rule that was changed last, to be compared with. */
const before = ref<{ tables: number; rows: number }>()
const size = (of: Reach | undefined): { tables: number; rows: number } => ({
  tables: of ? of.deleted.size - 1 : 0,
  rows: of ? [...of.deleted].reduce((sum, [table, rows]) => sum + (table === of.start ? 0 : rows), 0) : 0
})
watch(reach, (now, was) => {
  const isSame = was?.start === now?.start && was?.rows === now?.rows
  const changed = JSON.stringify(size(was)) !== JSON.stringify(size(now))
  if (!isSame) before.value = undefined
  else if (changed) before.value = size(was)
})

const steps = computed(() => {
  const found: ReachEdge[][] = []
  for (const edge of reach.value?.edges ?? []) (found[edge.step - 1] ??= []).push(edge)
  return found.map((edges) => edges ?? [])
})
const ways = computed(() => (reach.value ? waysOf(reach.value) : []))
const sayWay = (way: readonly ReachEdge[]): string =>
  [start.value?.name, ...way.map(({ rule, does }) => `${rule.child.name} ${does}`)].join(' → ')
const relationOf = ({ rule }: ReachEdge): Relation | undefined => {
  const child = store.design && tableOf(store.design, rule.child.id)
  const parent = store.design && tableOf(store.design, rule.parent.id)
  const foreignKey = child?.foreignKeys.find(({ id }) => id === rule.id)
  return child && parent && foreignKey ? { child, parent, foreignKey } : undefined
}
/** As what it is shown. */
const shape = ref<'columns' | 'paths' | 'diagram'>('columns')
const walk = (table: string): void => void router.push({ name: 'reach', params: { table } })
const marks = computed(() => (store.design && start.value ? tableMarks(store.design, start.value) : []))
</script>

<template>
  <div class="screen">
    <div class="bar">
      <RowsTabs here="reach" :table="start?.id" />
      <span v-if="reach && start" class="quiet" role="status"
        >deleting
        <select v-model="place" class="choice" :aria-label="`Which ${start.name}`">
          <option value="">{{ start.name }}, any of {{ counted(start.rows.length, 'row') }}</option>
          <option v-for="(label, at) in labels" :key="at" :value="String(at)">{{ label }}</option>
        </select>
        can take {{ counted(size(reach).rows, 'row') }} of
        {{ counted(size(reach).tables, 'other table') }} along
      </span>
      <span class="engines" role="group" aria-label="On which engine">
        <button
          v-for="each in dialects"
          :key="each.name"
          type="button"
          class="link"
          :class="{ on: each === dialect }"
          :aria-pressed="each === dialect"
          @click="named = each.name">
          {{ each.title }}
        </button>
      </span>
      <span class="engines shapes" role="group" aria-label="Shown as">
        <button
          v-for="each in ['columns', 'diagram', 'paths'] as const"
          :key="each"
          type="button"
          class="link"
          :class="{ on: each === shape }"
          :aria-pressed="each === shape"
          @click="shape = each">
          {{ each === 'paths' ? counted(ways.length, 'path') : each }}
        </button>
      </span>
    </div>
    <p class="before quiet" role="status">
      <template v-if="before"
        >before the last change of a rule it was {{ counted(before.rows, 'row') }} of
        {{ counted(before.tables, 'table') }}</template
      >
    </p>
    <ReachDrawing
      v-if="shape === 'diagram' && reach && store.design"
      :design="store.design"
      :reach="reach"
      @walk="walk" />
    <ol v-else-if="shape === 'paths'" class="ways">
      <li v-for="(way, at) in ways" :key="at">
        {{ sayWay(way) }}<span v-if="way.at(-1)?.isCircle" class="effect-refused"> · runs in a circle</span>
      </li>
      <li v-if="ways.length === 0" class="quiet">Nothing refers to it.</li>
    </ol>
    <div v-else-if="reach && start" class="steps" tabindex="0" role="region" aria-label="Reach">
      <div class="step">
        <h2>deleting</h2>
        <article class="card start">
          <h3><KeyMark v-for="mark in marks" :key="mark.key" :mark="mark" />{{ start.name }}</h3>
          <p class="effect-deleted">{{ counted(reach.rows, 'row') }} here</p>
        </article>
        <p v-if="steps.length === 0" class="quiet">
          Nothing refers to {{ start.name }}: deleting it touches nothing else.
        </p>
      </div>
      <div v-for="(edges, at) in steps" :key="at" class="step">
        <h2>{{ at === 0 ? 'refers to it' : `${at + 1} references on` }}</h2>
        <template v-for="edge in edges" :key="edge.rule.id">
          <ReachCard
            v-if="relationOf(edge)"
            :edge="edge"
            :relation="relationOf(edge)!"
            :is-meeting="reach.meeting.includes(edge.rule.child.id)"
            @walk="walk" />
        </template>
      </div>
    </div>
  </div>
</template>

<style scoped>
.screen {
  height: 100%;
  display: grid;
  grid-template-rows: 34px auto minmax(0, 1fr);
}
.bar {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 0 20px;
  white-space: nowrap;
  overflow: hidden;
}
.before {
  padding: 0 20px;
}
.engines {
  margin-left: auto;
  display: flex;
  gap: 12px;
}
.shapes {
  margin-left: 0;
  padding-left: 14px;
  border-left: 1px solid var(--line);
}
.engines .link {
  color: var(--quiet);
  border-bottom-color: transparent;
}
.engines .on {
  color: var(--ink);
  font-weight: 600;
  border-bottom: 2px solid var(--chosen);
}
.steps {
  display: flex;
  gap: 34px;
  overflow: auto;
  padding: 4px 20px 24px;
}
.step {
  flex: 0 0 260px;
  display: flex;
  flex-direction: column;
  gap: 10px;
  position: relative;
}
.step + .step::before {
  content: '';
  position: absolute;
  left: -34px;
  top: 42px;
  width: 34px;
  border-top: 1.3px solid var(--wire);
}
h2 {
  font-size: 12px;
  color: var(--quiet);
}
.card {
  background: var(--sheet);
  border: 1px solid var(--line);
  border-left: 3px solid var(--deleted);
  padding: 8px 11px;
}
h3 {
  display: flex;
  gap: 7px;
  align-items: center;
  font-weight: 600;
}
.ways {
  overflow: auto;
  margin: 0;
  padding: 8px 20px 24px 50px;
  line-height: 1.9;
}
</style>
