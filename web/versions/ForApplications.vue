<script setup lang="ts">
import { computed } from 'vue'
import { shapeOf } from '../../core/definitions/shape.ts'
import { shapeChanges } from '../../core/definitions/shape-changes.ts'
import { TYPESCRIPT } from '../../core/definitions/typescript-names.ts'
import type { Design } from '../../core/design/model.ts'

/** What a change of a design changes for the applications that use it. */
const props = defineProps<{ before: Design; after: Design }>()

const changes = computed(() =>
  shapeChanges(shapeOf(props.before, TYPESCRIPT), shapeOf(props.after, TYPESCRIPT))
)
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
