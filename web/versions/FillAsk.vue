<script setup lang="ts">
import { computed, ref } from 'vue'
import { columnOf, tableOf } from '../../core/design/directory.ts'
import type { Design } from '../../core/design/model.ts'
import { lineOf } from '../../core/typing/edits.ts'
import { readFilling } from '../../core/typing/given.ts'
import { fillColumn } from '../../core/restructure/fill.ts'
import { useDesign } from '../stores/design.ts'

/** Asks what rows that are there get in a column. */
const props = defineProps<{ table: string; column: string; since: Design }>()
const store = useDesign()
const found = computed(() => {
  const table = store.draft && tableOf(store.draft, props.table)
  const column = table && columnOf(table, props.column)
  return store.draft && table && column ? { design: store.draft, table, column } : undefined
})
const text = ref(
  found.value?.column.copied ? lineOf(found.value.design, found.value.table, found.value.column).default : ''
)
const slip = ref('')

function fill(): void {
  if (!found.value || text.value.trim() === '') return
  const { design, table, column } = found.value
  const read = readFilling(design, table, column, text.value)
  const operation = read.ok ? fillColumn(design, table, column, read.value, props.since) : read
  slip.value = operation.ok ? '' : operation.message
  if (!operation.ok) return
  const refusal = store.submit(operation.value)
  slip.value = refusal?.message ?? ''
}
</script>

<template>
  <form v-if="found" class="fill" @submit.prevent="fill">
    <input
      v-model="text"
      class="field"
      autocomplete="off"
      :aria-label="`What rows that are there get in ${found.column.name}`"
      :aria-invalid="slip !== ''"
      placeholder="a value, computed … or copied …" />
    <button type="submit" class="button" :disabled="text.trim() === ''">Fill</button>
    <p v-if="slip" class="slip" role="alert">{{ slip }}</p>
  </form>
</template>

<style scoped>
.fill {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 6px;
  margin: 4px 0 6px;
}
.slip {
  grid-column: 1 / 3;
  margin: 0;
  color: var(--deleted);
}
</style>
