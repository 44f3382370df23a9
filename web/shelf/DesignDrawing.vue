<script setup lang="ts">
import { computed, onMounted, shallowRef } from 'vue'
import type { Design } from '../../core/design/model.ts'
import { keyShape } from '../../core/design/key-shape.ts'
import { markColour } from '../../core/diagram/mark.ts'
import { linePath, outline } from '../../core/diagram/scene.ts'
import { api } from '../api/client.ts'
import { useScene } from '../diagram/useScene.ts'
import { useTheme } from '../stores/theme.ts'

/** A small drawing of a design: its tables as sheets, each with its key's colour. */
const props = defineProps<{ id: string }>()
const theme = useTheme()
const design = shallowRef<Design>()
/** Of more tables than this, rows could not be told apart. */
const MANY = 60
const isLarge = computed(() => (design.value?.tables.length ?? 0) > MANY)
const { scene } = useScene(
  computed(() => (design.value && isLarge.value ? { ...design.value, positions: {} } : design.value)),
  computed(() => ({ rows: isLarge.value ? 'keys' : 'all' }))
)
onMounted(async () => {
  design.value = (await api.design(props.id).catch(() => undefined))?.design
})
const box = computed(() => {
  const bounds = scene.value?.bounds
  return bounds && bounds.width > 0
    ? `${bounds.x} ${bounds.y} ${bounds.width} ${bounds.height}`
    : '0 0 100 60'
})
</script>

<template>
  <svg
    class="drawing"
    :class="{ large: isLarge }"
    :viewBox="box"
    preserveAspectRatio="xMidYMid meet"
    aria-hidden="true">
    <path v-for="line in scene?.lines" :key="line.id" :d="linePath(line.points)" class="line" />
    <g v-for="table in scene?.tables" :key="table.id">
      <path :d="outline(table, 14)" class="paper" />
      <rect
        v-for="(mark, at) in isLarge ? [] : table.marks"
        :key="mark.key"
        :x="table.x + 12 + at * 34"
        :y="table.y + 12"
        width="28"
        height="12"
        :fill="markColour(keyShape(mark.key), theme.dark)" />
      <rect
        v-for="row in isLarge ? [] : table.rows"
        :key="row.id"
        :x="table.x + 14"
        :y="table.y + row.middle - 2"
        :width="Math.min(table.width - 40, row.name.length * 9)"
        height="4"
        class="word" />
    </g>
  </svg>
</template>

<style scoped>
.drawing {
  width: 100%;
  height: 100%;
  display: block;
}
.line {
  fill: none;
  stroke: var(--wire);
  stroke-width: 3;
}
.paper {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 2.5;
}
.large path {
  vector-effect: non-scaling-stroke;
  stroke: var(--quiet);
  stroke-width: 0.5;
}
.word {
  fill: var(--line);
}
</style>
