<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import type { Finding } from '../../core/check/finding.ts'
import { openFindingsOn } from '../../core/check/open.ts'
import { columnOf, isInPrimaryKey } from '../../core/design/directory.ts'
import type { Column, Table } from '../../core/design/model.ts'
import type { Offer } from '../../core/edit/refusal.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { columnMarks, sameMark, tableMarks, type MarkedKey } from '../../core/diagram/mark.ts'
import { isJunction } from '../../core/relate/junction.ts'
import { renameTable } from '../../core/relate/propose.ts'
import DraftField from '../parts/DraftField.vue'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'
import { useUnfinished } from '../stores/unfinished.ts'
import { isBlock, linesOf, pasteLines } from '../../core/typing/block.ts'
import {
  bestKey,
  indexOfThem,
  keyOfThem,
  moveThem,
  moveThemTo,
  removeThem,
  requireThem,
  uniqueOfThem,
  type SheetStep
} from '../../core/typing/commands.ts'
import { duplicateColumns, duplicateTable } from '../../core/typing/duplicate.ts'
import { benchWidths } from './benchWidths.ts'
import FindingLine from './FindingLine.vue'
import SheetFoot from './SheetFoot.vue'
import SheetLine from './SheetLine.vue'
import type { RuleKind } from '../../core/typing/rules.ts'
import { sameList, sameLists } from './same.ts'
import { useLineDrag } from './useLineDrag.ts'
import { useLines } from './useLines.ts'

/** A table as a full writing sheet: its name, its columns as lines, its keys and rules. */
const props = defineProps<{ table: Table; ledger?: boolean }>()
const emit = defineEmits<{
  walk: [to: 'left' | 'right' | 'back']
  relate: []
  removed: []
  jump: [table: string]
  out: [to: 'up' | 'down']
  fold: [all: boolean]
  sql: []
}>()
const store = useDesign()

const ofTableHere = (): Table => props.table
const views = ref<InstanceType<typeof SheetLine>[]>([])
const {
  rows,
  current,
  selected,
  chosen,
  focusLine,
  write,
  below,
  cellLeft,
  added,
  pick,
  step,
  wait,
  pastesAt,
  dismiss,
  waitingCount,
  dismissAll,
  unfinished
} = useLines(
  ofTableHere,
  views,
  useUnfinished().linesOf(() => props.table.id)
)
const nameField = ref<InstanceType<typeof DraftField>>()
const foot = ref<InstanceType<typeof SheetFoot>>()

const schema = computed(() => store.design?.schemas.find((each) => each.id === props.table.schema)?.name)
const NO_MARKS: readonly MarkedKey[] = []
const marks = computed((before?: ReadonlyMap<string, readonly MarkedKey[]>) =>
  sameLists(
    before,
    store.design ? columnMarks(store.design, props.table) : new Map<string, MarkedKey[]>(),
    sameMark
  )
)
const head = computed((before?: readonly MarkedKey[]) =>
  sameList(before, store.design ? tableMarks(store.design, props.table) : [], sameMark)
)
const columns = computed(() => props.table.columns)
const key = computed(() => props.table.primaryKey?.columns ?? [])
const NOTHING: readonly Finding[] = []
const findings = computed(() => (store.design ? openFindingsOn(store.design, props.table.id) : NOTHING))
const ofTable = computed(() =>
  findings.value.filter((finding) => !finding.column || !columnOf(props.table, finding.column))
)
/** What was found at each column. */
const byColumn = computed((before?: ReadonlyMap<string, readonly Finding[]>) => {
  const found = new Map<string, Finding[]>()
  for (const finding of findings.value)
    if (finding.column) found.set(finding.column, [...(found.get(finding.column) ?? []), finding])
  return sameLists(before, found, (one, other) => one === other)
})
const ofColumn = (column: Column | undefined): readonly Finding[] =>
  (column && byColumn.value.get(column.id)) ?? NOTHING

function submit(operation: Operation, label?: string, instead?: Offer[]): boolean {
  return store.submit(operation, label, instead) === undefined
}

/** Carries a command on the chosen lines out. False where there was nothing to do, or it is refused. */
function run(command: SheetStep | undefined): boolean {
  return command !== undefined && submit(command.operation, command.label, command.instead)
}

/** Carries it out on what is selected, which is not selected after. */
function runOnSelected(command: SheetStep | undefined): void {
  if (command === undefined) return
  run(command)
  selected.value = []
}

