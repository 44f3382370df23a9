<script setup lang="ts">
import { computed, inject } from 'vue'
import { SIGNS } from '../../core/diagram/fates.ts'
import { linePath } from '../../core/diagram/scene.ts'
import { useKeyLight } from '../parts/keyLight.ts'
import { HOW, PLAIN } from './how.ts'
import SceneEnd from './SceneEnd.vue'
import type { SceneLine } from '../../core/diagram/scene-parts.ts'

/** A line of the scene; from afar without its ends, which could not be told apart. */
const props = defineProps<{ line: SceneLine; plain?: boolean }>()
const light = useKeyLight()
const how = inject(HOW, PLAIN)
const fate = computed(() => how.value.fates?.get(props.line.id)?.fate)
const sign = computed(() => {
  const { at, side } = props.line.ends[1]
  return { x: at[0] + side * 30, y: at[1] }
})
const dashes = computed(() => {
  if (fate.value === 'removed') return '1.5 4'
  return props.line.identifying || props.plain ? undefined : '6 4'
})
</script>

<template>
  <g
    class="line"
    :class="[fate, { lit: light.key === line.key }]"
    @pointerenter="light.point(line.key)"
    @pointerleave="light.leave()">
    <path class="grab" :d="linePath(line.points)" />
    <path :d="linePath(line.points)" :stroke-dasharray="dashes" />
    <template v-if="!plain">
      <SceneEnd v-for="(end, at) in line.ends" :key="at" :end="end" />
      <g v-if="fate">
        <circle class="ring" :cx="sign.x" :cy="sign.y" r="7" />
        <text class="sign" :x="sign.x" :y="sign.y + 4">{{ SIGNS[fate] }}</text>
      </g>
    </template>
  </g>
</template>

<style scoped>
.line {
  --drawn: var(--wire);
}
.added {
  --drawn: var(--added);
}
.removed {
  --drawn: var(--deleted);
}
.changed,
.renamed {
  --drawn: var(--emptied);
}
.line.lit {
  --drawn: var(--chosen);
}
path {
  fill: none;
  stroke: var(--drawn);
  stroke-width: 1.3;
  vector-effect: non-scaling-stroke;
}
.grab {
  stroke: transparent;
  stroke-width: 12;
}
.line :deep(path:not(.grab)),
.line :deep(circle) {
  stroke: var(--drawn);
}
.lit :deep(path:not(.grab)),
.lit :deep(circle),
.added > path:not(.grab),
.removed > path:not(.grab),
.changed > path:not(.grab) {
  stroke-width: 2.2;
}
.ring {
  fill: var(--film);
  stroke-width: 1.3;
}
.sign {
  font: 700 12px var(--sans);
  fill: var(--drawn);
  text-anchor: middle;
}
</style>
