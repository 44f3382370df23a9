<script setup lang="ts">
import { computed } from 'vue'
import { endMarks, linePath, type SceneLine } from '../../core/diagram/scene.ts'
import { useKeyLight } from '../parts/keyLight.ts'

/** A line of the scene; from afar without its ends, which could not be told apart. */
const props = defineProps<{ line: SceneLine; plain?: boolean }>()
const light = useKeyLight()
const ends = computed(() => props.line.ends.map(endMarks))
</script>

<template>
  <g
    class="line"
    :class="{ lit: light.key === line.key }"
    @pointerenter="light.point(line.key)"
    @pointerleave="light.leave()">
    <path class="grab" :d="linePath(line.points)" />
    <path :d="linePath(line.points)" :stroke-dasharray="line.identifying || plain ? undefined : '6 4'" />
    <template v-for="(end, at) in plain ? [] : ends" :key="at">
      <path :d="end.path" />
      <circle v-if="end.circle" :cx="end.circle[0]" :cy="end.circle[1]" r="3.5" />
    </template>
  </g>
</template>

<style scoped>
path {
  fill: none;
  stroke: var(--wire);
  stroke-width: 1.3;
  vector-effect: non-scaling-stroke;
}
.grab {
  stroke: transparent;
  stroke-width: 12;
}
circle {
  fill: var(--film);
  stroke: var(--wire);
  stroke-width: 1.3;
}
.lit path:not(.grab),
.lit circle {
  stroke: var(--chosen);
  stroke-width: 2.2;
}
</style>