/**
 * The chosen lines become the key, or stop being it; a table without a key and with nothing selected gets
 * the best there is.
 */
function makeKey(): void {
  if (!props.table.primaryKey && selected.value.length === 0 && store.design)
    run(bestKey(props.table, store.design.policy))
  else if (store.design) runOnSelected(keyOfThem(store.design, props.table, chosen.value))
}

const makeUnique = (): void => runOnSelected(uniqueOfThem(props.table, chosen.value))
const makeIndex = (): void => runOnSelected(indexOfThem(props.table, chosen.value))

function writeRule(kind: RuleKind): void {
  const [first] = chosen.value
  foot.value?.write(kind, kind === 'check' ? first : undefined)
}

function removeLines(): void {
  if (dismiss() || !run(removeThem(props.table, chosen.value))) return
  selected.value = []
  void focusLine(Math.min(current.value, columns.value.length - 1))
}

function removeTable(): void {
  if (submit({ kind: 'table.remove', table: props.table.id })) emit('removed')
}

async function duplicateLines(): Promise<void> {
  if (chosen.value.length === 0) return
  const last = Math.max(...chosen.value.map((column) => columns.value.indexOf(column)))
  if (!run(duplicateColumns(props.table, chosen.value, last + 1))) return
  selected.value = []
  await nextTick()
  await focusLine(last + 1)
}

function copyTable(): void {
  if (!store.design) return
  const operation = duplicateTable(store.design, props.table)
  if (submit(operation, `duplicate ${props.table.name}`)) emit('jump', operation.table.id)
}

/** Lines as they are seen, to know over which one the pointer is. */
const grid = ref<HTMLElement>()
const drag = useLineDrag(
  () => [...(grid.value?.querySelectorAll<HTMLElement>('.line[data-column]') ?? [])],
  (from, place) => {
    const column = rows.value[from]?.column
    const moved =
      column && selected.value.includes(column.id)
        ? chosen.value
        : columns.value.filter((each) => each === column)
    if (run(moveThemTo(props.table, moved, place)) && column)
      void nextTick(() => focusLine(columns.value.findIndex(({ id }) => id === column.id)))
  }
)
const { place: dropPlace } = drag
/** The line that had the keyboard when another was taken hold of. */
const heldFrom = ref(0)
function hold(event: PointerEvent, index: number): void {
  heldFrom.value = current.value
  drag.start(event, index)
}

/** Takes what is being typed, and begins a line below all others. */
const isOfKey = (index: number): boolean => isInPrimaryKey(props.table, rows.value[index]?.id ?? '')
async function writeLast(): Promise<void> {
  if (document.activeElement instanceof HTMLElement) document.activeElement.blur()
  await nextTick()
  await write(columns.value.length)
}

function moveLines(by: -1 | 1): void {
  if (run(moveThem(props.table, chosen.value, by))) void focusLine(current.value + by)
}

/** Mends what was found at the line, else at the table, else anywhere in it. */
function mend(): void {
  const row = rows.value[current.value]
  const [finding] = [...ofColumn(row?.column), ...ofTable.value, ...findings.value].filter((each) => each.fix)
  if (finding?.fix)
    submit(finding.fix.operation, finding.fix.label.charAt(0).toLowerCase() + finding.fix.label.slice(1))
}

/** To the table that the line refers to. */
function jump(): void {
  const id = rows.value[current.value]?.column?.id
  const foreignKey = props.table.foreignKeys.find((each) => each.pairs.some((pair) => pair.column === id))
  if (foreignKey) emit('jump', foreignKey.table)
}

async function paste(event: ClipboardEvent): Promise<void> {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (!store.design || !isBlock(text)) return
  event.preventDefault()
  const at = pastesAt()
  const pasted = pasteLines(store.design, props.table, linesOf(text), at)
  if (pasted.operation && !submit(pasted.operation)) return
  wait(pasted.left)
  const waits = pasted.left.length
  store.say(
    `${pasted.count} ${pasted.count === 1 ? 'line became a column' : 'lines became columns'}${waits > 0 ? `; ${waits} ${waits === 1 ? 'waits' : 'wait'} below, with what is missing` : ''}.`
  )
  await nextTick()
  await focusLine(waits > 0 ? rows.value.length - waits : at + pasted.count - 1)
}

