<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { newId, NOTHING_STANDING, type Enum, type Policy } from '../../core/design/model.ts'
import type { DialectName } from '../../core/dialect/dialect.ts'
import { DIALECTS, DIALECT_NAMES } from '../../core/dialect/index.ts'
import ChoiceMenu, { type Option } from '../parts/ChoiceMenu.vue'
import DraftField from '../parts/DraftField.vue'
import { useDesign } from '../stores/design.ts'
import PolicyCard from './PolicyCard.vue'
import StandingCard from './StandingCard.vue'

/**
 * What the ledger begins with: what the design is written for, how things are called, its schemas and its
 * lists of values.
 */
const store = useDesign()
const root = ref<HTMLElement>()
const height = ref(0)
let observer: ResizeObserver | undefined
onMounted(() => {
  observer = new ResizeObserver(() => {
    height.value = root.value?.offsetHeight ?? 0
  })
  if (root.value) observer.observe(root.value)
})
onBeforeUnmount(() => observer?.disconnect())

const named = computed(() => store.design?.dialects ?? [])
function toggle(name: string): void {
  const dialects = named.value.includes(name)
    ? named.value.filter((each) => each !== name)
    : [...named.value, name]
  store.submit({
    kind: 'design.setDialects',
    dialects: DIALECT_NAMES.filter((each) => dialects.includes(each))
  })
}

const oldestOf = (name: DialectName): string => {
  const { all, usual } = DIALECTS[name].facts.versions
  const said = store.design?.oldest?.[name]
  return said !== undefined && all.includes(said) ? said : usual
}
const versionsOf = (name: DialectName): Option<string>[] =>
  DIALECTS[name].facts.versions.all.map((value) => ({ value, words: `${value} and later` }))
/** The usual version is what is meant where none is said. */
function setOldest(name: DialectName, version: string): void {
  const isUsual = version === DIALECTS[name].facts.versions.usual
  store.submit({ kind: 'design.setOldest', dialect: name, version: isUsual ? null : version })
}

const policyOpen = ref(false)
const standingOpen = ref(false)
const standingWords = computed(() => {
  const { tables, junctions, key } = store.design?.standing ?? NOTHING_STANDING
  const names = (list: readonly { name: string }[]): string => list.map(({ name }) => name).join(', ')
  return [
    `begins with ${key === 'big' ? 'a large' : 'a'} generated number as its key`,
    ...(tables.length > 0 ? [`and ${names(tables)}`] : []),
    ...(junctions.length > 0 ? [`; a junction with ${names(junctions)}`] : [])
  ]
    .join(' ')
    .replace(' ;', ';')
})
const policyWords = computed(() => {
  const policy = store.design?.policy
  return policy
    ? `${EXAMPLE[policy.letterCase]}, tables in the ${policy.tables === 'as typed' ? 'number they are typed in' : policy.tables}`
    : ''
})
const EXAMPLE: Record<Policy['letterCase'], string> = {
  lower_snake: 'lower_case',
  UPPER_SNAKE: 'UPPER_CASE',
  lowerCamel: 'lowerCamel',
  UpperCamel: 'UpperCamel',
  'as typed': 'as they are typed'
}

function changeList(list: Enum, text: string): void {
  const values = text
    .split(',')
    .map((value) => value.trim())
    .filter((value) => value !== '')
  if (values.join('\0') !== list.values.join('\0'))
    store.submit({ kind: 'enum.change', enum: { ...list, values } })
}
function renameList(list: Enum, name: string): void {
  if (name.trim() !== list.name) store.submit({ kind: 'enum.change', enum: { ...list, name: name.trim() } })
}

const schemaName = ref('')
function addSchema(): void {
  const name = schemaName.value.trim()
  if (name !== '' && !store.submit({ kind: 'schema.add', schema: { id: newId('s'), name } }))
    schemaName.value = ''
}

const first = ref<HTMLInputElement[]>([])
defineExpose({ height, focus: () => first.value[0]?.focus() })
</script>

