<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, reactive, ref, shallowRef, watch } from 'vue'
import type { Column, Table } from '../../core/design/model.ts'
import { typeText } from '../../core/design/type.ts'
import { apply } from '../../core/edit/apply.ts'
import type { MarkedKey } from '../../core/diagram/mark.ts'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'
import type { Finding } from '../../core/check/finding.ts'
import { takenApart } from '../../core/typing/block.ts'
import { isUnbegun } from '../frame/shortcuts.ts'
import FindingLine from './FindingLine.vue'
import {
  addLine,
  CELLS,
  changeCell,
  EMPTY_LINE,
  lineOf,
  type Confirmation,
  type Cell,
  type LineText,
  type Slip,
  type Taken
} from '../../core/typing/edits.ts'
import TypeField from './TypeField.vue'

/** One line of a sheet: a column, or, without one, a line that is being written. */
const props = defineProps<{
  /**
   * The table that the line stands in; asked for, and not handed over, so that a line is drawn anew when
   * it changes itself and not with every other.
   */
  of: () => Table
  /** How many columns the primary key has. */
  keyWidth: number
  column?: Column | undefined
  at: number
  marks: readonly MarkedKey[]
  keyPlace: number
  selected: boolean
  unique: boolean
  current: boolean
  rowId: string
  findings?: readonly Finding[]
  /** What a line begins with that was typed elsewhere and could not be taken yet. */
  typed?: LineText | undefined
}>()
const emit = defineEmits<{
  leave: [where: 'below' | 'above' | 'line' | 'newBelow']
  added: []
  /** It goes out of sight with something in it that is no column yet. */
  unfinished: [text: LineText]
  /** The keyboard came to it, or to a cell of it. */
  reached: []
  key: [event: KeyboardEvent]
  pick: [event: MouseEvent]
  /** Taken hold of by its mark. */
  hold: [event: PointerEvent]
}>()
const store = useDesign()
const table = computed(() => props.of())

const text = reactive<LineText>({ ...EMPTY_LINE })
const slip = ref<Slip>()
const line = ref<HTMLElement>()
const typeField = ref<InstanceType<typeof TypeField>>()
let adding = false
/** What was typed when the person was told what else it changes. */
const asked = ref('')
const question = shallowRef<Confirmation>()
/** The question stands as long as what it was asked of does. */
const asking = computed(() => asked.value !== '' && asked.value === text.type)

/** True where what else would be done must be said first; the same again, or the button, does it. */
function asks(taken: Extract<Taken, { ok: true }>, typed: string): boolean {
  if (taken.ask === undefined || asked.value === typed) return false
  asked.value = typed
  question.value = taken.ask
  return true
}

/** What stood in the cells when they were last the design's own, or as they were pasted. */
const taken = shallowRef<LineText>({ ...EMPTY_LINE })
const asDesigned = (): LineText =>
  props.column && store.design
    ? lineOf(store.design, table.value, props.column)
    : { ...EMPTY_LINE, ...props.typed }

function reset(): void {
  taken.value = asDesigned()
  Object.assign(text, taken.value)
  slip.value = undefined
  asked.value = ''
}

/** Follows the design, here or from another tab, except in a cell where something is being typed. */
function follow(): void {
  const fresh = asDesigned()
  if (CELLS.every((cell) => fresh[cell] === taken.value[cell])) return
  const untouched = CELLS.filter((cell) => text[cell] === taken.value[cell])
  Object.assign(text, Object.fromEntries(untouched.map((cell) => [cell, fresh[cell]])))
  taken.value = fresh
}
watch([() => props.column, table], follow, { immediate: true })
if (props.typed && store.design) {
  const tried = addLine(store.design, table.value, props.typed, props.at)
  const result = tried.ok && tried.operation ? apply(store.design, tried.operation) : undefined
  if (!tried.ok) slip.value = tried.slip
  else if (result?.ok === false) slip.value = { cell: 'name', message: result.refusal.message }
  else asks(tried, props.typed.type)
}

const type = computed(() => props.column && typeText(props.column.type, store.design?.enums))
const refers = computed(() => text.type.startsWith('>'))
const dirty = computed(
  () => props.column === undefined && (text.name.trim() !== '' || text.type.trim() !== '')
)

/** Takes over what stands in a cell. False where it cannot be, with a word beside it. */
function take(cell: Cell): boolean {
  if (!props.column || !store.design) return true
  const taken = changeCell(store.design, table.value, props.column, cell, String(text[cell]))
  if (!taken.ok) {
    slip.value = taken.slip
    asked.value = ''
    return false
  }
  slip.value = undefined
  if (asks(taken, String(text[cell]))) return false
  asked.value = ''
  const refusal = taken.operation && store.submit(taken.operation)
  if (refusal) slip.value = { cell, message: refusal.message }
  else reset()
  return !refusal
}

