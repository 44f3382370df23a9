<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Dialect } from '../../core/dialect/dialect.ts'
import { dialectsOf } from '../../core/dialect/index.ts'
import { useDesign } from '../stores/design.ts'
import CopyButton from './CopyButton.vue'

/** Something as SQL for one of the design's dialects, which is chosen here, to be copied. */
const props = defineProps<{ write: (dialect: Dialect) => string; says?: string }>()
const store = useDesign()

const dialects = computed(() => (store.design ? dialectsOf(store.design) : []))
const chosen = ref('')
const dialect = computed(() => dialects.value.find(({ name }) => name === chosen.value) ?? dialects.value[0])
const sql = computed(() => (dialect.value ? props.write(dialect.value) : ''))
</script>

<template>
  <div v-if="sql" class="sql">
    <p>
      <span class="quiet">{{ says ?? 'for a real database' }}</span>
      <select v-model="chosen" class="choice" aria-label="For which engine">
        <option
          v-for="each in dialects"
          :key="each.name"
          :value="each.name === dialects[0]?.name ? '' : each.name">
          {{ each.title }}
        </option>
      </select>
      <CopyButton class="link" :text="sql" label="copy the SQL" />
    </p>
    <pre class="mono" tabindex="0">{{ sql }}</pre>
  </div>
</template>

<style scoped>
.sql p {
  display: flex;
  gap: 12px;
  align-items: center;
}
pre {
  margin: 6px 0 0;
  padding: 8px 10px;
  background: var(--tint);
  border: 1px solid var(--hair);
  white-space: pre-wrap;
  max-height: 22vh;
  overflow: auto;
}
</style>
