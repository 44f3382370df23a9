<script setup lang="ts">
import { computed, ref } from 'vue'
import { findTables } from '../../core/design/find.ts'
import { fold, fullName, directory } from '../../core/design/directory.ts'
import type { Table } from '../../core/design/model.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { tableCalled } from '../../core/relate/propose.ts'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'

/** Which table the one in the middle is to be related to: one that is there, itself, or a new one. */
defineProps<{ table: Table }>()
const emit = defineEmits<{ choose: [table: string] }>()
const store = useDesign()

const field = ref<HTMLInputElement>()
const typed = ref('')
const at = ref(0)
const found = computed(() =>
  store.design ? findTables(store.design, typed.value, 8).filter((each) => !each.column) : []
)
const makes = computed(
  () =>
    typed.value.trim() !== '' &&
    store.design !== undefined &&
    !directory(store.design).byName.has(fold(typed.value))
)
const newSchema = computed(() =>
  makes.value && store.design ? tableCalled(store.design, typed.value.trim()).newSchema : undefined
)

function choose(index: number): void {
  const entry = found.value[index]
  if (entry) emit('choose', entry.table.id)
  else if (makes.value && store.design) {
    const { table, operation } = tableCalled(store.design, typed.value.trim())
    if (!store.submit(operation)) emit('choose', table.id)
  }
}

defineExpose({ focus: () => field.value?.focus() })
</script>

<template>
  <div class="choose">
    <h1>
      <KeyMark
        v-for="mark in store.design ? tableMarks(store.design, table) : []"
        :key="mark.key"
        :mark="mark"
        large />{{ table.name }} <span class="quiet">and…</span>
    </h1>
    <input
      ref="field"
      v-model="typed"
      class="field"
      aria-label="The other table"
      placeholder="Name the other table, one that is there or a new one…"
      autocomplete="off"
      spellcheck="false"
      @input="at = 0"
      @keydown.down.prevent="at = Math.min(at + 1, found.length)"
      @keydown.up.prevent="at = Math.max(at - 1, 0)"
      @keydown.enter.prevent="choose(at)" />
    <div role="listbox" aria-label="Tables">
      <div
        v-for="({ table: each }, index) in found"
        :key="each.id"
        role="option"
        class="entry"
        :class="{ at: index === at }"
        :aria-selected="index === at"
        @click="choose(index)">
        <KeyMark
          v-for="mark in store.design ? tableMarks(store.design, each) : []"
          :key="mark.key"
          :mark="mark" />
        {{ store.design ? fullName(store.design, each) : each.name }}
        <span v-if="each.id === table.id" class="quiet">(itself)</span>
      </div>
      <div
        v-if="makes"
        role="option"
        class="entry"
        :class="{ at: at === found.length }"
        :aria-selected="at === found.length"
        @click="choose(found.length)">
        make {{ typed.trim()
        }}<template v-if="newSchema !== undefined"> and the schema {{ newSchema }}</template>
      </div>
    </div>
  </div>
</template>

<style scoped>
.choose {
  padding: 18px 22px;
}
h1 {
  font-size: 19px;
  font-weight: 600;
  display: flex;
  align-items: center;
  gap: 9px;
  margin-bottom: 10px;
  flex-wrap: wrap;
}
.field {
  width: 100%;
  margin-bottom: 6px;
  padding: 6px 10px;
}
.entry {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 4px 10px;
  cursor: pointer;
}
.entry.at {
  background: var(--chosen-tint);
  box-shadow: inset 2px 0 0 var(--chosen);
}
</style>
