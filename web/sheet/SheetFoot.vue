<script setup lang="ts">
import { computed, ref } from 'vue'
import { showExpression } from '../../core/design/expressions.ts'
import { columnsIn } from '../../core/design/directory.ts'
import {
  ROW_SECURITY,
  rowSecurityOf,
  type Column,
  type Design,
  type RowSecurity,
  type Table
} from '../../core/design/model.ts'
import type { Parsed } from '../../core/design/type.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { isJunction } from '../../core/relate/junction.ts'
import { labelText, proposeLabel, readLabel, rowLabel } from '../../core/relate/label.ts'
import { generatedInstead, switchKey } from '../../core/restructure/another-key.ts'
import { plainName } from '../../core/sql/print.ts'
import ChoiceMenu, { type Option } from '../parts/ChoiceMenu.vue'
import DraftField from '../parts/DraftField.vue'
import { useDesign } from '../stores/design.ts'
import KeptLine from './KeptLine.vue'
import RuleLine from './RuleLine.vue'
import type { RuleKind } from '../../core/typing/rules.ts'

/**
 * Under the lines: the order of the key, unique keys, checks, indexes and row policies, and what can be
 * done.
 */
const props = defineProps<{
  table: Table
  /** How many lines a command is for. */
  chosen: number
  ledger?: boolean
}>()
const emit = defineEmits<{
  newLine: []
  key: []
  unique: []
  index: []
  rule: [kind: RuleKind]
  remove: []
  duplicate: []
  duplicateTable: []
  relate: []
  removeTable: []
  back: []
}>()
const store = useDesign()

/** What a row is called by, where its designer has said so. */
const label = computed(() => (props.table.label ? labelText(props.table, props.table.label) : ''))
const exampleRow = computed(() => {
  const [row] = props.table.rows
  return row && store.design ? rowLabel(store.design, props.table, row) : ''
})
function call(typed: string): void {
  const read = readLabel(props.table, typed)
  if (!read.ok) return void store.say(read.message)
  store.submit({ kind: 'table.setLabel', table: props.table.id, label: read.value })
}

const key = computed(() => props.table.primaryKey?.columns ?? [])
const names = (ids: readonly string[]): string =>
  columnsIn(props.table, ids)
    .map((column) => column.name)
    .join(', ')

/** The rule that is being written, and what it begins with. */
const writing = ref<{ kind: RuleKind; begin: string }>()
/** Whether a row policy has been thought of here, and with it whether rows are held to any. */
const isSecurityAsked = ref(false)
function write(kind: RuleKind, column?: Column): void {
  writing.value = { kind, begin: column ? `${plainName(column.name)} ` : '' }
  isSecurityAsked.value ||= kind === 'rowPolicy'
}
function written(): void {
  writing.value = undefined
  emit('back')
}

/** Moves a column of the key one place to the front. */
function earlier(at: number): void {
  const { primaryKey } = props.table
  if (!primaryKey || at === 0) return
  const order = [...primaryKey.columns]
  order.splice(at - 1, 2, order[at] as string, order[at - 1] as string)
  store.submit({ kind: 'key.setPrimary', table: props.table.id, key: { ...primaryKey, columns: order } })
}

const design = computed(() => store.design as Design)
/**
 * The table has a key that a generated number could take the place of: one of its own, not that of a pair,
 * and not that of another table.
 */
const natural = computed(
  () =>
    key.value.some(
      (id) => !props.table.foreignKeys.some((each) => each.pairs.some((pair) => pair.column === id))
    ) &&
    !isJunction(props.table) &&
    !props.table.external &&
    !props.table.columns.some((column) => column.default?.kind === 'generated')
)
/** Puts one key in another's place, with what refers to it; or says why not. */
function swap(operation: Parsed<Operation>): void {
  if (operation.ok) store.submit(operation.value)
  else store.say(operation.message)
}

const NONE = 'none'
const designSchemas = computed(() => store.design?.schemas)
const schemas = computed((): Option<string>[] => [
  { value: NONE, words: 'no schema' },
  ...(designSchemas.value ?? []).map((each) => ({ value: each.id, words: each.name }))
])
const schema = computed(() => props.table.schema ?? NONE)
/** The columns that are copied from what the table refers to, or renewed with each change. */
const kept = computed(() => props.table.columns.filter(({ copied, renewed }) => copied ?? renewed))

