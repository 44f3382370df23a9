<script setup lang="ts">
import { computed } from 'vue'
import { columnsIn } from '../../core/design/directory.ts'
import type { Action } from '../../core/design/model.ts'
import { article } from '../../core/naming/words.ts'
import { useRelation, type Relation } from '../bench/useRelation.ts'
import ChoiceMenu from '../parts/ChoiceMenu.vue'

/** What happens to what refers, as a sentence whose end can be chosen, wherever its effect is seen. */
const props = defineProps<{
  relation: Relation
  on: 'delete' | 'update'
  /** Whether it stands in the way, so that what would not is offered with it. */
  stands?: boolean
}>()
const { actions, setActions, onDelete, onUpdate } = useRelation(computed(() => props.relation))

const action = computed(() =>
  props.on === 'delete' ? props.relation.foreignKey.onDelete : props.relation.foreignKey.onUpdate
)
const words = computed(() => (props.on === 'delete' ? onDelete.value : onUpdate.value))
const choose = (to: Action): void => setActions(props.on === 'delete' ? { onDelete: to } : { onUpdate: to })
/** What would not stand in the way: along with it, or without it where the columns may be empty. */
const ways = computed(() => {
  const { child, foreignKey } = props.relation
  const own = columnsIn(
    child,
    foreignKey.pairs.map(({ column }) => column)
  )
  const isFree = own.every(({ id, required }) => !required && !child.primaryKey?.columns.includes(id))
  const goes = new Set<Action>(isFree ? ['CASCADE', 'SET NULL'] : ['CASCADE'])
  return props.stands ? actions(props.on).filter(({ value, why }) => goes.has(value) && !why) : []
})
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
      @choose="choose" />.
    <span class="term">{{ action }}</span>
  </p>
  <p v-if="ways.length > 0" class="ways">
    <span class="quiet">Try it if it</span>
    <button v-for="way in ways" :key="way.value" type="button" class="link" @click="choose(way.value)">
      {{ way.words }}
    </button>
  </p>
</template>

<style scoped>
.rule {
  color: var(--quiet);
  margin-top: 2px;
  overflow-wrap: anywhere;
}
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin-top: 6px;
}
.term {
  font: 11px var(--mono);
}
</style>
