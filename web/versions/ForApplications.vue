<script setup lang="ts">
import { computed, onBeforeUnmount, shallowRef, toRaw, watch } from 'vue'
import type { ShapeChange } from '../../core/definitions/shape-changes.ts'
import type { Design } from '../../core/design/model.ts'
import type { ApplicationsAnswer, ApplicationsQuestion } from '../workers/applications.worker.ts'

/** What a change of a design changes for the applications that use it, worked out off the main thread. */
const props = defineProps<{ before: Design; after: Design }>()

const changes = shallowRef<readonly ShapeChange[]>([])
const worker = new Worker(new URL('../workers/applications.worker.ts', import.meta.url), { type: 'module' })
let asked = 0
worker.onmessage = ({ data }: MessageEvent<ApplicationsAnswer>) => {
  if (data.number === asked) changes.value = data.changes
}
watch(
  () => [props.before, props.after] as const,
  ([before, after]) => {
    const question: ApplicationsQuestion = { number: ++asked, before: toRaw(before), after: toRaw(after) }
    worker.postMessage(question)
  },
  { immediate: true }
)
onBeforeUnmount(() => worker.terminate())
const kinds = computed(() => [
  { title: 'code that is written may no longer fit', those: changes.value.filter(({ breaks }) => breaks) },
  { title: 'code that is written goes on as it is', those: changes.value.filter(({ breaks }) => !breaks) }
])
</script>

<template>
  <template v-if="changes.length > 0">
    <h2>for applications, by the names that code has</h2>
    <template v-for="{ title, those } in kinds" :key="title">
      <p v-if="those.length > 0">{{ title }}:</p>
      <ul>
        <li v-for="{ says } in those" :key="says">{{ says }}</li>
      </ul>
    </template>
  </template>
</template>

<style scoped>
h2 {
  font-size: 12px;
  font-weight: 400;
  color: var(--quiet);
  margin-bottom: 4px;
}
p {
  color: var(--ink);
}
ul {
  list-style: none;
  margin: 0 0 10px;
  padding: 0;
}
li {
  padding: 2px 0 2px 12px;
  overflow-wrap: anywhere;
}
</style>