/** What is too long for its cell on the bench is said in full. */
const worked = computed(() =>
  props.ledger
    ? []
    : props.table.columns.flatMap(({ name, computed: by }) =>
        by === undefined ? [] : `${name} is computed: ${showExpression(by, props.table.columns)}.`
      )
)

const SECURITY: Record<RowSecurity, string> = {
  off: 'held to no row policies',
  on: 'held to their row policies, but for the owner of the table',
  forced: 'held to their row policies, for the owner of the table as well'
}
const TERMS: Record<RowSecurity, string> = { off: 'off', on: 'ROW LEVEL SECURITY', forced: 'FORCE' }
const securities = ROW_SECURITY.map((value) => ({ value, words: SECURITY[value], term: TERMS[value] }))
function secure(wanted: RowSecurity): void {
  // Where it follows from whether there are policies, nothing is said.
  const follows = rowSecurityOf({ ...props.table, rowSecurity: undefined }) === wanted
  store.submit({
    kind: 'table.setRowSecurity',
    table: props.table.id,
    security: follows ? null : wanted
  })
}

/** Nothing stands here but commands. */
const bare = computed(
  () =>
    props.ledger &&
    key.value.length < 2 &&
    kept.value.length +
      props.table.uniques.length +
      props.table.checks.length +
      props.table.indexes.length +
      props.table.rowPolicies.length +
      (props.table.rowSecurity ? 1 : 0) ===
      0
)

defineExpose({ write })
</script>

