<script setup lang="ts">
import { computed, ref } from 'vue'
import { fullName } from '../../core/design/directory.ts'
import type { Table } from '../../core/design/model.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { isJunction } from '../../core/relate/junction.ts'
import type { deleteWords } from '../../core/relate/reading.ts'
import { article, plural } from '../../core/naming/words.ts'
import ChoiceMenu from '../parts/ChoiceMenu.vue'
import DraftField from '../parts/DraftField.vue'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'
import MinimumLine from './MinimumLine.vue'
import type { Neighbour } from './useNeighbours.ts'
import { useRelation, type HowMany } from './useRelation.ts'

/** `slim`: one of many on its side, in a few words until it is looked at. */
const props = defineProps<{ neighbour: Neighbour; side: 'one' | 'many'; slim?: boolean }>()
const emit = defineEmits<{ walk: [table: string]; resolve: []; mind: [] }>()
const store = useDesign()

const {
  reading,
  sentences,
  onDelete,
  onUpdate,
  howMany,
  chooseHowMany,
  actions,
  setActions,
  moment,
  moments,
  setMoment,
  nature,
  natures,
  setNature,
  rowNames,
  accessors,
  setAccessor,
  setVerb,
  remove
} = useRelation(computed(() => props.neighbour))
const of = computed(() => (props.side === 'one' ? 'child' : 'parent'))
const sentence = computed(() => sentences.value[of.value])
const marks = computed(() => (store.design ? tableMarks(store.design, props.neighbour.table) : []))
/** On the card a refusal needs no reason: the sentence above gives it. */
const shorter = ({ words, effect }: ReturnType<typeof deleteWords>): string =>
  effect === 'refused' ? 'is refused' : words
const junction = computed(() => isJunction(props.neighbour.table))

// The verb is the user's own word: a field as wide as what stands in it.
const verb = computed(() => reading.value.verbs[of.value])
const field = ref<HTMLInputElement>()
function sayVerb(value: string): void {
  const said = value.trim()
  if (said !== '' && said !== verb.value) setVerb(of.value, said)
  else if (field.value) field.value.value = verb.value
}

const nameOf = (table: Table): string => (store.design ? fullName(store.design, table) : table.name)
const first = computed(() => props.neighbour[of.value].name)
/** How a row of the middle's own side is called in code. */
const row = computed(() => rowNames.value[of.value])
const second = computed(() => props.neighbour[of.value === 'child' ? 'parent' : 'child'].name)
</script>

<template>
  <article
    class="card"
    :class="{ junction, slim, external: neighbour.table.external }"
    tabindex="-1"
    :aria-label="`${neighbour.table.name}. ${sentence.before} ${sentence.choice} ${sentence.after}`"
    @keydown.enter.self.prevent="emit('walk', neighbour.table.id)"
    @dblclick="emit('walk', neighbour.table.id)">
    <div class="inside">
      <h3>
        <KeyMark v-for="mark in marks" :key="mark.key" :mark="mark" />
        <button
          type="button"
          class="to"
          tabindex="-1"
          :title="`Bring ${neighbour.table.name} to the middle (Enter)`"
          @click="emit('walk', neighbour.table.id)">
          {{ nameOf(neighbour.table) }}
        </button>
        <span v-if="slim" class="short">{{ sentence.choice }} · {{ neighbour.foreignKey.onDelete }}</span>
        <button
          type="button"
          class="remove first"
          tabindex="-1"
          :aria-label="`Change of mind about the relationship of ${neighbour.child.name} and ${neighbour.parent.name}`"
          title="What could be true instead (M)"
          @click="emit('mind')">
          change
        </button>
        <button
          type="button"
          class="remove"
          :aria-label="`Remove the relationship of ${neighbour.child.name} and ${neighbour.parent.name}`"
          title="Remove this relationship; its columns stay"
          @click="remove">
          remove
        </button>
      </h3>
      <p>
        Each {{ first }}
        <input
          ref="field"
          class="verb"
          :value="verb"
          :data-taken="verb"
          :aria-label="`How it reads: each ${first} …`"
          maxlength="60"
          spellcheck="false"
          @change="sayVerb(($event.target as HTMLInputElement).value)"
          @keydown.enter.prevent="($event.target as HTMLInputElement).blur()"
          @keydown.stop />
        <ChoiceMenu
          :value="sentence.choice as HowMany"
          :words="sentence.choice"
          :options="howMany(of)"
          :label="`How many ${plural(second)} each ${first} has`"
          @choose="chooseHowMany(of, $event) || emit('resolve')" />
        {{ sentence.after }}
        <MinimumLine v-if="of === 'parent' && neighbour.foreignKey.atLeastOne" :relation="neighbour" />
      </p>
      <div class="rule">
        <span
          >Deleting {{ article(neighbour.parent.name) }} {{ neighbour.parent.name }}
          <ChoiceMenu
            :value="neighbour.foreignKey.onDelete"
            :words="shorter(onDelete)"
            :tone="onDelete.effect"
            :options="actions('delete')"
            :label="`What deleting ${article(neighbour.parent.name)} ${neighbour.parent.name} does to its ${plural(neighbour.child.name)}`"
            @choose="setActions({ onDelete: $event })" />.</span
        >
        <span class="term">{{ neighbour.foreignKey.onDelete }}</span>
      </div>
      <div class="rule more">
        <span
          >Changing its key
          <ChoiceMenu
            :value="neighbour.foreignKey.onUpdate"
            :words="shorter(onUpdate)"
            :tone="onUpdate.effect"
            :options="actions('update')"
            :label="`What changing the key of ${article(neighbour.parent.name)} ${neighbour.parent.name} does to its ${plural(neighbour.child.name)}`"
            @choose="setActions({ onUpdate: $event })" />.</span
        >
        <span class="term">{{ neighbour.foreignKey.onUpdate }}</span>
      </div>
      <div class="rule more">
        <span
          >Looked at
          <ChoiceMenu
            :value="moment"
            :words="moments.find(({ value }) => value === moment)?.words ?? ''"
            :options="moments"
            :label="`When it is looked at that each ${neighbour.child.name} refers to ${article(neighbour.parent.name)} ${neighbour.parent.name}`"
            @choose="setMoment" />.</span
        >
      </div>
      <div v-if="natures.length > 0" class="rule more">
        <span
          >Each {{ neighbour.child.name }} is
          <ChoiceMenu
            :value="nature"
            :words="natures.find(({ value }) => value === nature)?.words ?? ''"
            :options="natures"
            :label="`What each ${neighbour.child.name} is to its ${neighbour.parent.name}`"
            @choose="setNature" />.</span
        >
      </div>
      <div class="rule more">
        <span class="code"
          >In code <span class="mono">{{ row }}.</span
          ><DraftField
            class="accessor mono"
            :value="accessors[of]"
            :aria-label="`What ${row} calls it in code`"
            spellcheck="false"
            @take="setAccessor(of, $event.trim())"
        /></span>
      </div>
      <div v-for="far in neighbour.far" :key="far.id" class="far">
        <span class="quiet">on the far side</span>
        <KeyMark
          v-for="mark in store.design ? tableMarks(store.design, far) : []"
          :key="mark.key"
          :mark="mark" />
        <button type="button" class="to" tabindex="-1" @click="emit('walk', far.id)">
          {{ nameOf(far) }}
        </button>
      </div>
    </div>
  </article>
