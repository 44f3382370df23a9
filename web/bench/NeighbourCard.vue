<script setup lang="ts">
import { computed, ref } from 'vue'
import { ACTIONS, type Action } from '../../core/design/model.ts'
import { actionIn } from '../../core/dialect/dialect.ts'
import { dialectsOf } from '../../core/dialect/index.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { isJunction } from '../../core/relate/junction.ts'
import { changeCardinality } from '../../core/relate/propose.ts'
import { cardinalitySentences, deleteWords, readingOf, updateWords } from '../../core/relate/reading.ts'
import { article } from '../../core/relate/words.ts'
import ChoiceMenu, { type Option } from '../parts/ChoiceMenu.vue'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'
import type { Neighbour } from './useNeighbours.ts'

const props = defineProps<{ neighbour: Neighbour; side: 'one' | 'many' }>()
const emit = defineEmits<{ walk: [table: string]; resolve: [] }>()
const store = useDesign()

const reading = computed(() => readingOf(props.neighbour.child, props.neighbour.foreignKey))
const sentences = computed(() => cardinalitySentences(props.neighbour.child, props.neighbour.parent, reading.value))
const sentence = computed(() => (props.side === 'one' ? sentences.value.child : sentences.value.parent))
const marks = computed(() => (store.design ? tableMarks(store.design, props.neighbour.table) : []))
const many = computed(() => reading.value.ofParent === 'any number of')
const onDelete = computed(() => deleteWords(props.neighbour.foreignKey.onDelete, props.neighbour.child.name, many.value))
const onUpdate = computed(() => updateWords(props.neighbour.foreignKey.onUpdate, props.neighbour.child.name, many.value))
/** On the card a refusal needs no reason: the sentence above gives it. */
const shorter = ({ words, effect }: ReturnType<typeof deleteWords>): string => (effect === 'refused' ? 'is refused' : words)
const junction = computed(() => isJunction(props.neighbour.table))
const inKey = computed(() => reading.value.identifying)

type HowMany = 'exactly one' | 'at most one' | 'any number of'
const howMany = computed((): Option<HowMany>[] => (props.side === 'one'
  ? [
      { value: 'exactly one', words: 'exactly one' },
      { value: 'at most one', words: 'at most one', ...(inKey.value && { why: `It is part of the key of ${props.neighbour.child.name}, and a key is never empty.` }) },
      { value: 'any number of', words: 'any number of', term: 'junction table', ...(inKey.value && { why: `It is part of the key of ${props.neighbour.child.name}.` }) }
    ]
  : [
      { value: 'any number of', words: 'any number of' },
      { value: 'at most one', words: 'at most one', term: 'UNIQUE' }
    ]))

function chooseHowMany(value: HowMany): void {
  const { child, foreignKey } = props.neighbour
  if (props.side === 'one' && value === 'any number of') emit('resolve')
  else store.submit(changeCardinality(child, foreignKey, props.side === 'one' ? { required: value === 'exactly one' } : { single: value === 'at most one' }))
}

function actions(on: 'delete' | 'update'): Option<Action>[] {
  return ACTIONS.map((action) => {
    // Without a word on what it is written for, a design is held to no dialect's limits; a refusal is the same by either name.
    const named = store.design && store.design.dialects.length > 0 ? dialectsOf(store.design) : []
    const refused = named.flatMap(({ facts }) => {
      const able = actionIn(facts, action, on)
      return able.can || action === 'RESTRICT' ? [] : [able.why]
    })
    const words = on === 'delete' ? deleteWords : updateWords
    return { value: action, words: words(action, props.neighbour.child.name, many.value).words, term: action, ...(refused[0] && { why: refused[0] }) }
  })
}

function setActions(change: { onDelete?: Action; onUpdate?: Action }): void {
  const { child, foreignKey } = props.neighbour
  store.submit({ kind: 'foreignKey.setActions', table: child.id, foreignKey: foreignKey.id, onDelete: change.onDelete ?? foreignKey.onDelete, onUpdate: change.onUpdate ?? foreignKey.onUpdate })
}

// The verb is the user's own word: a field as wide as what stands in it.
const verb = computed(() => reading.value.verbs[props.side === 'one' ? 'child' : 'parent'])
const field = ref<HTMLInputElement>()
function setVerb(value: string): void {
  const { child, foreignKey } = props.neighbour
  const said = value.trim()
  if (said === '' || said === verb.value) {
    if (field.value) field.value.value = verb.value
    return
  }
  store.submit({ kind: 'foreignKey.setVerbs', table: child.id, foreignKey: foreignKey.id, verbs: { ...reading.value.verbs, [props.side === 'one' ? 'child' : 'parent']: said } })
}

function remove(): void {
  const { child, parent, foreignKey } = props.neighbour
  const columns = foreignKey.pairs.length === 1 ? 'Its column stays' : 'Its columns stay'
  if (!store.submit({ kind: 'foreignKey.remove', table: child.id, foreignKey: foreignKey.id })) store.say(`${child.name} no longer refers to ${parent.name}. ${columns}; Ctrl Z brings the relationship back.`)
}