<template>
  <div class="foot" :class="{ bare }">
    <p v-if="key.length > 1">
      key, in this order:
      <template v-for="(column, at) in columnsIn(table, key)" :key="column.id"
        ><span class="mono">{{ column.name }}</span
        ><button
          v-if="at > 0"
          type="button"
          class="link small"
          :aria-label="`earlier in the key: ${column.name}`"
          @click="earlier(at)">
          earlier</button
        ><span v-if="at < key.length - 1">, </span></template
      >
    </p>
    <p v-for="unique in table.uniques" :key="unique.id">
      unique: <span class="mono">{{ names(unique.columns) }}</span>
      {{ ' ' }}
      <button
        type="button"
        class="link small"
        :aria-label="`no longer unique: ${names(unique.columns)}`"
        @click="store.submit({ kind: 'unique.remove', table: table.id, key: unique.id })">
        no longer unique
      </button>
      {{ ' ' }}
      <button
        v-if="table.primaryKey"
        type="button"
        class="link small"
        :aria-label="`make it the primary key: ${names(unique.columns)}`"
        @click="swap(switchKey(design, table, unique))">
        make it the primary key
      </button>
    </p>
    <KeptLine v-for="column in kept" :key="column.id" :table="table" :column="column" />
    <p v-for="words in worked" :key="words">{{ words }}</p>
    <RuleLine
      v-for="check in table.checks"
      :key="check.id"
      :table="table"
      kind="check"
      :rule="check"
      @done="emit('back')" />
    <RuleLine
      v-for="index in table.indexes"
      :key="index.id"
      :table="table"
      kind="index"
      :rule="index"
      @done="emit('back')" />
    <RuleLine
      v-for="policy in table.rowPolicies"
      :key="policy.id"
      :table="table"
      kind="rowPolicy"
      :rule="policy"
      @done="emit('back')" />
    <p v-if="table.rowPolicies.length > 0 || table.rowSecurity || isSecurityAsked">
      rows are
      <ChoiceMenu
        :value="rowSecurityOf(table)"
        :words="SECURITY[rowSecurityOf(table)]"
        :options="securities"
        :label="`Whether rows of ${table.name} are held to row policies`"
        @choose="secure($event)" />
    </p>
    <RuleLine
      v-if="writing"
      :key="`new ${writing.kind}`"
      :table="table"
      :kind="writing.kind"
      :begin="writing.begin"
      @done="written" />
    <p class="called" :class="{ quietly: ledger }">
      <span>a row is called by</span>
      <DraftField
        class="label mono"
        :value="label"
        :aria-label="`Columns that a row of ${table.name} is called by`"
        :placeholder="labelText(table, proposeLabel(table))"
        spellcheck="false"
        @take="call"
        @entered="emit('back')"
        @escaped="emit('back')" />
      <span v-if="exampleRow" class="example">“{{ exampleRow }}”</span>
    </p>
    <p class="commands" :class="{ quietly: ledger }">
      <!-- What is being typed is taken when the click is done: taken before, it would move the button away from it. -->
      <button type="button" class="link" @mousedown.prevent @click="emit('newLine')">
        new line <kbd>N</kbd>
      </button>
      <button
        type="button"
        class="link"
        :disabled="chosen === 0 && table.primaryKey !== undefined"
        @click="emit('key')">
        key <kbd>K</kbd>
      </button>
      <button type="button" class="link" :disabled="chosen === 0" @click="emit('unique')">
        unique <kbd>U</kbd>
      </button>
      <button type="button" class="link" :disabled="chosen === 0" @click="emit('index')">
        index <kbd>I</kbd>
      </button>
      <button type="button" class="link" @click="emit('rule', 'check')">check <kbd>C</kbd></button>
      <button type="button" class="link" :disabled="chosen === 0" @click="emit('duplicate')">
        duplicate <kbd>D</kbd>
      </button>
      <button type="button" class="link" :disabled="chosen === 0" @click="emit('remove')">
        remove <kbd>Del</kbd>
      </button>
    </p>
    <p class="commands table" :class="{ quietly: ledger }">
      <button type="button" class="link" @click="emit('relate')">relate <kbd>R</kbd></button>
      <span v-if="schemas.length > 1 || table.schema"
        >in
        <ChoiceMenu
          :value="schema"
          :words="schemas.find((each) => each.value === schema)?.words ?? ''"
          :options="schemas"
          :label="`The schema of ${table.name}`"
          @choose="
            store.submit({
              kind: 'table.setSchema',
              table: table.id,
              schema: $event === NONE ? null : $event
            })
          "
      /></span>
      <button v-if="natural" type="button" class="link away" @click="swap(generatedInstead(design, table))">
        generated key instead
      </button>
      <button
        type="button"
        class="link away"
        title="Which of its rows a role may see or change"
        @click="emit('rule', 'rowPolicy')">
        row access
      </button>
      <button
        type="button"
        class="link away"
        title="A table of another system is referred to, and never made or changed"
        @click="store.submit({ kind: 'table.setExternal', table: table.id, external: !table.external })">
        {{ table.external ? 'owned by this design' : 'owned elsewhere' }}
      </button>
      <button type="button" class="link away" @click="emit('duplicateTable')">duplicate table</button>
      <button type="button" class="link away gone" @click="emit('removeTable')">remove this table</button>
    </p>
  </div>
</template>

<style scoped>
.foot {
  border-top: 1px solid var(--line);
  padding: 7px 14px 8px;
  color: var(--quiet);
  display: flex;
  flex-direction: column;
  gap: 3px;
}
.foot p {
  overflow-wrap: anywhere;
  min-width: 0;
}
.foot p > .small {
  margin-left: 6px;
}
.called {
  display: flex;
  gap: 7px;
  align-items: baseline;
  flex-wrap: wrap;
}
.label {
  border: 0;
  border-bottom: 1px dotted var(--line);
  background: none;
  padding: 0;
  font-size: 12.5px;
  color: var(--ink);
  field-sizing: content;
  min-width: 60px;
  max-width: 100%;
}
.label::placeholder {
  color: var(--quiet);
}
.example {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  max-width: 260px;
}
.commands {
  display: flex;
  flex-wrap: wrap;
  gap: 3px 11px;
}
.commands .link {
  border-bottom: 0;
}
/* In the ledger the commands stand only under the table that is being written. */
.quietly {
  display: none;
}
.sheet:focus-within .quietly {
  display: flex;
}
.sheet:not(:focus-within) .bare {
  display: none;
}
.away {
  color: var(--quiet);
}
.gone:hover {
  color: var(--deleted);
}
</style>
