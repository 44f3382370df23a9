<script setup lang="ts">
import { computed } from 'vue'
import { endMarks, stubMarkAt, type SceneStub } from '../../core/diagram/scene.ts'
import { STUB } from '../../core/diagram/stub.ts'
import { useKeyLight } from '../parts/keyLight.ts'
import SceneMark from './SceneMark.vue'

/** A reference that is told of beside its table. */
const props = defineProps<{ stub: SceneStub }>()
const light = useKeyLight()
const end = computed(() => endMarks(props.stub.end))
const at = computed(() => stubMarkAt(props.stub))
const way = computed(() => {
  const [x, y] = props.stub.end.at
  return `M${x} ${y}h${-STUB.line}`
})
</script>

<template>
  <g class="stub" :class="{ lit: light.key === stub.key }">
    <title>refers to {{ stub.says }}</title>
    <path :d="way" :stroke-dasharray="stub.identifying ? undefined : '6 4'" />
    <path :d="end.path" />
    <circle v-if="end.circle" :cx="end.circle[0]" :cy="end.circle[1]" r="3.5" />
    <SceneMark :mark="stub.mark" :x="at[0]" :y="at[1]" />
  </g>
</template>

<style scoped>
.stub > path,
circle {
  fill: none;
  stroke: var(--wire);
  stroke-width: 1.3;
}
circle {
  fill: var(--film);
}
.lit > path,
.lit > circle {
  stroke: var(--chosen);
  stroke-width: 2.2;
}
</style>
