<script setup lang="ts">
import { computed, ref } from 'vue'
import { openFindingsOn } from '../../core/check/open.ts'
import { fullName } from '../../core/design/directory.ts'
import type { ForeignKey, Table } from '../../core/design/model.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import KeyMark from '../parts/KeyMark.vue'
import TableSheet from '../sheet/TableSheet.vue'
import { useDesign } from '../stores/design.ts'
import SectionReadings from './SectionReadings.vue'

/** One table in the ledger: its sheet with its relationships under it, or, folded, one line. */
const props = defineProps<{ table: Table; folded: boolean }>()
const emit = defineEmits<{
  back: []
  relate: [resolve: ForeignKey | undefined]
  removed: []
  jump: [table: string]
  out: [to: 'up' | 'down']
  fold: [all: boolean]
  sql: []
}>()
const store = useDesign()

const sheet = ref<InstanceType<typeof TableSheet>>()
const line = ref<HTMLElement>()
const name = computed(() => (store.design ? fullName(store.design, props.table) : props.table.name))
const marks = computed(() => (store.design ? tableMarks(store.design, props.table) : []))
const trouble = computed(() => (store.design ? openFindingsOn(store.design, props.table.id).length : 0))

/** Gives the keyboard to a column, or to the first or the last line. */
function go(to: { column?: string; last?: boolean }): void {
  if (props.folded) line.value?.focus()
  else if (to.column) void sheet.value?.focusColumn(to.column)
  else if (to.last) void sheet.value?.focusLast()
  else void sheet.value?.focusLine(0)
}

defineExpose({ go })
</script>

<template>
  <button
    v-if="folded"
    ref="line"
    type="button"
    class="folded"
    :data-folded="table.id"
    aria-expanded="false"
    @click="emit('fold', false)"
    @keydown.z.prevent.stop="emit('fold', $event.shiftKey)"
    @keydown.up.prevent.stop="emit('out', 'up')"
    @keydown.down.prevent.stop="emit('out', 'down')">
    <KeyMark v-for="mark in marks" :key="mark.key" :mark="mark" />
    <b>{{ name }}</b>
    <span class="quiet few">{{ table.columns.map((column) => column.name).join(', ') }}</span>
    <span v-if="trouble > 0" class="trouble">{{ trouble }} found</span>
  </button>
  <TableSheet
    v-else
    ref="sheet"
    :table="table"
    ledger
    @walk="$event === 'back' && emit('back')"
    @relate="emit('relate', undefined)"
    @removed="emit('removed')"
    @jump="emit('jump', $event)"
    @out="emit('out', $event)"
    @fold="emit('fold', $event)"
    @sql="emit('sql')">
    <template #title>
      <button
        type="button"
        class="link small fold"
        aria-expanded="true"
        tabindex="-1"
        @click="emit('fold', false)">
        fold <span class="visually-hidden">{{ table.name }}</span> <kbd aria-hidden="true">Z</kbd>
      </button>
    </template>
    <template #readings>
      <SectionReadings :table="table" @jump="emit('jump', $event)" @resolve="emit('relate', $event)" />
    </template>
  </TableSheet>
</template>

<style scoped>
.folded {
  display: flex;
  align-items: center;
  gap: 8px;
  width: 100%;
  border: 1px solid var(--line);
  background: var(--sheet);
  padding: 5px 14px;
  cursor: pointer;
  text-align: left;
  min-width: 0;
}
.folded:focus-visible {
  outline: none;
  background: var(--chosen-tint);
  border-color: var(--ink);
}
.few {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  min-width: 0;
}
.trouble {
  color: var(--emptied);
  white-space: nowrap;
}
.fold {
  margin-left: auto;
  border-bottom: 0;
  color: var(--quiet);
}
</style>
