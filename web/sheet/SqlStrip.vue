<script setup lang="ts">
import { computed } from 'vue'
import type { Table } from '../../core/design/model.ts'
import { dialectsOf } from '../../core/dialect/index.ts'
import { tableSql } from '../../core/definitions/outputs.ts'
import SqlText from '../parts/SqlText.vue'
import { useDesign } from '../stores/design.ts'
import { useStrip } from './strip.ts'

/**
 * What the table at hand comes to in SQL, as it is typed: a strip that is pulled up from the foot of the
 * screen.
 */
const props = defineProps<{ table: Table | undefined }>()
const store = useDesign()
const strip = useStrip()

const dialects = computed(() => (store.design ? dialectsOf(store.design) : []))
const dialect = computed(
  () => dialects.value.find((each) => each.name === strip.dialect) ?? dialects.value[0]
)
const text = computed(() =>
  strip.open && store.design && props.table && dialect.value
    ? tableSql(store.design, props.table.id, dialect.value)
    : ''
)
const remarks = computed(() =>
  strip.open && store.design && dialect.value
    ? dialect.value.catalog(store.design).remarks.filter((remark) => remark.table === props.table?.id)
    : []
)
</script>

<template>
  <section class="strip" :class="{ open: strip.open }" aria-label="SQL of the table">
    <div class="handle">
      <button type="button" class="link" :aria-expanded="strip.open" @click="strip.toggle()">
        {{ strip.open ? 'put the SQL away' : 'SQL of this table' }} <kbd>Q</kbd>
      </button>
      <template v-if="strip.open">
        <label v-for="each in dialects" :key="each.name" :class="{ on: each === dialect }"
          ><input v-model="strip.dialect" type="radio" name="strip-dialect" :value="each.name" />{{
            each.title
          }}</label
        >
        <span class="quiet small">{{ remarks.map((remark) => remark.message).join(' ') }}</span>
      </template>
    </div>
    <div v-if="strip.open" class="page">
      <SqlText
        v-if="text"
        :text="text"
        highlight
        :label="`SQL of ${table?.name ?? 'the table'} for ${dialect?.title ?? ''}`" />
      <p v-else class="quiet none">
        {{
          table?.external
            ? 'It is owned by another system: nothing is written for it.'
            : 'No table is at hand.'
        }}
      </p>
    </div>
  </section>
</template>

<style scoped>
.strip {
  background: var(--film);
  border-top: 1px solid var(--line);
}
.handle {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 3px 20px;
  min-height: 26px;
  min-width: 0;
}
.handle .link {
  border-bottom: 0;
  color: var(--quiet);
  white-space: nowrap;
}
.handle .small {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  min-width: 0;
}
label {
  color: var(--quiet);
  cursor: pointer;
  white-space: nowrap;
}
label.on {
  color: var(--ink);
  font-weight: 600;
}
label input {
  position: absolute;
  opacity: 0;
}
label:focus-within {
  outline: 2px solid var(--chosen);
  outline-offset: 2px;
}
.page {
  height: 210px;
  background: var(--sheet);
  border-top: 1px solid var(--hair);
}
.none {
  padding: 10px 20px;
}
</style>