</template>

<style scoped>
.card {
  background: var(--line);
  padding: 1px;
  position: relative;
}
.inside {
  background: var(--sheet);
  padding: 8px 11px 9px;
}
.card:focus-visible,
.card:focus {
  outline: none;
  background: var(--chosen);
}
.card:focus .inside {
  background: var(--chosen-tint);
}
.card.junction {
  clip-path: polygon(11px 0, 100% 0, 100% 100%, 11px 100%, 0 calc(100% - 11px), 0 11px);
}
.card.junction .inside {
  clip-path: polygon(10.6px 0, 100% 0, 100% 100%, 10.6px 100%, 0 calc(100% - 10.6px), 0 10.6px);
  padding-left: 15px;
}
h3 {
  display: flex;
  align-items: center;
  gap: 7px;
  font-weight: 600;
  font-size: 14px;
}
.to {
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  font-weight: 600;
  text-align: left;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  min-width: 0;
}
.to:hover {
  color: var(--act);
}
.card.external {
  background: none;
  border: 1.5px dotted var(--quiet);
  padding: 0;
}
.slim .inside {
  padding: 3px 10px;
  min-height: 27px;
}
.slim:not(:hover, :focus-within) .remove {
  display: none;
}
.slim h3 {
  font-size: 13px;
}
.slim p,
.slim .rule,
.slim .far {
  display: none;
}
.slim:focus-within p {
  display: block;
}
.slim:focus-within .rule {
  display: grid;
}
.slim:focus-within .far {
  display: flex;
}
.short {
  color: var(--quiet);
  font-weight: 400;
  font-size: 12px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  min-width: 0;
  flex: 1 2 0;
}
.slim:focus-within .short {
  display: none;
}
.remove {
  margin-left: auto;
  border: 0;
  background: none;
  padding: 0;
  color: var(--quiet);
  font-size: 12px;
  font-weight: 400;
  cursor: pointer;
  opacity: 0;
}
.remove + .remove {
  margin-left: 10px;
}
.card:hover .remove,
.card:focus-within .remove {
  opacity: 1;
}
/* Where room is scarce the name has it. */
@media (width < 1080px) {
  .card:not(:hover, :focus-within) .remove {
    display: none;
  }
}
p {
  margin-top: 3px;
  overflow-wrap: anywhere;
}
.verb {
  border: 0;
  background: none;
  padding: 0;
  margin-right: 0.3em;
  field-sizing: content;
  min-width: 2ch;
  max-width: 100%;
  border-bottom: 1px dotted var(--line);
}
.verb:hover {
  border-bottom-color: var(--act);
}
.rule > :first-child {
  overflow-wrap: anywhere;
}
.accessor {
  border: 0;
  background: none;
  padding: 0;
  min-width: 4ch;
  field-sizing: content;
  border-bottom: 1px dotted var(--line);
  color: var(--ink);
}
.accessor:focus {
  outline: none;
  border-bottom-color: var(--chosen);
}
.code .mono {
  font-size: 12px;
}
.far .quiet {
  white-space: nowrap;
}
.rule {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 8px;
  margin-top: 3px;
  color: var(--quiet);
}
.rule.more {
  display: none;
}
.card:focus-within .rule.more {
  display: grid;
}
.term {
  font: 11px var(--mono);
  color: var(--quiet);
  padding-top: 2px;
  letter-spacing: 0.02em;
}
.far {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-top: 6px;
  padding-top: 6px;
  border-top: 1px solid var(--hair);
}
</style>