/** Makes a column of a line that is being written. False where it cannot be yet. */
function add(): boolean {
  if (props.column || !store.design || !dirty.value || adding) return !dirty.value
  adding = true
  Object.assign(text, takenApart({ ...text }, store.design.enums))
  const taken = addLine(store.design, table.value, { ...text }, props.at)
  const waits = taken.ok && asks(taken, text.type)
  const refusal = taken.ok && taken.operation && !waits ? store.submit(taken.operation) : undefined
  adding = false
  if (!taken.ok) slip.value = taken.slip
  else if (waits) slip.value = undefined
  else if (refusal) slip.value = { cell: 'name', message: refusal.message }
  else {
    reset()
    emit('added')
    return true
  }
  focusCell(slip.value?.cell ?? (waits ? 'type' : 'name'))
  return false
}

function finish(cell: Cell): boolean {
  return props.column ? take(cell) : add()
}

function toggle(): void {
  text.required = !text.required
  if (props.column) take('required')
}

function focusCell(cell: Cell): void {
  void nextTick(() => {
    const field = line.value?.querySelector<HTMLElement>(`[data-cell=${cell}]`)
    field?.focus()
    if (field instanceof HTMLInputElement) field.select()
  })
}

function cellKey(event: KeyboardEvent, cell: Cell): void {
  if (event.ctrlKey || event.metaKey || event.altKey) return
  const stop = (): void => {
    event.preventDefault()
    event.stopPropagation()
  }
  if (event.key === 'Tab') {
    if (cell === 'type') typeField.value?.complete()
    const next = CELLS[CELLS.indexOf(cell) + (event.shiftKey ? -1 : 1)]
    if (props.column && !take(cell)) return stop()
    if (!next) {
      if (!props.column && !event.shiftKey && dirty.value) {
        stop()
        if (add()) emit('leave', 'newBelow')
      }
      return
    }
    stop()
    focusCell(next)
  } else if (event.key === 'Enter') {
    stop()
    if (cell === 'type') typeField.value?.complete()
    if (!props.column && !dirty.value) emit('leave', 'line')
    else if (finish(cell)) emit('leave', 'newBelow')
  } else if (event.key === 'Escape') {
    stop()
    reset()
    store.notice = undefined
    emit('leave', 'line')
  } else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
    stop()
    if (finish(cell) || !dirty.value) emit('leave', event.key === 'ArrowDown' ? 'below' : 'above')
  } else if (event.key !== '/' || !isUnbegun(event)) event.stopPropagation()
}

function lineKey(event: KeyboardEvent): void {
  if (event.target !== line.value) return
  const plain = !event.ctrlKey && !event.metaKey && !event.altKey
  if (plain && (event.key === 'Enter' || event.key === 'F2')) {
    event.preventDefault()
    focusCell('name')
  } else emit('key', event)
}

/** A line that is being written is taken over when one goes elsewhere. */
function left(event: FocusEvent): void {
  if (
    !line.value?.contains(event.relatedTarget as Node | null) &&
    dirty.value &&
    !slip.value &&
    !asking.value
  )
    add()
}

onBeforeUnmount(() => {
  if (dirty.value) emit('unfinished', { ...text })
})

defineExpose({ focusLine: () => line.value?.focus(), focusCell, row: () => props.rowId })
</script>

