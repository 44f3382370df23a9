<script setup lang="ts">
import { computed } from 'vue'
import { columnsIn } from '../../core/design/directory.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { counted } from '../../core/naming/words.ts'
import type { ReachEdge } from '../../core/rehearse/reach.ts'
import type { Relation } from '../bench/useRelation.ts'
import KeyMark from '../parts/KeyMark.vue'
import RuleChoice from '../rows/RuleChoice.vue'
import { useDesign } from '../stores/design.ts'

/** One reference that a delete comes to: what it does there, and to how many rows. */
const props = defineProps<{ edge: ReachEdge; relation: Relation; isMeeting: boolean }>()
const emit = defineEmits<{ walk: [table: string] }>()
const store = useDesign()

const WORDS = {
  deleted: 'deleted too',
  emptied: 'emptied',
  defaulted: 'set to the default',
  refused: 'refuse it'
} as const
const marks = computed(() => (store.design ? tableMarks(store.design, props.relation.child) : []))
const by = computed(() =>
  columnsIn(
    props.relation.child,
    props.relation.foreignKey.pairs.map(({ column }) => column)
  )
    .map(({ name }) => name)
    .join(', ')
)
/** What the engine does where that is not what the design says. */
const isInstead = computed(() => props.edge.rule.onDelete !== props.relation.foreignKey.onDelete)
</script>

<template>
  <article class="card" :class="edge.does">
    <h3>
      <KeyMark v-for="mark in marks" :key="mark.key" :mark="mark" />
      <button type="button" class="to" @click="emit('walk', relation.child.id)">
        {{ relation.child.name }}
      </button>
      <span class="mono by" :title="`${by} refers to ${relation.parent.name}`">{{ by }}</span>
    </h3>
    <p :class="`effect-${edge.does}`" class="tally">{{ counted(edge.rows, 'row') }} {{ WORDS[edge.does] }}</p>
    <RuleChoice :relation="relation" on="delete" />
    <p v-if="isInstead" class="effect-emptied">This engine does {{ edge.rule.onDelete }} instead.</p>
    <p v-if="edge.isCircle" class="effect-refused">runs in a circle</p>
    <p v-else-if="isMeeting" class="quiet">reached by more than one path</p>
  </article>
</template>

<style scoped>
.card {
  background: var(--sheet);
  border: 1px solid var(--line);
  border-left: 3px solid var(--line);
  padding: 8px 11px;
}
.card.deleted {
  border-left-color: var(--deleted);
}
.card.emptied,
.card.defaulted {
  border-left-color: var(--emptied);
}
.card.refused {
  border-left-color: var(--refused);
}
h3 {
  display: flex;
  gap: 7px;
  align-items: center;
}
.to {
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  font-weight: 600;
}
.to:hover {
  color: var(--act);
}
.by {
  margin-left: auto;
  font-size: 11px;
  color: var(--quiet);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.tally {
  font-weight: 600;
}
</style>