function lineKey(event: KeyboardEvent, index: number): void {
  const taken = (): void => {
    event.preventDefault()
    event.stopPropagation()
  }
  if (event.ctrlKey || event.metaKey) {
    if (event.key.toLowerCase() !== 'a') return
    taken()
    selected.value = columns.value.map((column) => column.id)
    return
  }
  if (event.altKey) {
    if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return
    taken()
    moveLines(event.key === 'ArrowUp' ? -1 : 1)
    return
  }
  const go = (by: -1 | 1): void => {
    if (!step(index, by, event.shiftKey)) emit('out', by < 0 ? 'up' : 'down')
  }
  const command: Record<string, () => void> = {
    ArrowDown: () => go(1),
    ArrowUp: () => go(-1),
    Home: () => void focusLine(0),
    End: () => void focusLine(rows.value.length - 1),
    ArrowLeft: () => emit('walk', 'left'),
    ArrowRight: () => emit('walk', 'right'),
    Backspace: () => emit('walk', 'back'),
    k: makeKey,
    u: makeUnique,
    i: makeIndex,
    c: () => writeRule('check'),
    r: () => emit('relate'),
    f: mend,
    g: jump,
    q: () => emit('sql'),
    z: () => emit('fold', false),
    Z: () => emit('fold', true),
    d: () => void duplicateLines(),
    D: copyTable,
    Delete: removeLines,
    Escape: () => {
      selected.value = []
      store.notice = undefined
    },
    ' ': () => void run(requireThem(props.table, chosen.value)),
    // Who stands on the key has hardly chosen a place: a new column comes behind all.
    n: () => void write(isOfKey(index) ? columns.value.length : below(index))
  }
  const does = command[event.key] ?? command[event.key.toLowerCase()]
  if (!does) return
  taken()
  does()
}

function rename(typed: string, field: HTMLInputElement): void {
  const name = typed.trim()
  const operation =
    store.design && name !== props.table.name ? renameTable(store.design, props.table, name) : undefined
  if (!operation || submit(operation)) {
    // A schema that was typed before it stands before it now.
    return void nextTick(() => nameField.value?.reset())
  }
  // The name stays as it was typed until it is right.
  void nextTick(() => {
    field.focus()
    field.select()
  })
}

function annotate(note: string): void {
  if (note.trim() !== (props.table.note ?? ''))
    submit({ kind: 'table.annotate', table: props.table.id, note: note.trim() })
}

/** A key that was pressed where nothing has the keyboard is for the line that had it last. */
async function press(event: KeyboardEvent): Promise<void> {
  await focusLine(current.value)
  lineKey(event, current.value)
}

const widths = computed(() =>
  props.ledger || !store.design ? undefined : benchWidths(store.design, props.table)
)

defineExpose({
  press,
  focusLine: (index = current.value) => focusLine(index),
  focusLast: () => focusLine(rows.value.length - 1),
  write: () => write(columns.value.length),
  focusColumn: (id: string) => focusLine(rows.value.findIndex((row) => row.column?.id === id))
})
</script>

