<script setup lang="ts">
import { ElDialog } from 'element-plus/es/components/dialog/index.mjs'
import { computed, nextTick, ref, shallowRef, watch } from 'vue'
import { tableOf } from '../../core/design/directory.ts'
import { newId, type Action, type ForeignKey, type Nature, type Table } from '../../core/design/model.ts'
import { typeText } from '../../core/design/type.ts'
import { columnMarks, tableMarks, type MarkedKey } from '../../core/diagram/mark.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import type { Junction } from '../../core/edit/relationship.ts'
import { junctionNames, tableName } from '../../core/naming/names.ts'
import { proposeJunction } from '../../core/relate/propose.ts'
import { deleteWords } from '../../core/relate/reading.ts'
import { article, plural } from '../../core/naming/words.ts'
import ChoiceMenu from '../parts/ChoiceMenu.vue'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'
import OtherTable from './OtherTable.vue'
import OwnColumns from './OwnColumns.vue'
import { tableSql } from '../../core/definitions/outputs.ts'
import type { Dialect } from '../../core/dialect/dialect.ts'
import { pricesLater, sayLater } from '../../core/version/later.ts'
import { dialectsOf } from '../../core/dialect/index.ts'
import {
  childSide,
  HOW_MANY,
  isManyToMany,
  JUNCTION_ACTIONS,
  relate,
  type SelfPairs,
  type HowMany,
  type JunctionAnswers
} from '../../core/restructure/relation.ts'
import type { OwnLine } from '../../core/restructure/pair-facts.ts'
import { pairPreview } from '../../core/relate/label.ts'

/** Relates two tables: asks how many on each side, shows what will be built, and builds it on Enter. */
const props = defineProps<{
  table: Table
  /** A reference that is to become a junction. */
  resolve?: ForeignKey | undefined
}>()
const emit = defineEmits<{ close: [go: string | undefined] }>()
const store = useDesign()

const otherId = ref(props.resolve?.table ?? '')
const other = computed(() => (store.design ? tableOf(store.design, otherId.value) : undefined))

const first = ref<HowMany>('any number of')
const second = ref<HowMany>(props.resolve ? 'any number of' : 'exactly one')
const isMany = computed(() => isManyToMany([first.value, second.value]))

const junction = shallowRef<Junction>()
const name = ref('')
const keyed = ref<'pair' | 'own'>('pair')
const own = ref<OwnLine[]>([])
const onDelete = ref<[Action, Action]>(['CASCADE', 'RESTRICT'])
const childRule = ref<Action>()
/** What a row of the many side is to the other; the rule on delete follows from it. */
const nature = ref<Nature>('listed')

/** Of a table with itself: what its rows are to each other, and what a pair may not be. */
const roles = ref<[string, string]>(['', ''])
const apart = ref<SelfPairs>('any')
const isSelf = computed(() => other.value?.id === props.table.id)
/** What the sides are called in the sentences. */
const sides = computed(() => {
  const [one, two] = isSelf.value ? roles.value : ['', '']
  return [
    one.trim() || props.table.name,
    two.trim() || (isSelf.value ? `other ${props.table.name}` : (other.value?.name ?? ''))
  ] as const
})
/** Of what the rules are: the roles where both are of one table. */
const rulesOf = computed(() => [{ name: sides.value[0] }, { name: sides.value[1] }])
const isOneColumn = computed(() => (props.table.primaryKey?.columns.length ?? 0) === 1)

const chooser = ref<InstanceType<typeof OtherTable>>()
const question = ref<HTMLElement>()

watch(
  other,
  (table) => {
    if (!table || !store.design) return
    junction.value = proposeJunction(store.design, props.table, table)
    // The first of them has nobody to refer to.
    if (table.id === props.table.id && !props.resolve) second.value = 'at most one'
    name.value = junction.value.table.name
    onDelete.value = junction.value.sides.map((side) => side.onDelete) as [Action, Action]
    void nextTick(focusFirst)
  },
  { immediate: true }
)

/** What is to be said first: which other table, else how many. */
function focusFirst(): void {
  if (other.value) question.value?.querySelector<HTMLInputElement>('input:checked')?.focus()
  else chooser.value?.focus()
}

