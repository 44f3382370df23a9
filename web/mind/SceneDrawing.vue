<script setup lang="ts">
import { computed, toRef } from 'vue'
import type { Design } from '../../core/design/model.ts'
import SceneLine from '../diagram/SceneLine.vue'
import SceneStub from '../diagram/SceneStub.vue'
import SceneTable from '../diagram/SceneTable.vue'
import { useScene } from '../diagram/useScene.ts'

/** A few tables as the diagram draws them, no larger than there. */
const props = defineProps<{ design: Design; label: string }>()
const { scene } = useScene(toRef(props, 'design'))
/** As small as its names can still be read. */
const SCALE = 0.72
const bounds = computed(() => scene.value?.bounds)
</script>

<template>
  <svg
    v-if="bounds && bounds.width > 0"
    role="img"
    :aria-label="label"
    :viewBox="`${bounds.x} ${bounds.y} ${bounds.width} ${bounds.height}`"
    :style="{ width: `${bounds.width * SCALE}px` }"
    preserveAspectRatio="xMinYMin meet">
    <SceneLine v-for="line in scene?.lines" :key="line.id" :line="line" />
    <SceneStub v-for="stub in scene?.stubs" :key="stub.id" :stub="stub" />
    <SceneTable v-for="table in scene?.tables" :key="table.id" :table="table" />
  </svg>
</template>

<style scoped>
svg {
  max-width: 100%;
  height: auto;
  max-height: 240px;
  display: block;
}
</style>
