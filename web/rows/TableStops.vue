<script setup lang="ts">
import type { Table } from '../../core/design/model.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { counted } from '../../core/naming/words.ts'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'

/** Tables beside the one in the middle, while no row of that is chosen: how many rows each has, to go to. */
defineProps<{ tables: readonly Table[] }>()
const emit = defineEmits<{ walk: [table: string] }>()
const store = useDesign()
</script>

<template>
  <p v-if="tables.length === 0" class="none">nothing</p>
  <ul v-else>
    <li v-for="table in tables" :key="table.id">
      <KeyMark
        v-for="mark in store.design ? tableMarks(store.design, table) : []"
        :key="mark.key"
        :mark="mark" />
      <button type="button" class="to" @click="emit('walk', table.id)">{{ table.name }}</button>
      <span class="quiet">{{ table.external ? 'elsewhere' : counted(table.rows.length, 'row') }}</span>
    </li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  gap: 7px;
  padding: 5px 11px;
  border: 1px dashed var(--line);
}
li + li {
  border-top: 0;
}
.to {
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.to:hover {
  color: var(--act);
}
.quiet {
  margin-left: auto;
  font-size: 12px;
  white-space: nowrap;
}
.none {
  color: var(--quiet);
  font-size: 12px;
  padding: 8px 11px;
  border: 1px dashed var(--line);
}
</style>
