<script setup lang="ts">
import { computed } from 'vue'
import { BOX, clip } from '../../core/diagram/box.ts'
import { keyShape, MARK, markColour, markPath, type Mark } from '../../core/diagram/mark.ts'
import { outline, type SceneTable } from '../../core/diagram/scene.ts'
import { useKeyLight } from '../parts/keyLight.ts'
import { useTheme } from '../stores/theme.ts'

/** One table of the scene, as the exported picture shows it too. */
const props = defineProps<{ table: SceneTable }>()
const theme = useTheme()
const light = useKeyLight()

const nameX = computed(() => props.table.x + BOX.pad + props.table.marks.length * (MARK.width + 4) + 4)
const room = computed(() => props.table.width - BOX.pad * 2 - BOX.markColumn)
interface PlacedMark {
  mark: Mark
  x: number
  y: number
}
const marks = computed((): PlacedMark[] => [
  ...props.table.marks.map((mark, at) => ({
    mark,
    x: props.table.x + BOX.pad + at * (MARK.width + 4),
    y: props.table.y + 10
  })),
  ...props.table.rows.flatMap((row) =>
    row.mark ? [{ mark: row.mark, x: props.table.x + BOX.pad, y: props.table.y + row.middle - 5 }] : []
  )
])
const colour = (mark: Mark): string => markColour(keyShape(mark.key), theme.dark)
const filled = (mark: Mark): boolean => mark.style === 'own' || mark.style === 'both'
</script>

<template>
  <g class="table">
    <path class="paper" :class="{ external: table.external }" :d="outline(table, BOX.cut)" />
    <text :x="nameX" :y="table.y + 20" class="name"
      >{{ clip(table.name, table.width - (nameX - table.x) - BOX.pad, 14)
      }}<title>{{ table.name }}</title></text
    >
    <path
      v-if="table.rule > BOX.head"
      class="rule"
      :d="`M${table.x} ${table.y + table.rule}H${table.x + table.width}`" />
    <template v-for="row in table.rows" :key="row.id">
      <text
        :x="table.x + BOX.pad + BOX.markColumn"
        :y="table.y + row.middle + 4"
        class="column"
        :class="{ open: !row.required }"
        >{{ clip(row.name, room * 0.66, 12.5, true) }}</text
      >
      <text :x="table.x + table.width - BOX.pad" :y="table.y + row.middle + 4" class="type">{{
        clip(row.type, room * 0.6, 12, true)
      }}</text>
    </template>
    <g
      v-for="(placed, at) in marks"
      :key="at"
      :transform="`translate(${placed.x} ${placed.y})`"
      :class="{ dim: light.key && light.key !== placed.mark.key }"
      @pointerenter="light.point(placed.mark.key)"
      @pointerleave="light.leave()">
      <path
        :d="markPath(keyShape(placed.mark.key))"
        :fill="filled(placed.mark) ? colour(placed.mark) : 'var(--sheet)'"
        :stroke="colour(placed.mark)"
        stroke-width="1.2"
        :stroke-dasharray="placed.mark.style === 'open' ? '2.4 1.6' : undefined" />
      <rect
        v-if="placed.mark.style === 'both'"
        x="0"
        y="11"
        :width="MARK.width"
        height="1.6"
        :fill="colour(placed.mark)" />
      <rect x="-2" y="-3" :width="MARK.width + 4" height="18" fill="transparent" />
    </g>
  </g>
</template>

<style scoped>
.paper {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1;
}
.paper.external {
  stroke-width: 1.5;
  stroke-dasharray: 1.5 2.5;
}
.rule {
  stroke: var(--ink);
  stroke-width: 1;
}
text {
  fill: var(--ink);
  font-family: var(--mono);
  font-size: 12.5px;
}
.name {
  font-family: var(--sans);
  font-size: 14px;
  font-weight: 700;
}
.open {
  font-style: italic;
}
.type {
  fill: var(--quiet);
  font-size: 12px;
  text-anchor: end;
}
.dim {
  opacity: 0.3;
}
</style>