<template>
  <div
    ref="line"
    role="row"
    class="line"
    :class="{ selected, refers, writing: !column, gap: keyPlace < 0 }"
    :tabindex="current ? 0 : -1"
    :aria-label="
      column
        ? `${column.name}, ${text.type}${column.required ? ', required' : ''}${keyPlace >= 0 ? ', in the key' : ''}`
        : typed
          ? `${text.name}, waits to be a column`
          : 'new column'
    "
    :aria-selected="selected"
    :data-column="column?.id"
    @keydown="lineKey"
    @focusin="emit('reached')"
    @focusout="left">
    <span
      class="marks"
      role="gridcell"
      :title="column ? 'Click to choose the line, with Shift or Ctrl several; drag to move it' : undefined"
      @pointerdown="column && emit('hold', $event)"
      @click="emit('pick', $event)">
      <KeyMark v-for="mark in marks" :key="mark.key" :mark="mark" />
      <span v-if="keyPlace >= 0 && keyWidth > 1" class="place" :title="`Column ${keyPlace + 1} of the key`">{{
        keyPlace + 1
      }}</span>
    </span>
    <span role="gridcell"
      ><input
        v-model="text.name"
        class="cell"
        data-cell="name"
        :data-new="column ? undefined : ''"
        :data-taken="taken.name"
        tabindex="-1"
        :aria-label="column ? `Name of ${column.name}` : 'Name of the new column'"
        :placeholder="column ? '' : 'new column…'"
        spellcheck="false"
        autocomplete="off"
        @keydown="cellKey($event, 'name')"
        @change="take('name')"
    /></span>
    <span role="gridcell" class="type">
      <TypeField
        ref="typeField"
        v-model="text.type"
        :taken="taken.type"
        :label="column ? `Type of ${column.name}` : 'Type of the new column'"
        :placeholder="column ? '' : 'type, or > table'"
        @keydown="cellKey($event, 'type')"
        @change="asking || take('type')"
        @commit="take('type')" />
      <span v-if="refers && column" class="of mono">{{ type }}</span>
    </span>
    <span role="gridcell"
      ><button
        type="button"
        class="cell toggle"
        data-cell="required"
        tabindex="-1"
        :aria-pressed="text.required"
        :aria-label="`${column?.name ?? ''} required${text.required ? ': yes' : ''}`"
        @click="toggle"
        @keydown="cellKey($event, 'required')"
        @keydown.space.prevent
        @keyup.space.prevent="toggle">
        {{ text.required ? 'yes' : '' }}&nbsp;
      </button></span
    >
    <span role="gridcell"
      ><input
        v-model="text.default"
        class="cell"
        data-cell="default"
        tabindex="-1"
        :title="text.default.length > 12 ? text.default : undefined"
        :data-taken="taken.default"
        :aria-label="column ? `Default of ${column.name}` : 'Default of the new column'"
        spellcheck="false"
        autocomplete="off"
        @keydown="cellKey($event, 'default')"
        @change="take('default')"
    /></span>
    <span role="gridcell"
      ><input
        v-model="text.note"
        class="cell plain"
        data-cell="note"
        tabindex="-1"
        :title="text.note"
        :data-taken="taken.note"
        :aria-label="column ? `Note on ${column.name}` : 'Note on the new column'"
        autocomplete="off"
        @keydown="cellKey($event, 'note')"
        @change="take('note')" /><span
        v-if="unique && !text.note"
        class="unique small"
        title="Its values are unique"
        >unique</span
      ></span
    >
    <p v-if="slip" class="slip" role="alert">{{ slip.message }}</p>
    <span v-else-if="asking" role="gridcell" class="asks"
      ><span role="status">{{ question?.says }}</span>
      {{ ' ' }}
      <button type="button" class="link" tabindex="-1" @click="finish('type')">{{ question?.does }}</button>
      {{ ' ' }}
      <kbd>Enter</kbd> <button type="button" class="link" tabindex="-1" @click="reset">Leave it</button>
      {{ ' ' }}
      <kbd>Esc</kbd></span
    >
    <div v-if="findings && findings.length > 0" role="gridcell" class="findings">
      <FindingLine v-for="(finding, n) in findings" :key="n" :finding="finding" />
    </div>
  </div>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: var(--sheet-columns);
  column-gap: 8px;
  align-items: center;
  min-height: 28px;
  padding: 0 14px;
  border-top: 1px solid var(--hair);
  scroll-margin: 60px;
}
.line > span {
  min-width: 0;
  position: relative;
}
.line:focus {
  outline: none;
  background: var(--chosen-tint);
  box-shadow: inset 2px 0 0 var(--chosen);
}
.line:focus-within {
  background: var(--chosen-tint);
}
.line.selected {
  background: var(--chosen-tint);
  box-shadow: inset 2px 0 0 var(--chosen);
}
.marks {
  display: flex;
  gap: 3px;
  align-items: center;
  cursor: pointer;
  align-self: stretch;
}
.place {
  font-size: 11px;
  color: var(--quiet);
}
.cell {
  width: 100%;
  border: 0;
  background: none;
  padding: 3px 0;
  font: 12.5px var(--mono);
  outline: none;
  text-overflow: ellipsis;
}
.cell.plain {
  font: 12.5px var(--sans);
  color: var(--quiet);
}
/* What is written there is seen whole while it is. */
.cell.plain:focus {
  position: absolute;
  right: 0;
  top: 50%;
  transform: translateY(-50%);
  padding-left: 8px;
  field-sizing: content;
  width: auto;
  min-width: 100%;
  max-width: 420px;
  background: var(--chosen-tint);
}
.cell::placeholder {
  color: var(--quiet);
  opacity: 0.85;
}
.cell:focus,
.line :deep(.cell:focus) {
  box-shadow: inset 0 -1.5px 0 var(--chosen);
}
.toggle {
  text-align: left;
  cursor: pointer;
  font: 13px var(--sans);
  color: var(--quiet);
}
.toggle[aria-pressed='true'] {
  color: var(--ink);
}
.type {
  color: var(--quiet);
  display: flex;
  align-items: center;
}
.type > :first-child {
  flex: 1;
}
.line.refers .type {
  color: var(--ink);
}
/* Which table it is comes before what type its key is of. */
.line.refers .type > :first-child {
  flex: 1 0 auto;
  max-width: 100%;
}
.line.refers .type :deep(.cell) {
  field-sizing: content;
  width: auto;
  min-width: 100%;
  max-width: 100%;
}
.of {
  color: var(--quiet);
  white-space: nowrap;
  letter-spacing: -0.02em;
  padding-left: 6px;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
}
.line:has(input:focus) .of {
  display: none;
}
.unique {
  position: absolute;
  right: 0;
  top: 4px;
  color: var(--quiet);
  pointer-events: none;
}
.line:has(input:focus) .unique {
  display: none;
}
/* Behind the marks, so that what was found stands under the name that it is about. */
.findings {
  grid-column: 2 / -1;
}
.asks {
  grid-column: 2 / -1;
  font-size: 12px;
  padding: 0 0 5px;
}
.asks .link {
  margin-left: 4px;
}
.slip {
  grid-column: 2 / -1;
  color: var(--deleted);
  padding: 0 0 5px;
  font-size: 12px;
}
</style>