function namesFor(given: readonly string[]): string[] {
  if (!store.design || !other.value) return []
  const names = junctionNames(store.design, props.table, other.value)
  const said = given.map((role) => role.trim()).filter((role) => role !== '')
  return isSelf.value && said.length === 2
    ? [tableName(said.join('_'), store.design.policy), ...names]
    : names
}
const nameProposals = computed(() => namesFor(roles.value))
const child = computed(() => (childSide(first.value, second.value) === 'first' ? props.table : other.value))
const parent = computed(() =>
  child.value === props.table && other.value !== props.table ? other.value : props.table
)

const APART: Record<SelfPairs, string> = {
  any: 'any two',
  'not itself': 'none with itself',
  once: 'once, whichever way round'
}

const ids = { column: newId('c'), unique: newId('k') }

/** What is answered on the junction so far. */
const junctionAnswers = computed(
  (): JunctionAnswers | undefined =>
    junction.value && {
      proposed: junction.value,
      name: name.value,
      onDelete: onDelete.value,
      own: own.value,
      keyed: keyed.value,
      apart: isSelf.value ? apart.value : 'any',
      ids
    }
)
const related = computed(() => {
  if (!store.design || !other.value) return undefined
  return relate(store.design, {
    table: props.table,
    other: other.value,
    howMany: [first.value, second.value],
    onDelete: childRule.value,
    nature: nature.value,
    junction: junctionAnswers.value,
    roles: isSelf.value ? roles.value : undefined,
    resolve: props.resolve
  })
})
const operation = computed((): Operation | undefined => (related.value?.ok ? related.value.value : undefined))

const outcome = computed(() =>
  store.design && operation.value ? apply(store.design, operation.value) : undefined
)
const builtId = computed(() => (isMany.value ? junction.value?.table.id : child.value?.id) ?? '')
const built = computed(() => (outcome.value?.ok ? tableOf(outcome.value.design, builtId.value) : undefined))
const builtMarks = computed(() =>
  outcome.value?.ok && built.value ? columnMarks(outcome.value.design, built.value) : new Map()
)
/** What it would cost to change it later, beside the choice that is made. */
const later = computed(() => {
  if (!outcome.value?.ok || !built.value) return []
  const { design } = outcome.value
  const made =
    related.value?.ok && related.value.value.kind === 'relationship.add' ? related.value.value : undefined
  const key = built.value.foreignKeys.find(({ id }) => id === made?.foreignKey)
  return isMany.value || key
    ? pricesLater(design, built.value, key, dialectsOf(design)[0] as Dialect).map(sayLater)
    : []
})
const sql = computed(() =>
  outcome.value?.ok
    ? tableSql(outcome.value.design, builtId.value, dialectsOf(outcome.value.design)[0] as Dialect)
    : ''
)
const trouble = computed(() => {
  if (related.value && !related.value.ok) return related.value.message
  return outcome.value && !outcome.value.ok ? outcome.value.refusal.message : ''
})
watch(roles, (_, before) => {
  if (!store.design || !isSelf.value || !junction.value) return
  // The name follows the roles until a person gives one.
  if (namesFor(before).includes(name.value)) name.value = nameProposals.value[0] ?? name.value
  const { table, key } = junction.value
  junction.value = { ...proposeJunction(store.design, props.table, props.table, roles.value), table, key }
})

const offers = computed(() => (outcome.value && !outcome.value.ok ? outcome.value.refusal.offers : []))
const preview = computed(() =>
  store.design && other.value && isMany.value ? pairPreview(store.design, props.table, other.value) : []
)
const newColumns = computed(() => {
  const before = store.design && tableOf(store.design, builtId.value)
  return built.value?.columns.filter((column) => !before?.columns.some((old) => old.id === column.id)) ?? []
})
const currentRule = computed(
  () =>
    childRule.value ?? (operation.value?.kind === 'relationship.add' ? operation.value.onDelete : 'RESTRICT')
)

function build(): void {
  if (!operation.value || trouble.value) return
  if (!store.submit(operation.value)) emit('close', isMany.value ? builtId.value : undefined)
}

function ruleOptions(childName: string): { value: Action; words: string; term: string }[] {
  const allowed = isMany.value
    ? JUNCTION_ACTIONS
    : ([
        'CASCADE',
        'RESTRICT',
        'NO ACTION',
        ...(operation.value?.kind === 'relationship.add' && !operation.value.required ? ['SET NULL'] : [])
      ] as Action[])
  return allowed.map((action) => ({
    value: action,
    words: deleteWords(action, childName, true).words,
    term: action
  }))
}

