<script setup lang="ts">
import { computed } from 'vue'
import { stubMarkAt } from '../../core/diagram/scene.ts'
import { STUB } from '../../core/diagram/stub.ts'
import { useKeyLight } from '../parts/keyLight.ts'
import SceneEnd from './SceneEnd.vue'
import SceneMark from './SceneMark.vue'
import type { SceneStub } from '../../core/diagram/scene-parts.ts'

/** A reference that is told of beside its table. */
const props = defineProps<{ stub: SceneStub }>()
const emit = defineEmits<{ follow: [] }>()
const light = useKeyLight()
const at = computed(() => stubMarkAt(props.stub))
const way = computed(() => {
  const [x, y] = props.stub.end.at
  return `M${x} ${y}h${-STUB.line}`
})
</script>

<template>
  <g class="stub" @pointerdown.stop @click="emit('follow')" :class="{ lit: light.key === stub.key }">
    <title>refers to {{ stub.says }}: press to go there</title>
    <path :d="way" :stroke-dasharray="stub.identifying ? undefined : '6 4'" />
    <SceneEnd :end="stub.end" />
    <SceneMark :mark="stub.mark" :x="at[0]" :y="at[1]" />
  </g>
</template>

<style scoped>
.stub > path {
  fill: none;
  stroke: var(--wire);
  stroke-width: 1.3;
}
.stub {
  cursor: pointer;
}
.lit > path,
.lit :deep(path),
.lit :deep(circle) {
  stroke: var(--chosen);
  stroke-width: 2.2;
}
</style>
