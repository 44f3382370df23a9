<script setup lang="ts">
import { computed, toRef } from 'vue'
import { isInPrimaryKey } from '../../core/design/directory.ts'
import type { Design, Table } from '../../core/design/model.ts'
import type { Reach, ReachEffect } from '../../core/rehearse/reach.ts'
import { counted } from '../../core/naming/words.ts'
import SceneLine from '../diagram/SceneLine.vue'
import SceneStub from '../diagram/SceneStub.vue'
import SceneTable from '../diagram/SceneTable.vue'
import { useScene } from '../diagram/useScene.ts'

/** The reach as the diagram draws it: the tables that it comes to, each in the colour and with the word of what becomes of it. */
const props = defineProps<{ design: Design; reach: Reach }>()
const emit = defineEmits<{ walk: [table: string] }>()

/** What weighs more is said of a table that it comes to in several ways. */
const WEIGHT: Record<ReachEffect, number> = { deleted: 3, refused: 2, emptied: 1, defaulted: 0 }
const WORDS: Record<ReachEffect, string> = {
  deleted: 'deleted',
  refused: 'refuses',
  emptied: 'emptied',
  defaulted: 'set to default'
}

const effects = computed(() => {
  const found = new Map<string, { does: ReachEffect; rows: number }>()
  for (const { rule, does, rows } of props.reach.edges) {
    const known = found.get(rule.child.id)
    if (!known || WEIGHT[known.does] < WEIGHT[does]) found.set(rule.child.id, { does, rows })
  }
  found.set(props.reach.start, { does: 'deleted', rows: props.reach.rows })
  return found
})
/** The tables that it comes to, with their keys and the references among them. */
const part = computed((): Design => {
  const isIn = (id: string): boolean => effects.value.has(id)
  const keys = (table: Table): Table => {
    const foreignKeys = table.foreignKeys.filter((key) => isIn(key.table))
    const referring = new Set(foreignKeys.flatMap(({ pairs }) => pairs.map(({ column }) => column)))
    const columns = table.columns.filter(({ id }) => referring.has(id) || isInPrimaryKey(table, id))
    return { ...table, columns, foreignKeys, rows: [], checks: [], indexes: [], uniques: [] }
  }
  const tables = props.design.tables.filter(({ id }) => isIn(id)).map(keys)
  return { ...props.design, tables, positions: {}, carries: [] }
})
const { scene, failure } = useScene(toRef(() => part.value))
const bounds = computed(() => scene.value?.bounds)
const doesOf = computed(() => new Map(props.reach.edges.map(({ rule, does }) => [rule.id, does])))
const others = computed(() => props.design.tables.length - effects.value.size)
/** What stands over a table. */
function fateOf(id: string): string {
  const effect = effects.value.get(id)
  return effect ? `${WORDS[effect.does]}: ${counted(effect.rows, 'row')}` : ''
}
</script>

<template>
  <div class="drawing" tabindex="0" role="region" aria-label="Reach as a diagram">
    <p v-if="failure" role="alert" class="effect-deleted">{{ failure }}</p>
    <svg
      v-if="bounds"
      role="img"
      aria-label="The tables that a delete comes to"
      :viewBox="`${bounds.x} ${bounds.y - 16} ${bounds.width} ${bounds.height + 16}`"
      :style="{ width: `${bounds.width}px` }"
      preserveAspectRatio="xMinYMin meet">
      <g v-for="line in scene?.lines" :key="line.id" :class="doesOf.get(line.id)">
        <SceneLine :line="line" />
      </g>
      <g v-for="stub in scene?.stubs" :key="stub.id" :class="doesOf.get(stub.id)">
        <SceneStub :stub="stub" />
      </g>
      <g
        v-for="table in scene?.tables"
        :key="table.id"
        :class="[effects.get(table.id)?.does, { start: table.id === reach.start }]"
        @click="emit('walk', table.id)">
        <SceneTable :table="table" />
        <text :x="table.x" :y="table.y - 5" class="fate">{{ fateOf(table.id) }}</text>
      </g>
    </svg>
    <p class="quiet">{{ counted(others, 'other table') }} not touched.</p>
  </div>
</template>

<style scoped>
.drawing {
  overflow: auto;
  padding: 4px 20px 24px;
}
svg {
  max-width: 100%;
  height: auto;
  display: block;
}
.fate {
  font-family: var(--sans);
  font-size: 12px;
  font-weight: 600;
}
.deleted > .fate {
  fill: var(--deleted);
}
.emptied > .fate,
.defaulted > .fate {
  fill: var(--emptied);
}
.refused > .fate {
  fill: var(--refused);
}
.deleted :deep(.paper) {
  stroke: var(--deleted);
  stroke-width: 2;
}
.start :deep(.paper) {
  stroke-width: 3;
}
.emptied :deep(.paper),
.defaulted :deep(.paper) {
  stroke: var(--emptied);
  stroke-width: 2;
  stroke-dasharray: 7 4;
}
.refused :deep(.paper) {
  stroke: var(--refused);
  stroke-width: 2;
  stroke-dasharray: 2 3;
}
.deleted :deep(.line path:not(.grab)) {
  stroke: var(--deleted);
}
.emptied :deep(.line path:not(.grab)) {
  stroke: var(--emptied);
}
.refused :deep(.line path:not(.grab)) {
  stroke: var(--refused);
}
</style>