const first = computed(() => props.neighbour[props.side === 'one' ? 'child' : 'parent'].name)
</script>

<template>
  <article class="card" :class="{ junction }" tabindex="-1" :aria-label="`${neighbour.table.name}. ${sentence.before} ${sentence.choice} ${sentence.after}`" @keydown.enter.self.prevent="emit('walk', neighbour.table.id)" @dblclick="emit('walk', neighbour.table.id)">
    <div class="inside">
      <h3>
        <KeyMark v-for="mark in marks" :key="mark.key" :mark="mark" />
        <button type="button" class="to" tabindex="-1" :title="`Bring ${neighbour.table.name} to the middle (Enter)`" @click="emit('walk', neighbour.table.id)">{{ neighbour.table.name }}</button>
        <button type="button" class="remove" :aria-label="`Remove the relationship of ${neighbour.child.name} and ${neighbour.parent.name}`" title="Remove this relationship; its columns stay" @click="remove">remove</button>
      </h3>
      <p>
        Each {{ first }}
        <input ref="field" class="verb" :value="verb" :data-taken="verb" :aria-label="`How it reads: each ${first} …`" maxlength="60" spellcheck="false" @change="setVerb(($event.target as HTMLInputElement).value)" @keydown.enter.prevent="($event.target as HTMLInputElement).blur()" @keydown.stop>
        <ChoiceMenu :value="sentence.choice as HowMany" :words="sentence.choice" :options="howMany" :label="`How many each ${first} has`" @choose="chooseHowMany" />
        {{ sentence.after }}
      </p>
      <div class="rule">
        <span>Deleting {{ article(neighbour.parent.name) }} {{ neighbour.parent.name }} <ChoiceMenu :value="neighbour.foreignKey.onDelete" :words="shorter(onDelete)" :tone="onDelete.effect" :options="actions('delete')" :label="`What deleting ${neighbour.parent.name} does`" @choose="setActions({ onDelete: $event })" />.</span>
        <span class="term">{{ neighbour.foreignKey.onDelete }}</span>
      </div>
      <div class="rule more">
        <span>Changing its key <ChoiceMenu :value="neighbour.foreignKey.onUpdate" :words="shorter(onUpdate)" :tone="onUpdate.effect" :options="actions('update')" :label="`What changing the key of ${neighbour.parent.name} does`" @choose="setActions({ onUpdate: $event })" />.</span>
        <span class="term">{{ neighbour.foreignKey.onUpdate }}</span>
      </div>
      <div v-for="far in neighbour.far" :key="far.id" class="far">
        <span class="quiet">on the far side</span>
        <KeyMark v-for="mark in store.design ? tableMarks(store.design, far) : []" :key="mark.key" :mark="mark" />
        <button type="button" class="to" tabindex="-1" @click="emit('walk', far.id)">{{ far.name }}</button>
      </div>
    </div>
  </article>
</template>

<style scoped>
.card { background: var(--line); padding: 1px; position: relative; }
.inside { background: var(--sheet); padding: 8px 11px 9px; }
.card:focus-visible, .card:focus { outline: none; background: var(--chosen); }
.card:focus .inside { background: var(--chosen-tint); }
.card.junction { clip-path: polygon(11px 0, 100% 0, 100% 100%, 11px 100%, 0 calc(100% - 11px), 0 11px); }
.card.junction .inside { clip-path: polygon(10.6px 0, 100% 0, 100% 100%, 10.6px 100%, 0 calc(100% - 10.6px), 0 10.6px); padding-left: 15px; }
h3 { display: flex; align-items: center; gap: 7px; font-weight: 600; font-size: 14px; }
.to { border: 0; background: none; padding: 0; cursor: pointer; font-weight: 600; text-align: left; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; min-width: 0; }
.to:hover { color: var(--act); }
.remove { margin-left: auto; border: 0; background: none; padding: 0; color: var(--quiet); font-size: 12px; font-weight: 400; cursor: pointer; opacity: 0; }
.card:hover .remove, .card:focus-within .remove { opacity: 1; }
p { margin-top: 3px; overflow-wrap: anywhere; }
.verb { border: 0; background: none; padding: 0; margin-right: 0.3em; field-sizing: content; min-width: 2ch; max-width: 100%; border-bottom: 1px dotted var(--line); }
.verb:hover { border-bottom-color: var(--act); }
.rule > :first-child { overflow-wrap: anywhere; }
.far .quiet { white-space: nowrap; }
.rule { display: grid; grid-template-columns: minmax(0, 1fr) auto; gap: 8px; margin-top: 3px; color: var(--quiet); }
.rule.more { display: none; }
.card:focus-within .rule.more { display: grid; }
.term { font: 11px var(--mono); color: var(--quiet); padding-top: 2px; letter-spacing: 0.02em; }
.far { display: flex; gap: 6px; align-items: center; margin-top: 6px; padding-top: 6px; border-top: 1px solid var(--hair); }
</style>
