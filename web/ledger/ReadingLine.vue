<script setup lang="ts">
import { computed } from 'vue'
import { namesIn } from '../../core/design/directory.ts'
import { article, plural } from '../../core/naming/words.ts'
import MinimumLine from '../bench/MinimumLine.vue'
import { useRelation, type HowMany, type Relation } from '../bench/useRelation.ts'
import ChoiceMenu from '../parts/ChoiceMenu.vue'
import DraftField from '../parts/DraftField.vue'

/** A relationship of a ledger's section, read as sentences whose parts can be changed in place. */
const props = defineProps<{ relation: Relation }>()
const emit = defineEmits<{ jump: [table: string]; resolve: [] }>()
const {
  sentences,
  onDelete,
  onUpdate,
  howMany,
  chooseHowMany,
  actions,
  setActions,
  rowNames,
  accessors,
  setAccessor,
  remove
} = useRelation(computed(() => props.relation))
const names = computed(() => {
  const { child, foreignKey } = props.relation
  return namesIn(
    child,
    foreignKey.pairs.map(({ column }) => column)
  )
})
const shorter = (words: string, effect: string): string => (effect === 'refused' ? 'is refused' : words)
</script>

<template>
  <p class="reading">
    <button
      type="button"
      class="by mono"
      :title="`To ${relation.parent.name} (G on its line)`"
      @click="emit('jump', relation.parent.id)">
      {{ names }}
    </button>
    <span>
      {{ sentences.child.before }}
      <ChoiceMenu
        :value="sentences.child.choice as HowMany"
        :words="sentences.child.choice"
        :options="howMany('child')"
        :label="`How many ${plural(relation.parent.name)} each ${relation.child.name} has`"
        @choose="chooseHowMany('child', $event) || emit('resolve')" />
      {{ sentences.child.after }} {{ sentences.parent.before }}
      <ChoiceMenu
        :value="sentences.parent.choice as HowMany"
        :words="sentences.parent.choice"
        :options="howMany('parent')"
        :label="`How many ${plural(relation.child.name)} each ${relation.parent.name} has`"
        @choose="chooseHowMany('parent', $event)" />
      {{ sentences.parent.after }} Deleting {{ article(relation.parent.name) }} {{ relation.parent.name }}
      <ChoiceMenu
        :value="relation.foreignKey.onDelete"
        :words="shorter(onDelete.words, onDelete.effect)"
        :tone="onDelete.effect"
        :options="actions('delete')"
        :label="`What deleting ${article(relation.parent.name)} ${relation.parent.name} does to its ${plural(relation.child.name)}`"
        @choose="setActions({ onDelete: $event })" />
      {{ ' ' }}
      <span class="term">{{ relation.foreignKey.onDelete }}</span>; changing its key
      <ChoiceMenu
        :value="relation.foreignKey.onUpdate"
        :words="shorter(onUpdate.words, onUpdate.effect)"
        :tone="onUpdate.effect"
        :options="actions('update')"
        :label="`What changing the key of ${article(relation.parent.name)} ${relation.parent.name} does to its ${plural(relation.child.name)}`"
        @choose="setActions({ onUpdate: $event })" />.
      <MinimumLine v-if="relation.foreignKey.atLeastOne" :relation="relation" />
      <span v-for="(row, side) in rowNames" :key="side" class="code mono"
        >{{ row }}.<DraftField
          class="accessor mono"
          :value="accessors[side]"
          :aria-label="`What ${row} calls its ${relation[side === 'child' ? 'parent' : 'child'].name} in code, by ${names}`"
          spellcheck="false"
          @take="setAccessor(side, $event.trim())"
      /></span>
    </span>
    <button
      type="button"
      class="link small"
      :aria-label="`Remove the relationship of ${relation.child.name} and ${relation.parent.name}`"
      @click="remove">
      remove
    </button>
  </p>
</template>

<style scoped>
.reading {
  display: grid;
  grid-template-columns: minmax(112px, 15%) minmax(0, 1fr) auto;
  gap: 10px;
  padding: 3px 14px 3px 62px;
  color: var(--quiet);
}
.by {
  border: 0;
  background: none;
  padding: 0;
  text-align: left;
  color: var(--ink);
  cursor: pointer;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.by:hover {
  color: var(--act);
}
.code {
  display: inline-block;
  white-space: nowrap;
  margin: 0 6px;
  font-size: 12px;
}
.accessor {
  border: 0;
  border-bottom: 1px dotted var(--line);
  background: none;
  padding: 0;
  font-size: 12px;
  color: var(--ink);
  field-sizing: content;
}
.term {
  font: 11px var(--mono);
}
.small {
  color: var(--quiet);
  border-bottom: 0;
  opacity: 0;
}
.reading:hover .small,
.small:focus-visible {
  opacity: 1;
}
</style>