function setSideRule(side: 0 | 1, action: Action): void {
  onDelete.value = side === 0 ? [action, onDelete.value[1]] : [onDelete.value[0], action]
}

function key(event: KeyboardEvent): void {
  if (event.key !== 'Enter' || event.defaultPrevented) return
  const target = event.target as HTMLElement
  if (target instanceof HTMLButtonElement && !event.ctrlKey) return
  event.preventDefault()
  build()
}
</script>

<template>
  <ElDialog
    :model-value="true"
    class="relate"
    :show-close="false"
    width="min(980px, 94vw)"
    top="9vh"
    :title="`Relate ${table.name}`"
    destroy-on-close
    @opened="focusFirst"
    @open-auto-focus="focusFirst"
    @close="emit('close', undefined)">
    <OtherTable v-if="!other" ref="chooser" :table="table" @choose="otherId = $event" />
    <div v-else class="card" @keydown="key">
      <div class="a">
        <h1>
          <KeyMark
            v-for="mark in store.design ? tableMarks(store.design, table) : []"
            :key="mark.key"
            :mark="mark"
            large />{{ table.name }}
          <span class="quiet and">and</span>
          <KeyMark
            v-for="mark in store.design ? tableMarks(store.design, other) : []"
            :key="mark.key"
            :mark="mark"
            large />{{ other.name }}
        </h1>
        <div v-if="isSelf" class="roles">
          <span class="quiet">One {{ table.name }} is to another</span>
          <input
            :value="roles[0]"
            class="field"
            maxlength="40"
            placeholder="mentor"
            :aria-label="`What one ${table.name} is to the other`"
            spellcheck="false"
            @input="roles = [($event.target as HTMLInputElement).value, roles[1]]" />
          <span class="quiet">and that is to it</span>
          <input
            :value="roles[1]"
            class="field"
            maxlength="40"
            placeholder="learner"
            :aria-label="`What the other ${table.name} is to the one`"
            spellcheck="false"
            @input="roles = [roles[0], ($event.target as HTMLInputElement).value]" />
        </div>
        <div ref="question" class="say">
          <fieldset
            v-for="(side, index) in [
              { one: sides[0], many: sides[1] },
              { one: sides[1], many: sides[0] }
            ]"
            :key="index"
            :aria-label="`How many ${plural(side.many)} each ${side.one} has`">
            <span
              >Each <b>{{ side.one }}</b> has</span
            >
            <span class="pick">
              <label
                v-for="choice in HOW_MANY"
                :key="choice"
                :class="{
                  on: (index === 0 ? first : second) === choice,
                  off: resolve && choice !== 'any number of'
                }">
                <input
                  v-if="index === 0"
                  v-model="first"
                  type="radio"
                  name="first"
                  :value="choice"
                  :disabled="!!resolve && choice !== 'any number of'" /><input
                  v-else
                  v-model="second"
                  type="radio"
                  name="second"
                  :value="choice"
                  :disabled="!!resolve && choice !== 'any number of'" />{{ choice }}
              </label>
            </span>
            <b>{{ (index === 0 ? first : second) === 'any number of' ? plural(side.many) : side.many }}</b>
          </fieldset>
        </div>
        <p v-if="resolve" class="why">
          Each side turned out to need many: the reference moves into a junction table, and what it holds in
          the rows is carried there.
        </p>
        <p v-else-if="isMany" class="why">
          Many on both sides: neither table can hold this, so a junction table keeps one row for each pair.
        </p>
        <p v-else class="why">{{ child?.name }} holds the key of {{ parent?.name }}.</p>

        <p v-if="later.length > 0" class="why later">
          Changed later,
          <template v-for="(each, n) in later" :key="each">{{ n > 0 ? '; ' : '' }}{{ each }}</template
          >.
        </p>

        <template v-if="isMany && junction">
          <div class="f">
            <span id="junction-name">name</span>
            <div class="names">
              <input
                v-model="name"
                class="field mono"
                aria-labelledby="junction-name"
                spellcheck="false"
                @focus="($event.target as HTMLInputElement).select()" />
              <button
                v-for="proposal in nameProposals.filter((each) => each !== name)"
                :key="proposal"
                type="button"
                class="button mono"
                @click="name = proposal">
                {{ proposal }}
              </button>
            </div>
          </div>
          <div class="f">
            <span>key</span>
            <div class="pick boxed" role="radiogroup" aria-label="Key of the junction">
              <label :class="{ on: keyed === 'pair' }"
                ><input v-model="keyed" type="radio" name="keyed" value="pair" />the pair{{
                  own.some((line) => line.inKey)
                    ? ` and ${own
                        .filter((line) => line.inKey)
                        .map((line) => line.name || '…')
                        .join(', ')}`
                    : ': at most once'
                }}</label
              >
              <label :class="{ on: keyed === 'own' }"
                ><input v-model="keyed" type="radio" name="keyed" value="own" />its own number, and the pair
                unique</label
              >
            </div>
          </div>
          <div class="f">
            <span>columns</span>
            <div>
              <div
                v-for="column in built?.columns.filter(
                  (each) => !own.some((line) => each.id.startsWith(line.id))
                ) ?? []"
                :key="column.id"
                class="mini mono">
                <span class="marks"
                  ><KeyMark v-for="mark in builtMarks.get(column.id) ?? []" :key="mark.key" :mark="mark"
                /></span>
                <span>{{ column.name }}</span><span class="quiet"
                  >{{
                    builtMarks.get(column.id)?.find((mark: MarkedKey) => mark.style !== 'own')
                      ? `> ${builtMarks.get(column.id)?.[0]?.table} `
                      : ''
                  }}{{ typeText(column.type, store.design?.enums) }}</span
                ><span class="quiet">{{
                  built?.primaryKey?.columns.includes(column.id)
                    ? `key ${built.primaryKey.columns.indexOf(column.id) + 1}`
                    : ''
                }}</span>
              </div>
              <OwnColumns
                :lines="own"
                :may-be-key="keyed === 'pair'"
                :from="resolve ? table.name : undefined"
                @change="own = $event"
                @build="build" />
            </div>
          </div>
          <div v-if="isSelf && isOneColumn" class="f">
            <span>pairs</span>
            <div class="pick boxed" role="radiogroup" aria-label="What a pair may be">
              <label v-for="(words, value) in APART" :key="value" :class="{ on: apart === value }"
                ><input v-model="apart" type="radio" name="apart" :value="value" />{{ words }}</label
              >
            </div>
          </div>
          <div class="f">
            <span>rules</span>
            <div>
              <p v-for="(side, index) in rulesOf" :key="index">
                Deleting {{ article(side.name) }} {{ side.name }}
                <ChoiceMenu
                  :value="onDelete[index as 0 | 1]"
                  :words="deleteWords(onDelete[index as 0 | 1], name, true).words"
                  :tone="deleteWords(onDelete[index as 0 | 1], name, true).effect"
                  :options="ruleOptions(name)"
                  :label="`What deleting ${side.name} does`"
                  @choose="setSideRule(index as 0 | 1, $event)" />.
                <span class="term">{{ onDelete[index as 0 | 1] }}</span>
              </p>
            </div>
          </div>
        </template>
        <template v-else-if="child && parent">
          <div class="f">
            <span>columns</span>
            <div>
              <div v-for="column in newColumns" :key="column.id" class="mini mono">
                <span class="marks"
                  ><KeyMark v-for="mark in builtMarks.get(column.id) ?? []" :key="mark.key" :mark="mark"
                /></span>
                <span>{{ child.name }}.{{ column.name }}</span
                ><span class="quiet"
                  >&gt; {{ parent.name }} {{ typeText(column.type, store.design?.enums) }}</span
                ><span class="quiet">{{ column.required ? 'required' : '' }}</span>
              </div>
            </div>
          </div>
          <div class="f">
            <span>each {{ child.name }} is</span>
            <div class="pick boxed" role="radiogroup" :aria-label="`What each ${child.name} is`">
              <label :class="{ on: nature === 'listed' }"
                ><input v-model="nature" type="radio" name="nature" value="listed" />a thing by itself</label
              >
              <label :class="{ on: nature === 'part' }"
                ><input v-model="nature" type="radio" name="nature" value="part" />a part of its
                {{ parent.name }}</label
              >
            </div>
          </div>
          <div class="f">
            <span>rule</span>
            <p>
              Deleting {{ article(parent.name) }} {{ parent.name }}
              <ChoiceMenu
                :value="currentRule"
                :words="deleteWords(currentRule, child.name, true).words"
                :tone="deleteWords(currentRule, child.name, true).effect"
                :options="ruleOptions(child.name)"
                :label="`What deleting ${parent.name} does`"
                @choose="childRule = $event" />. <span class="term">{{ currentRule }}</span>
            </p>
          </div>
        </template>
        <p v-if="trouble" class="slip" role="alert">
          {{ trouble }}
          <button
            v-for="offer in offers"
            :key="offer.label"
            type="button"
            class="link"
            @click="store.submit(offer.operation)">
            {{ offer.label }}
          </button>
        </p>
      </div>
      <div class="b">
        <template v-if="preview.length > 0"
          ><h2>its rows would say</h2>
          <p v-for="(line, index) in preview" :key="index" class="example">{{ line }}</p></template
        >
        <h2>what it becomes · PostgreSQL</h2>
        <pre class="mono" tabindex="0">{{ sql }}</pre>
      </div>
      <div class="act">
        <button type="button" class="button main" :disabled="!!trouble || !operation" @click="build">
          {{ isMany ? `Make ${name.trim() || 'it'}` : 'Relate them' }} <kbd>Enter</kbd>
        </button>
        <button type="button" class="link quiet" @click="emit('close', undefined)">
          Leave it <kbd>Esc</kbd>
        </button>
        <span class="quiet away">One step: <kbd>Ctrl Z</kbd> takes it back.</span>
      </div>
    </div>
  </ElDialog>
