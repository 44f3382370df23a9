<script setup lang="ts">
import { inject } from 'vue'
import { SIGNS } from '../../core/diagram/fates.ts'
import { LEADING, type Detail, type Label } from '../../core/diagram/labels.ts'
import { clip } from '../../core/diagram/box.ts'
import { regionSize } from '../../core/diagram/regions.ts'
import { HOW, PLAIN } from './how.ts'
import SceneLine from './SceneLine.vue'
import SceneStub from './SceneStub.vue'
import SceneTable from './SceneTable.vue'
import type {
  SceneLine as Line,
  SceneRegion as Region,
  SceneStub as Stub,
  SceneTable as Placed
} from '../../core/diagram/scene-parts.ts'

/** What of a scene is in view. It knows nothing of where it is looked at from, so that this changes without it. */
defineProps<{
  tables: readonly Placed[]
  lines: readonly Line[]
  stubs: readonly Stub[]
  regions: readonly Region[]
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
const how = inject(HOW, PLAIN)
/** What became of a table whose name stands over the drawing. */
function signOf({ table }: Label): string {
  const fate = how.value.fates?.get(table)?.fate
  return fate ? `${SIGNS[fate]} ` : ''
}
const emit = defineEmits<{
  press: [event: PointerEvent, table: Placed]
  open: [table: Placed]
  key: [event: KeyboardEvent, table: Placed]
  /** Goes to what a line beside a table leads to. */
  follow: [table: string]
}>()
</script>

<template>
  <g>
    <g v-for="region in regions" :key="region.id" class="region">
      <rect v-bind="{ x: region.x, y: region.y, width: region.width, height: region.height }" />
      <text
        v-if="detail !== 'outlines'"
        :x="region.x + 14"
        :y="region.y + region.head * 0.6"
        :font-size="regionSize(region.head)"
        >{{ clip(region.name, region.width - 28, regionSize(region.head)) }}</text
      >
    </g>
    <SceneLine
      v-for="line in lines"
      :key="line.id"
      :class="{ away: line.child === away || line.parent === away }"
      :line="line"
      :plain="detail === 'outlines'" />
    <template v-if="detail !== 'outlines'">
      <SceneStub
        v-for="stub in stubs"
        :key="stub.id"
        :class="{ away: stub.child === away }"
        :stub="stub"
        @follow="emit('follow', stub.parent)" />
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
      :class="{ of: label.isRegion }"
      :x="label.x"
      :y="label.y"
      :font-size="label.size"
      :stroke-width="label.size * 0.28">
      <tspan
        v-for="(line, at) in label.lines"
        :key="at"
        :x="label.x"
        :dy="(at === 0 ? (1 - label.lines.length) / 2 : 1) * LEADING * label.size"
        >{{ at === 0 ? signOf(label) : '' }}{{ line }}</tspan
      >
    </text>
  </g>
</template>

<style scoped>
.region rect {
  fill: var(--region);
  stroke: var(--line);
  vector-effect: non-scaling-stroke;
}
.region text {
  font-family: var(--sans);
  font-weight: 700;
  fill: var(--quiet);
}
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
.label.of {
  fill: var(--quiet);
  stroke: var(--region);
  letter-spacing: 0.02em;
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
