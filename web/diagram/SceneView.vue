<script setup lang="ts">
import type { Detail, Label } from '../../core/diagram/labels.ts'
import type { SceneLine as Line, SceneStub as Stub, SceneTable as Placed } from '../../core/diagram/scene.ts'
import SceneLine from './SceneLine.vue'
import SceneStub from './SceneStub.vue'
import SceneTable from './SceneTable.vue'

/** What of a scene is in view. It knows nothing of where it is looked at from, so that this changes without it. */
defineProps<{
  tables: readonly Placed[]
  lines: readonly Line[]
  stubs: readonly Stub[]
  detail: Detail
  labels: readonly Label[]
  size: number
  /** Whether tables can be put elsewhere. */
  movable: boolean
  /** The tables that are lit up, by their ids; the others step back. */
  lit: ReadonlySet<string>
  /** A table that is shown elsewhere meanwhile. */
  away?: string
}>()
const emit = defineEmits<{
  press: [event: PointerEvent, table: Placed]
  open: [table: Placed]
  key: [event: KeyboardEvent, table: Placed]
}>()
</script>

<template>
  <g>
    <SceneLine
      v-for="line in lines"
      :key="line.id"
      :class="{ away: line.child === away || line.parent === away }"
      :line="line"
      :plain="detail === 'outlines'" />
    <template v-if="detail !== 'outlines'">
      <SceneStub v-for="stub in stubs" :key="stub.id" :class="{ away: stub.child === away }" :stub="stub" />
    </template>
    <g
      v-for="table in tables"
      :key="table.id"
      :data-table="table.id"
      tabindex="0"
      role="group"
      class="place"
      :class="{
        movable,
        away: table.id === away,
        lit: lit.has(table.id),
        behind: lit.size > 0 && !lit.has(table.id)
      }"
      :aria-label="`${table.name}, ${table.rows.length} columns`"
      @pointerdown="emit('press', $event, table)"
      @dblclick="emit('open', table)"
      @keydown="emit('key', $event, table)">
      <title v-if="detail !== 'columns'">{{ table.name }}</title>
      <SceneTable :table="table" :detail="detail" :size="size" />
    </g>
    <text
      v-for="label in labels"
      :key="label.table"
      class="label"
      :x="label.x"
      :y="label.y"
      :font-size="label.size"
      :stroke-width="label.size * 0.28"
      >{{ label.text }}</text
    >
  </g>
</template>

<style scoped>
.place {
  cursor: default;
  outline: none;
}
.place:focus-visible :deep(.paper) {
  stroke: var(--chosen);
  stroke-width: 2.5;
}
.away {
  opacity: 0.15;
}
.movable {
  cursor: move;
}
.behind {
  opacity: 0.4;
}
.lit :deep(.paper) {
  stroke: var(--chosen);
  stroke-width: 2.5;
}
.label {
  font-family: var(--sans);
  font-weight: 700;
  fill: var(--ink);
  stroke: var(--sheet);
  paint-order: stroke;
  stroke-linejoin: round;
  text-anchor: middle;
  dominant-baseline: central;
  pointer-events: none;
}
</style>
