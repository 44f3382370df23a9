<script setup lang="ts">
import { computed } from 'vue'
import { tableOf } from '../../core/design/directory.ts'
import type { ForeignKey, Table } from '../../core/design/model.ts'
import type { Relation } from '../bench/useRelation.ts'
import { useDesign } from '../stores/design.ts'
import ReadingLine from './ReadingLine.vue'

/**
 * The relationships of a section, each the same value as long as its two tables are; a component of its
 * own, so that a section is not made anew for every edit elsewhere.
 */
const props = defineProps<{ table: Table }>()
const emit = defineEmits<{ jump: [table: string]; resolve: [foreignKey: ForeignKey] }>()
const store = useDesign()

const relations = computed((before?: Relation[]) => {
  const now = props.table.foreignKeys.flatMap((foreignKey): Relation[] => {
    const parent = store.design && tableOf(store.design, foreignKey.table)
    const old = before?.find((each) => each.foreignKey === foreignKey)
    return !parent
      ? []
      : old?.child === props.table && old.parent === parent
        ? [old]
        : [{ child: props.table, parent, foreignKey }]
  })
  return before?.length === now.length && before.every((each, at) => each === now[at]) ? before : now
})
</script>

<template>
  <div v-if="relations.length > 0" class="readings">
    <ReadingLine
      v-for="relation in relations"
      :key="relation.foreignKey.id"
      :relation="relation"
      @jump="emit('jump', $event)"
      @resolve="emit('resolve', relation.foreignKey)" />
  </div>
</template>

<style scoped>
.readings {
  border-top: 1px solid var(--hair);
  padding: 4px 0;
}
</style>
