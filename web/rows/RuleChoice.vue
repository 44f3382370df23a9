<script setup lang="ts">
import { computed } from 'vue'
import { article } from '../../core/naming/words.ts'
import { useRelation, type Relation } from '../bench/useRelation.ts'
import ChoiceMenu from '../parts/ChoiceMenu.vue'

/** What happens to what refers, as a sentence whose end can be chosen, wherever its effect is seen. */
const props = defineProps<{ relation: Relation; on: 'delete' | 'update' }>()
const { actions, setActions, onDelete, onUpdate } = useRelation(computed(() => props.relation))

const action = computed(() =>
  props.on === 'delete' ? props.relation.foreignKey.onDelete : props.relation.foreignKey.onUpdate
)
const words = computed(() => (props.on === 'delete' ? onDelete.value : onUpdate.value))
const parent = computed(() => `${article(props.relation.parent.name)} ${props.relation.parent.name}`)
const does = computed(() =>
  props.on === 'delete' ? `Deleting ${parent.value}` : `Changing the key of ${parent.value}`
)
</script>

<template>
  <p class="rule">
    {{ does }}
    <ChoiceMenu
      :value="action"
      :words="words.words"
      :tone="words.effect"
      :options="actions(on)"
      :label="`What ${does.charAt(0).toLowerCase()}${does.slice(1)} does to ${relation.child.name}`"
      @choose="setActions(on === 'delete' ? { onDelete: $event } : { onUpdate: $event })" />.
    <span class="term">{{ action }}</span>
  </p>
</template>

<style scoped>
.rule {
  color: var(--quiet);
  margin-top: 2px;
  overflow-wrap: anywhere;
}
.term {
  font: 11px var(--mono);
}
</style>
