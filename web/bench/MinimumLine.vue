<script setup lang="ts">
import { computed, ref } from 'vue'
import { offendersQuery } from '../../core/definitions/offenders.ts'
import type { Minimum } from '../../core/design/model.ts'
import { dialectsOf } from '../../core/dialect/index.ts'
import { titles } from '../../core/check/finding.ts'
import ChoiceMenu, { type Option } from '../parts/ChoiceMenu.vue'
import { useDesign } from '../stores/design.ts'
import type { Relation } from './useRelation.ts'

/** What holds that each has at least one, which no key does, and the query that finds those that have none. */
const props = defineProps<{ relation: Relation }>()
const store = useDesign()

const dialects = computed(() => (store.design ? dialectsOf(store.design) : []))
const able = computed(() => dialects.value.filter(({ facts }) => facts.deferredTriggers))
const now = computed((): Minimum => props.relation.foreignKey.atLeastOne ?? 'said')
const words = computed(() =>
  now.value === 'held' ? `triggers hold it in ${titles(able.value) || 'no engine chosen'}` : 'it is only said'
)
const options = computed((): Option<Minimum>[] => [
  {
    value: 'held',
    words: `held at the end of each transaction${able.value.length > 0 ? ` in ${titles(able.value)}` : ''}`,
    term: 'deferred trigger',
    ...(able.value.length === 0 && {
      why: 'None of the engines that this is written for has a trigger that waits for the end.'
    })
  },
  { value: 'said', words: 'only said', term: 'query' }
])
function choose(minimum: Minimum): void {
  const { child, foreignKey } = props.relation
  store.submit({ kind: 'foreignKey.setMinimum', table: child.id, foreignKey: foreignKey.id, minimum })
}

const asking = ref(false)
const query = computed(() => {
  const [dialect] = dialects.value
  const { child, foreignKey } = props.relation
  return store.design && dialect && asking.value
    ? offendersQuery(store.design, child.id, foreignKey.id, dialect)
    : undefined
})
</script>

<template>
  <span class="minimum">
    No key holds that;
    <ChoiceMenu
      :value="now"
      :words="words"
      :options="options"
      :label="`What holds that each ${relation.parent.name} has at least one ${relation.child.name}`"
      @choose="choose" />.
    <button type="button" class="link small" :aria-expanded="asking" @click="asking = !asking">
      {{ asking ? 'hide the query' : 'find those without' }}
    </button>
    <pre v-if="query" class="mono" tabindex="0">{{ query }}</pre>
  </span>
</template>

<style scoped>
.minimum {
  display: block;
  color: var(--quiet);
  margin-top: 3px;
}
pre {
  margin: 4px 0 0;
  font-size: 11.5px;
  line-height: 1.5;
  letter-spacing: -0.02em;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  color: var(--ink);
  user-select: all;
}
</style>