<template>
  <div ref="root" class="head">
    <dl>
      <dt>written for</dt>
      <dd>
        <span v-for="name in DIALECT_NAMES" :key="name" class="dialect">
          <label :class="{ on: named.includes(name) }"
            ><input ref="first" type="checkbox" :checked="named.includes(name)" @change="toggle(name)" />
            {{ DIALECTS[name].title }}</label
          >
          <ChoiceMenu
            v-if="named.includes(name)"
            :value="oldestOf(name)"
            :words="`${oldestOf(name)} and later`"
            :options="versionsOf(name)"
            :label="`Oldest version of ${DIALECTS[name].title} that it is to run on`"
            @choose="setOldest(name, $event)" />
        </span>
        <span class="quiet small">{{
          named.length === 0
            ? 'none chosen: every one of them is kept in mind where it would refuse something'
            : ''
        }}</span>
      </dd>
      <dt>names</dt>
      <dd>
        {{ policyWords }}; indexes on foreign keys:
        {{ store.design?.policy.indexForeignKeys ? 'made' : 'not made' }}
        <button type="button" class="link" :aria-expanded="policyOpen" @click="policyOpen = !policyOpen">
          {{ policyOpen ? 'leave as it is' : 'change the policy' }}
        </button>
      </dd>
      <dt>every table</dt>
      <dd>
        {{ standingWords }}
        <button
          type="button"
          class="link"
          :aria-expanded="standingOpen"
          @click="standingOpen = !standingOpen">
          {{ standingOpen ? 'leave as it is' : 'change what tables begin with' }}
        </button>
      </dd>
      <template v-if="(store.design?.enums.length ?? 0) > 0">
        <dt>lists of values</dt>
        <dd class="lists">
          <span v-for="list in store.design?.enums ?? []" :key="list.id" class="list">
            <DraftField
              class="of"
              :value="list.name"
              :aria-label="`Name of the list of values ${list.name}`"
              spellcheck="false"
              @take="renameList(list, $event)" />
            <DraftField
              class="values"
              :value="list.values.join(', ')"
              :aria-label="`Values of ${list.name}`"
              spellcheck="false"
              @take="changeList(list, $event)" />
            <button
              type="button"
              class="link small"
              :aria-label="`remove the list ${list.name}`"
              @click="store.submit({ kind: 'enum.remove', enum: list.id })">
              remove
            </button>
          </span>
        </dd>
      </template>
      <dt>schemas</dt>
      <dd>
        <span v-for="schema in store.design?.schemas ?? []" :key="schema.id" class="schema"
          ><DraftField
            class="of"
            :value="schema.name"
            :aria-label="`Name of the schema ${schema.name}`"
            spellcheck="false"
            @take="store.submit({ kind: 'schema.rename', schema: schema.id, name: $event.trim() })" />
          {{ ' ' }}
          <button
            type="button"
            class="link small"
            :aria-label="`remove the schema ${schema.name}`"
            @click="store.submit({ kind: 'schema.remove', schema: schema.id })">
            remove
          </button></span
        >
        <form @submit.prevent="addSchema">
          <input
            v-model="schemaName"
            class="of new"
            aria-label="Name of a new schema"
            placeholder="another…"
            spellcheck="false" />
        </form>
      </dd>
    </dl>
    <PolicyCard v-if="policyOpen" @close="policyOpen = false" />
    <StandingCard v-if="standingOpen" @close="standingOpen = false" />
  </div>
</template>

<style scoped>
.head {
  padding: 10px 0 14px;
}
dl {
  display: grid;
  grid-template-columns: 100px minmax(0, 1fr);
  gap: 3px 14px;
  margin: 0;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
  min-width: 0;
}
dd > .dialect {
  display: inline-flex;
  gap: 6px;
  align-items: baseline;
  white-space: nowrap;
}
label {
  color: var(--quiet);
  cursor: pointer;
}
label.on {
  color: var(--ink);
}
.lists {
  flex-direction: column;
  align-items: stretch;
}
.list {
  display: flex;
  gap: 10px;
  align-items: baseline;
  min-width: 0;
}
.schema {
  display: inline-flex;
  gap: 6px;
  align-items: baseline;
}
.of,
.values {
  border: 0;
  background: none;
  padding: 1px 0;
  font: 12.5px var(--mono);
  min-width: 4ch;
  field-sizing: content;
  max-width: 100%;
  text-overflow: ellipsis;
}
.values {
  color: var(--quiet);
  flex: 0 1 auto;
}
.new {
  width: 90px;
}
.of:focus,
.values:focus {
  outline: none;
  box-shadow: inset 0 -1.5px 0 var(--chosen);
}
.of::placeholder {
  color: var(--quiet);
  opacity: 1;
}
</style>
