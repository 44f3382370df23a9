<script setup lang="ts">
import { computed } from 'vue'
import { columnsIn } from '../../core/design/directory.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { dialectsOf } from '../../core/dialect/index.ts'
import { actionIn } from '../../core/dialect/dialect.ts'
import { isAsProposed, proposeRule } from '../../core/relate/rules.ts'
import { useRelation, type Relation } from '../bench/useRelation.ts'
import ChoiceMenu from '../parts/ChoiceMenu.vue'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'

/** One reference and its rules, as a line of the sheet. */
const props = defineProps<{ relation: Relation }>()
const emit = defineEmits<{ walk: [table: string] }>()
const store = useDesign()
const { actions, setActions, onDelete, onUpdate, moment, moments, setMoment } = useRelation(
  computed(() => props.relation)
)

const by = computed(() =>
  columnsIn(
    props.relation.child,
    props.relation.foreignKey.pairs.map(({ column }) => column)
  )
    .map(({ name }) => name)
    .join(', ')
)
const marks = computed(() => (store.design ? tableMarks(store.design, props.relation.child).slice(0, 1) : []))
const proposed = computed(() =>
  store.design ? proposeRule(store.design, props.relation.child, props.relation.foreignKey) : undefined
)
const isOther = computed(() => proposed.value && !isAsProposed(props.relation.foreignKey, proposed.value))
/** What an engine of the design does instead. */
const instead = computed(() => {
  const { foreignKey } = props.relation
  if (!store.design || store.design.dialects.length === 0) return []
  return dialectsOf(store.design).flatMap(({ title, facts }) =>
    (['delete', 'update'] as const).flatMap((on) => {
      const action = on === 'delete' ? foreignKey.onDelete : foreignKey.onUpdate
      const able = actionIn(facts, action, on)
      return able.can || action === 'RESTRICT' ? [] : [`${title}: ${able.why}`]
    })
  )
})
function take(): void {
  if (proposed.value) setActions({ onDelete: proposed.value.onDelete })
}
const short = (term: string): string => term
</script>

<template>
  <tr>
    <th scope="row">
      <button type="button" class="to" @click="emit('walk', relation.child.id)">
        <KeyMark v-for="mark in marks" :key="mark.key" :mark="mark" />{{ relation.child.name }}
      </button>
      <span class="mono by" :title="by">{{ by }}</span>
    </th>
    <td>
      <ChoiceMenu
        :value="relation.foreignKey.onDelete"
        :words="onDelete.words"
        :tone="onDelete.effect"
        :options="actions('delete')"
        :label="`What deleting a ${relation.parent.name} does to ${relation.child.name}, by ${by}`"
        @choose="setActions({ onDelete: $event })" />
      <span class="term">{{ short(relation.foreignKey.onDelete) }}</span>
    </td>
    <td>
      <ChoiceMenu
        :value="relation.foreignKey.onUpdate"
        :words="onUpdate.words"
        :tone="onUpdate.effect"
        :options="actions('update')"
        :label="`What changing the key of a ${relation.parent.name} does to ${relation.child.name}, by ${by}`"
        @choose="setActions({ onUpdate: $event })" />
      <span class="term">{{ short(relation.foreignKey.onUpdate) }}</span>
    </td>
    <td>
      <ChoiceMenu
        :value="moment"
        :words="moments.find(({ value }) => value === moment)?.words ?? ''"
        :options="moments"
        :label="`When it is looked at that ${relation.child.name} refers, by ${by}`"
        @choose="setMoment" />
    </td>
    <td class="remarks">
      <p v-if="isOther && proposed" class="quiet">
        {{ proposed.onDelete }} is usual, since {{ proposed.why }}.
        <button
          type="button"
          class="link"
          :aria-label="`Take ${proposed.onDelete} for ${relation.child.name}, by ${by}`"
          @click="take">
          take it
        </button>
      </p>
      <p v-for="line in instead" :key="line" class="effect-emptied">{{ line }}</p>
    </td>
  </tr>
</template>

<style scoped>
th,
td {
  text-align: left;
  font-weight: 400;
  vertical-align: top;
  padding: 4px 14px 4px 0;
  border-bottom: 1px solid var(--hair);
}
th {
  padding-left: 14px;
}
.to {
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  display: inline-flex;
  align-items: center;
  gap: 7px;
  font-weight: 600;
}
.to:hover {
  color: var(--act);
}
.by {
  display: block;
  font-size: 11px;
  color: var(--quiet);
  overflow: hidden;
  text-overflow: ellipsis;
}
.term {
  display: block;
  font: 11px var(--mono);
  color: var(--quiet);
}
.remarks {
  padding-right: 14px;
}
</style>