</template>

<style scoped>
h1 {
  font-size: 19px;
  font-weight: 600;
  display: flex;
  align-items: center;
  gap: 9px;
  margin-bottom: 10px;
  flex-wrap: wrap;
}
.and {
  font-size: 14px;
  font-weight: 400;
}
.card {
  display: grid;
  grid-template-columns: 1fr 350px;
}
.a {
  padding: 18px 22px 14px;
  min-width: 0;
  min-height: 430px;
}
.b {
  background: var(--tint);
  border-left: 1px solid var(--line);
  padding: 18px 20px;
  min-width: 0;
  overflow: auto;
  /* As high as what is answered, which has the say. */
  height: 0;
  min-height: 100%;
}
.b h2 {
  font-size: 12px;
  color: var(--quiet);
  margin-bottom: 6px;
}
.example {
  margin-bottom: 4px;
}
.example + h2 {
  margin-top: 14px;
}
pre {
  margin: 0;
  font-size: 11.5px;
  line-height: 1.5;
  letter-spacing: -0.02em;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.say {
  font-size: 15px;
  margin-bottom: 6px;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0 0 5px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
  min-width: 0;
}
.pick {
  display: inline-flex;
  border: 1px solid var(--line);
  border-radius: 2px;
}
.pick.boxed {
  justify-self: start;
}
.pick label {
  padding: 1px 9px;
  font-size: 13px;
  cursor: pointer;
  color: var(--quiet);
  position: relative;
}
.pick label + label {
  border-left: 1px solid var(--line);
}
.pick label.on {
  color: var(--act);
  box-shadow: inset 0 0 0 1.5px var(--act);
  font-weight: 600;
}
.pick label.off {
  opacity: 0.5;
  cursor: default;
}
.pick input {
  position: absolute;
  opacity: 0;
}
.pick label:focus-within {
  outline: 2px solid var(--chosen);
  outline-offset: 1px;
  z-index: 1;
}
.roles {
  display: flex;
  gap: 8px;
  align-items: baseline;
  flex-wrap: wrap;
  padding-bottom: 8px;
}
.roles .field {
  width: 120px;
}
.why {
  color: var(--quiet);
  margin-bottom: 12px;
}
.later {
  margin-top: -8px;
  font-size: 12px;
}
.f {
  display: grid;
  grid-template-columns: 84px 1fr;
  gap: 3px 12px;
  padding: 9px 0;
  border-top: 1px solid var(--hair);
}
.f > :first-child {
  color: var(--quiet);
}
.names {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.names .field {
  flex: 1 1 180px;
}
.mini {
  display: grid;
  grid-template-columns: 40px minmax(0, 1fr) minmax(0, 1fr) 118px;
  gap: 0 8px;
  padding: 2px 0;
  align-items: center;
}
.mini > span {
  letter-spacing: -0.03em;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.marks {
  display: flex;
  gap: 3px;
}
.term {
  font: 11px var(--mono);
  color: var(--quiet);
}
.slip {
  color: var(--deleted);
  padding-top: 6px;
}
.act {
  grid-column: 1 / 3;
  border-top: 1px solid var(--line);
  padding: 11px 22px;
  display: flex;
  gap: 16px;
  align-items: center;
}
.away {
  margin-left: auto;
}
.link.quiet {
  color: var(--quiet);
}
</style>