<template>
  <section
    class="sheet"
    :class="{ junction: isJunction(table), external: table.external, ledger }"
    :aria-label="`Table ${table.name}`"
    @paste="paste">
    <div class="top">
      <div class="title">
        <KeyMark v-for="mark in head" :key="mark.key" :mark="mark" large />
        <span v-if="schema !== undefined" class="schema">{{ schema }}.</span>
        <DraftField
          ref="nameField"
          class="name"
          :value="table.name"
          :aria-label="ledger ? `Name of the table ${table.name}` : 'Name of the table'"
          spellcheck="false"
          @take="rename"
          @entered="focusLine(current)" />
        <span v-if="isJunction(table)" class="quiet small">junction table</span>
        <span v-if="table.external" class="quiet small"
          >owned by another system: referred to, never made or changed</span
        >
        <slot name="title" />
      </div>
      <DraftField
        class="note"
        :value="table.note ?? ''"
        :aria-label="ledger ? `Note on the table ${table.name}` : 'Note on the table'"
        placeholder="What one row of it is…"
        @take="annotate"
        @entered="focusLine(current)" />
      <div v-if="ofTable.length > 0" class="of-table">
        <FindingLine v-for="(finding, n) in ofTable" :key="n" :finding="finding" />
      </div>
    </div>
    <div
      ref="grid"
      role="grid"
      :aria-label="`Columns of ${table.name}`"
      aria-multiselectable="true"
      :style="widths">
      <div class="heads" role="row">
        <span role="columnheader"><span class="visually-hidden">key marks</span></span
        ><span role="columnheader">column</span><span role="columnheader">type</span
        ><span role="columnheader">required</span><span role="columnheader">default</span
        ><span role="columnheader">note</span>
      </div>
      <SheetLine
        v-for="(row, index) in rows"
        :key="row.id"
        ref="views"
        :of="ofTableHere"
        :key-width="key.length"
        :column="row.column"
        :at="row.at"
        :row-id="row.id"
        :typed="row.typed"
        :marks="row.column ? (marks.get(row.column.id) ?? NO_MARKS) : NO_MARKS"
        :key-place="row.column ? key.indexOf(row.column.id) : -1"
        :findings="ofColumn(row.column)"
        :selected="row.column !== undefined && selected.includes(row.column.id)"
        :unique="
          table.uniques.some((each) => each.columns.length === 1 && each.columns[0] === row.column?.id)
        "
        :current="index === current"
        :class="{
          'drop-above': dropPlace !== undefined && row.column && columns.indexOf(row.column) === dropPlace,
          'drop-below': dropPlace === columns.length && row.column && row.column === columns.at(-1),
          'key-end':
            row.column &&
            key.includes(row.column.id) &&
            !key.includes(columns[columns.indexOf(row.column) + 1]?.id ?? '')
        }"
        @leave="cellLeft($event, index)"
        @added="added(index)"
        @unfinished="unfinished(row, $event)"
        @key="lineKey($event, index)"
        @pick="pick($event, index, heldFrom)"
        @hold="hold($event, index)"
        @reached="current = index" />
    </div>
    <p v-if="waitingCount > 1" class="waiting">
      {{ waitingCount }} lines wait with what is missing.
      <button type="button" class="link small" @click="dismissAll">leave all of them out</button>
    </p>
    <slot name="readings" />
    <SheetFoot
      ref="foot"
      :table="table"
      :chosen="chosen.length"
      :ledger="ledger"
      @new-line="writeLast"
      @key="makeKey"
      @unique="makeUnique"
      @index="makeIndex"
      @rule="writeRule"
      @remove="removeLines"
      @duplicate="duplicateLines"
      @duplicate-table="copyTable"
      @relate="emit('relate')"
      @remove-table="removeTable"
      @back="focusLine(current)" />
  </section>
</template>

<style scoped>
.sheet {
  background: var(--sheet);
  border: 1px solid var(--ink);
  box-shadow: var(--shadow);
}
.waiting {
  padding: 6px 14px;
  color: var(--quiet);
}
.sheet.external {
  border-style: dotted;
  border-width: 1.5px;
}
.sheet.ledger {
  border-color: var(--line);
  box-shadow: none;
}
.sheet.ledger:focus-within {
  border-color: var(--ink);
}
.top {
  padding: 11px 14px 7px;
}
.title {
  display: flex;
  align-items: center;
  gap: 8px;
  min-width: 0;
}
.title .small {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.name {
  font-size: 20px;
  font-weight: 600;
  line-height: 1.2;
  border: 0;
  background: none;
  padding: 0;
  min-width: 3ch;
  flex: 0 1 auto;
  field-sizing: content;
  text-overflow: ellipsis;
}
.note {
  border: 0;
  background: none;
  padding: 2px 0 0;
  width: 100%;
  color: var(--quiet);
  text-overflow: ellipsis;
}
.schema {
  font-size: 20px;
  line-height: 1.2;
  color: var(--quiet);
  margin-right: -6px;
}
.name:focus,
.note:focus {
  outline: none;
  box-shadow: inset 0 -1.5px 0 var(--chosen);
}
.of-table {
  padding-top: 5px;
}
.heads {
  display: grid;
  grid-template-columns: var(--sheet-columns);
  column-gap: 8px;
  padding: 0 14px;
  color: var(--quiet);
  font-size: 11.5px;
  height: 21px;
}
.drop-above {
  box-shadow: inset 0 2px 0 var(--chosen);
}
.drop-below {
  box-shadow: inset 0 -2px 0 var(--chosen);
}
.key-end {
  border-bottom: 1.5px solid var(--ink);
}
.key-end + :deep(.line) {
  border-top: 0;
}
</style>
