<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import type { Table } from '../../core/design/model.ts'
import { constraintNames } from '../../core/naming/names.ts'
import { columnsIn } from '../../core/design/directory.ts'
import { columnsUsed } from '../../core/design/expressions.ts'
import DraftField from '../parts/DraftField.vue'
import { useDesign } from '../stores/design.ts'
import {
  readRule,
  ruleOperation,
  ruleRemoval,
  ruleText,
  type RuleKind,
  type RuleOf
} from '../../core/typing/rules.ts'

/** A check, an index or a row policy as a line of text; without a rule, one that is being written. */
const props = defineProps<{
  table: Table
  kind: RuleKind
  rule?: RuleOf[RuleKind] | undefined
  begin?: string
}>()
const emit = defineEmits<{ done: [] }>()
const store = useDesign()

const WORDS = { check: 'check', index: 'index', rowPolicy: 'row policy' }
const EXAMPLE = {
  check: 'weight_g > 0',
  index: 'found_on desc where found_at is not null',
  rowPolicy: "own_ward for select to ward_staff: ward_code = 'ICU'"
}

const said = computed(() => (props.rule ? ruleText(props.kind, props.table, props.rule as never) : ''))
const text = ref(props.rule ? said.value : (props.begin ?? ''))
const slip = ref('')
const field = ref<HTMLInputElement>()
watch(said, (now, before) => {
  if (text.value === before) text.value = now
})
onMounted(() => {
  if (props.rule) return
  field.value?.focus()
  field.value?.setSelectionRange(text.value.length, text.value.length)
})

/** A line that was written is there as another by the time that this one is left. */
let finished = false

/** Takes the line over. False where it cannot be yet, with a word beside it. */
function take(): boolean {
  const typed = text.value.trim()
  if (!store.design || finished || typed === said.value) return true
  if (typed === '') return props.rule ? remove() : true
  const read = readRule(props.kind, store.design, props.table, typed, props.rule as never)
  if (!read.ok) {
    slip.value = read.message
    return false
  }
  const refusal = store.submit(
    ruleOperation(props.kind, props.rule ? 'change' : 'add', props.table.id, read.value)
  )
  slip.value = refusal?.message ?? ''
  finished = !refusal && !props.rule
  return !refusal
}

function remove(): boolean {
  return (
    props.rule !== undefined &&
    store.submit(ruleRemoval(props.kind, props.table.id, props.rule.id)) === undefined
  )
}

function enter(): void {
  if (take()) emit('done')
}

function left(): void {
  if (props.rule) take()
  else if (text.value.trim() === '' || text.value === props.begin || take()) emit('done')
}

function back(): void {
  text.value = said.value
  slip.value = ''
  emit('done')
}

/** What it is called where nobody named it. */
const policyName = computed(() => {
  if (!store.design || props.kind === 'rowPolicy' || !props.rule) return ''
  const ids =
    'condition' in props.rule
      ? columnsUsed(props.rule.condition)
      : props.rule.columns.map(({ column }) => column)
  const names = constraintNames(store.design.policy)
  const columns = columnsIn(props.table, ids).map((column) => column.name)
  return 'condition' in props.rule
    ? names.check(props.table.name, columns)
    : props.rule.unique
      ? names.unique(props.table.name, columns)
      : names.index(props.table.name, columns)
})
const ownName = computed(() => (props.rule && props.kind !== 'rowPolicy' ? (props.rule.name ?? '') : ''))
function rename(name: string): void {
  if (props.rule && name.trim() !== ownName.value)
    store.submit({
      kind: 'constraint.rename',
      table: props.table.id,
      constraint: props.rule.id,
      name: name.trim() === '' ? null : name.trim()
    })
}
</script>

<template>
  <div class="rule">
    <span class="kind">{{ WORDS[kind] }}</span>
    <input
      ref="field"
      v-model="text"
      class="words"
      :data-taken="said"
      :aria-label="rule ? `${WORDS[kind]} of ${table.name}` : `New ${WORDS[kind]} of ${table.name}`"
      :placeholder="EXAMPLE[kind]"
      spellcheck="false"
      autocomplete="off"
      @keydown.enter.prevent.stop="enter"
      @keydown.esc.prevent.stop="back"
      @keydown.stop
      @change="rule && take()"
      @blur="left" />
    <template v-if="rule">
      <DraftField
        v-if="kind !== 'rowPolicy'"
        class="named"
        :value="ownName"
        :placeholder="policyName"
        :aria-label="`Name of the ${WORDS[kind]} ${said}`"
        spellcheck="false"
        @take="rename"
        @entered="emit('done')"
        @keydown.stop />
      <span v-else />
      <button
        type="button"
        class="link small"
        :aria-label="`remove the ${WORDS[kind]} ${said}`"
        @click="remove">
        remove
      </button>
    </template>
    <p v-if="slip" class="slip" role="alert">{{ slip }}</p>
  </div>
</template>

<style scoped>
.rule {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) minmax(0, auto) auto;
  column-gap: 8px;
  align-items: baseline;
}
.kind {
  color: var(--quiet);
}
.words,
.named {
  border: 0;
  background: none;
  padding: 1px 0;
  font: 12.5px var(--mono);
  color: var(--ink);
  min-width: 0;
  text-overflow: ellipsis;
}
.named {
  color: var(--quiet);
  font-size: 12px;
  text-align: right;
  field-sizing: content;
  max-width: 240px;
}
.named::placeholder {
  color: var(--quiet);
  opacity: 1;
}
.words::placeholder {
  color: var(--quiet);
  opacity: 0.85;
}
.words:focus,
.named:focus {
  outline: none;
  box-shadow: inset 0 -1.5px 0 var(--chosen);
}
.slip {
  grid-column: 2 / -1;
  color: var(--deleted);
  font-size: 12px;
}
</style>
