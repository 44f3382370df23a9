<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import type { Finding } from '../../core/check/finding.ts'
import { findingsOn } from '../../core/check/index.ts'
import { columnOf, sameSet } from '../../core/design/lookup.ts'
import { newId, type Column, type Table } from '../../core/design/model.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { columnMarks, tableMarks, type Mark } from '../../core/diagram/mark.ts'
import { isJunction } from '../../core/relate/junction.ts'
import { proposeKey } from '../../core/relate/keys.ts'
import DraftField from '../parts/DraftField.vue'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'
import { isBlock, linesOf, pasteLines } from './block.ts'
import type { LineText } from './edits.ts'
import { duplicateColumns, duplicateTable } from './duplicate.ts'
import FindingLine from './FindingLine.vue'
import SheetFoot from './SheetFoot.vue'
import SheetLine from './SheetLine.vue'
import type { RuleKind } from './ruleText.ts'

/** A table as a full writing sheet: its name, its columns as lines, its keys and rules. */
const props = defineProps<{ table: Table; ledger?: boolean }>()
const emit = defineEmits<{ walk: [to: 'left' | 'right' | 'back']; relate: []; removed: []; jump: [table: string]; out: [to: 'up' | 'down']; fold: [all: boolean]; sql: [] }>()
const store = useDesign()

/** The line that the keyboard is at; as many as there are columns is the line for a new one. */
const current = ref(0)
const selected = ref<string[]>([])
/** Where a new line is being written: below everything unless Enter was pressed further up. */
const writingAt = ref<number>()
/** Lines that were pasted and cannot be taken yet, as they were typed. */
const left = ref<{ id: number; text: LineText }[]>([])
const lines = ref<InstanceType<typeof SheetLine>[]>([])
const foot = ref<InstanceType<typeof SheetFoot>>()

const NO_MARKS: Mark[] = []
const marks = computed((): ReadonlyMap<string, Mark[]> => (store.design ? columnMarks(store.design, props.table) : new Map<string, Mark[]>()))
const head = computed(() => (store.design ? tableMarks(store.design, props.table) : []))
const columns = computed(() => props.table.columns)
const key = computed(() => props.table.primaryKey?.columns ?? [])
const findings = computed(() => (store.design ? findingsOn(store.design, props.table.id) : []))
const ofTable = computed(() => findings.value.filter((finding) => !finding.column || !columnOf(props.table, finding.column)))
/** What was found at each column; the very same lists as before where the same was found, so that only lines that change are made anew. */
const NOTHING: readonly Finding[] = []
const byColumn = computed((before?: ReadonlyMap<string, readonly Finding[]>) => {
  const found = new Map<string, Finding[]>()
  for (const finding of findings.value) if (finding.column) found.set(finding.column, [...(found.get(finding.column) ?? []), finding])
  return new Map([...found].map(([id, list]): [string, readonly Finding[]] => {
    const old = before?.get(id)
    return [id, old?.length === list.length && old.every((each, at) => each === list[at]) ? old : list]
  }))
})
const ofColumn = (column: Column | undefined): readonly Finding[] => (column && byColumn.value.get(column.id)) ?? NOTHING

const ofTableHere = (): Table => props.table

interface Row { id: string; column: Column | undefined; at: number; typed?: LineText }
/** The lines as they stand: columns, with the line that is being written between or below them, and what was pasted and waits. */
const rows = computed(() => {
  const all: Row[] = columns.value.map((column, at) => ({ id: column.id, column, at }))
  const at = writingAt.value ?? columns.value.length
  all.splice(at, 0, { id: 'new', column: undefined, at })
  return [...all, ...left.value.map(({ id, text }): Row => ({ id: `left ${id}`, column: undefined, at: columns.value.length, typed: text }))]
})

watch(() => props.table.id, () => {
  current.value = 0
  selected.value = []
  writingAt.value = undefined
  left.value = []
})

function lineAt(index: number): InstanceType<typeof SheetLine> | undefined {
  const row = rows.value[index]
  return row && lines.value.find((line) => line.row() === row.id)
}

async function focusLine(index: number): Promise<void> {
  current.value = Math.max(0, Math.min(index, rows.value.length - 1))
  await nextTick()
  lineAt(current.value)?.focusLine()
}

async function write(at: number): Promise<void> {
  writingAt.value = at >= columns.value.length ? undefined : at
  current.value = Math.min(at, columns.value.length)
  await nextTick()
  lineAt(current.value)?.focusCell('name')
}

/** A cell was left: for a new line below, or for another line. The table may be another by the next tick. */
async function cellLeft(where: 'below' | 'above' | 'line' | 'newBelow', index: number): Promise<void> {
  if (where === 'newBelow') {
    await nextTick()
    return write(index + 1)
  }
  if (rows.value[index]?.id === 'new') writingAt.value = undefined
  return focusLine(where === 'line' ? index : where === 'below' ? index + 1 : index - 1)
}

/** After a line was written the next one is written below it. */
function added(index: number): void {
  const row = rows.value[index]
  if (row?.typed) left.value = left.value.filter((each) => `left ${each.id}` !== row.id)
  if (writingAt.value !== undefined) writingAt.value = index + 1
  current.value = index + 1
}

function pick(event: MouseEvent, index: number): void {
  const id = rows.value[index]?.column?.id
  if (!id) return
  if (event.shiftKey) selected.value = range(current.value, index)
  else if (selected.value.includes(id)) selected.value = selected.value.filter((each) => each !== id)
  else selected.value = event.ctrlKey || event.metaKey ? [...selected.value, id] : [id]
  void focusLine(index)
}

const range = (a: number, b: number): string[] => rows.value.slice(Math.min(a, b), Math.max(a, b) + 1).flatMap((row) => row.column?.id ?? [])

/** The lines that a command is for: those selected, else the one the keyboard is at, in the order of the sheet. */
const chosen = computed(() => {
  const at = rows.value[current.value]?.column?.id
  const ids = selected.value.length > 0 ? selected.value : at ? [at] : []
  return columns.value.filter((column) => ids.includes(column.id))
})

function submit(operation: Operation, label?: string): boolean {
  return store.submit(operation, label) === undefined
}

/** Several as one step. */
function submitAll(operations: Operation[], label: string): boolean {
  const [only] = operations
  return operations.length === 1 && only ? submit(only) : submit({ kind: 'batch', label, operations })
}

/** The chosen lines become the key, or stop being it; a table without a key and with nothing chosen gets the best there is. */
function makeKey(): void {
  const { primaryKey } = props.table
  if (!primaryKey && selected.value.length === 0 && store.design) {
    const { operation, says } = proposeKey(props.table, store.design.policy)
    submit(operation, says.charAt(0).toLowerCase() + says.slice(1))
    return
  }
  const ids = chosen.value.map((column) => column.id)
  if (ids.length === 0) return
  const same = primaryKey !== undefined && sameSet(primaryKey.columns, ids)
  submit({ kind: 'key.setPrimary', table: props.table.id, key: same ? null : { id: newId('k'), columns: ids } })
  selected.value = []
}

function makeUnique(): void {
  const ids = chosen.value.map((column) => column.id)
  if (ids.length === 0) return
  const there = props.table.uniques.find((each) => sameSet(each.columns, ids))
  submit(there ? { kind: 'unique.remove', table: props.table.id, key: there.id } : { kind: 'unique.add', table: props.table.id, key: { id: newId('k'), columns: ids } })
  selected.value = []
}

/** An index on the chosen lines; more about it is said where it then stands. */
function makeIndex(): void {
  const ids = chosen.value.map((column) => column.id)
  if (ids.length === 0) return
  submit({ kind: 'index.add', table: props.table.id, index: { id: newId('i'), columns: ids.map((column) => ({ column, descending: false })), unique: false } })
  selected.value = []
}

function writeRule(kind: RuleKind): void {
  const [first] = chosen.value
  foot.value?.write(kind, kind === 'check' ? first : undefined)
}

function removeLines(): void {
  const row = rows.value[current.value]
  if (row?.typed && selected.value.length === 0) {
    left.value = left.value.filter((each) => `left ${each.id}` !== row.id)
    void focusLine(current.value)
    return
  }
  if (chosen.value.length === 0) return
  const removals = chosen.value.map((column): Operation => ({ kind: 'column.remove', table: props.table.id, column: column.id }))
  if (submitAll(removals, `remove ${removals.length} columns of ${props.table.name}`)) {
    selected.value = []
    void focusLine(Math.min(current.value, columns.value.length - 1))
  }
}

function removeTable(): void {
  if (submit({ kind: 'table.remove', table: props.table.id })) emit('removed')
}

async function duplicateLines(): Promise<void> {
  if (chosen.value.length === 0) return
  const last = Math.max(...chosen.value.map((column) => columns.value.indexOf(column)))
  const operations = duplicateColumns(props.table, chosen.value, last + 1)
  if (!submitAll(operations, `duplicate ${operations.length} columns of ${props.table.name}`)) return
  selected.value = []
  await nextTick()
  await focusLine(last + 1)
}

function copyTable(): void {
  if (!store.design) return
  const operation = duplicateTable(store.design, props.table)
  if (submit(operation, `duplicate ${props.table.name}`)) emit('jump', operation.table.id)
}

/** Moves the chosen lines together, one place up or down. */
function moveLines(by: number): void {
  const places = chosen.value.map((column) => columns.value.indexOf(column)).sort((a, b) => a - b)
  const [first, last] = [places[0], places.at(-1)]
  if (first === undefined || last === undefined || first + by < 0 || last + by >= columns.value.length) return
  const operations = (by > 0 ? [...places].reverse() : places).map((at): Operation => ({ kind: 'column.move', table: props.table.id, column: (columns.value[at] as Column).id, to: at + by }))
  if (submitAll(operations, `move ${operations.length} columns of ${props.table.name}`)) void focusLine(current.value + by)
}

function mend(): void {
  const row = rows.value[current.value]
  const [finding] = [...ofColumn(row?.column), ...ofTable.value, ...findings.value].filter((each) => each.fix)
  if (finding?.fix) submit(finding.fix.operation, finding.fix.label.charAt(0).toLowerCase() + finding.fix.label.slice(1))
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
  const at = Math.min(rows.value[current.value]?.column ? current.value + 1 : (rows.value[current.value]?.at ?? columns.value.length), columns.value.length)
  const pasted = pasteLines(store.design, props.table, linesOf(text), at)
  if (pasted.operation && !submit(pasted.operation)) return
  const next = Math.max(0, ...left.value.map((each) => each.id)) + 1
  left.value = [...left.value, ...pasted.left.map((line, n) => ({ id: next + n, text: line }))]
  const waits = pasted.left.length
  store.say(`${pasted.count} ${pasted.count === 1 ? 'line became a column' : 'lines became columns'}${waits > 0 ? `; ${waits} ${waits === 1 ? 'waits' : 'wait'} below, with what is missing` : ''}.`)
  await nextTick()
  await focusLine(waits > 0 ? rows.value.length - waits : at + pasted.count - 1)
}

function lineKey(event: KeyboardEvent, index: number): void {
  const taken = (): void => {
    event.preventDefault()
    event.stopPropagation()
  }
  if (event.ctrlKey || event.metaKey) {
    if (event.key.toLowerCase() === 'a') {
      taken()
      selected.value = columns.value.map((column) => column.id)
    }
    return
  }
  if (event.altKey) {
    if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
      taken()
      moveLines(event.key === 'ArrowUp' ? -1 : 1)
    }
    return
  }
  const command: Record<string, () => void> = {
    ArrowDown: () => move(event, index, 1), ArrowUp: () => move(event, index, -1), Home: () => void focusLine(0), End: () => void focusLine(rows.value.length - 1),
    ArrowLeft: () => emit('walk', 'left'), ArrowRight: () => emit('walk', 'right'), Backspace: () => emit('walk', 'back'),
    k: makeKey, u: makeUnique, i: makeIndex, c: () => writeRule('check'), r: () => emit('relate'), f: mend, g: jump, q: () => emit('sql'), z: () => emit('fold', false), Z: () => emit('fold', true),
    d: () => void duplicateLines(), D: copyTable, Delete: removeLines, Escape: () => { selected.value = [] }, ' ': toggleRequired, n: () => void write(index + 1)
  }
  const run = command[event.key] ?? command[event.key.toLowerCase()]
  if (!run) return
  taken()
  run()
}

function move(event: KeyboardEvent, index: number, by: number): void {
  if (event.shiftKey) {
    const next = Math.max(0, Math.min(index + by, columns.value.length - 1))
    const anchor = selected.value.length > 0 ? selected.value : range(index, index)
    selected.value = [...new Set([...anchor, ...range(next, next)])]
  } else selected.value = []
  if (!event.shiftKey && (index + by < 0 || index + by >= rows.value.length)) emit('out', by < 0 ? 'up' : 'down')
  else void focusLine(index + by)
}

function toggleRequired(): void {
  const [first] = chosen.value
  if (!first) return
  const required = !first.required
  submitAll(chosen.value.map((column): Operation => ({ kind: 'column.require', table: props.table.id, column: column.id, required })), `${required ? 'require' : 'let be empty'} ${chosen.value.length} columns`)
}

function rename(typed: string, field: HTMLInputElement): void {
  const name = typed.trim()
  if (name === props.table.name || submit({ kind: 'table.rename', table: props.table.id, name })) return
  // The name stays as it was typed until it is right.
  void nextTick(() => { field.focus(); field.select() })
}

function annotate(note: string): void {
  if (note.trim() !== (props.table.note ?? '')) submit({ kind: 'table.annotate', table: props.table.id, note: note.trim() })
}

defineExpose({
  focusLine: (index = current.value) => focusLine(index), focusLast: () => focusLine(rows.value.length - 1), write: () => write(columns.value.length),
  focusColumn: (id: string) => focusLine(rows.value.findIndex((row) => row.column?.id === id))
})
</script>

<template>
  <section class="sheet" :class="{ junction: isJunction(table), external: table.external, ledger }" :aria-label="`Table ${table.name}`" @paste="paste">
    <div class="top">
      <div class="title">
        <KeyMark v-for="mark in head" :key="mark.key" :mark="mark" large />
        <DraftField class="name" :value="table.name" :aria-label="ledger ? `Name of the table ${table.name}` : 'Name of the table'" spellcheck="false" @take="rename" @entered="focusLine(current)" />
        <span v-if="isJunction(table)" class="quiet small">junction table</span>
        <span v-if="table.external" class="quiet small">another system’s: referred to, never made or changed</span>
        <slot name="title" />
      </div>
      <DraftField class="note" :value="table.note ?? ''" :aria-label="ledger ? `Note on the table ${table.name}` : 'Note on the table'" placeholder="What one row of it is…" @take="annotate" @entered="focusLine(current)" />
      <div v-if="ofTable.length > 0" class="of-table"><FindingLine v-for="(finding, n) in ofTable" :key="n" :finding="finding" /></div>
    </div>
    <div role="grid" :aria-label="`Columns of ${table.name}`" aria-multiselectable="true">
      <div class="heads" role="row">
        <span role="columnheader"><span class="visually-hidden">key marks</span></span><span role="columnheader">column</span><span role="columnheader">type</span><span role="columnheader">required</span><span role="columnheader">default</span><span role="columnheader">note</span>
      </div>
      <SheetLine
        v-for="(row, index) in rows" :key="row.id" ref="lines" :of="ofTableHere" :key-width="key.length" :column="row.column" :at="row.at" :row-id="row.id" :typed="row.typed" :marks="row.column ? (marks.get(row.column.id) ?? NO_MARKS) : NO_MARKS" :key-place="row.column ? key.indexOf(row.column.id) : -1" :findings="ofColumn(row.column)"
        :selected="row.column !== undefined && selected.includes(row.column.id)" :unique="table.uniques.some((each) => each.columns.length === 1 && each.columns[0] === row.column?.id)" :current="index === current" :class="{ 'key-end': row.column && key.includes(row.column.id) && !key.includes(columns[columns.indexOf(row.column) + 1]?.id ?? '') }"
        @leave="cellLeft($event, index)" @added="added(index)" @key="lineKey($event, index)" @pick="pick($event, index)" @focusin="current = index"
      />
    </div>
    <slot name="readings" />
    <SheetFoot
      ref="foot" :table="table" :chosen="chosen.length" :ledger="ledger"
      @new-line="write(columns.length)" @key="makeKey" @unique="makeUnique" @index="makeIndex" @rule="writeRule" @remove="removeLines" @duplicate="duplicateLines" @duplicate-table="copyTable" @relate="emit('relate')" @remove-table="removeTable" @back="focusLine(current)"
    />
  </section>
</template>

<style scoped>
.sheet { background: var(--sheet); border: 1px solid var(--ink); box-shadow: var(--shadow); }
.sheet.external { border-style: dotted; border-width: 1.5px; }
.sheet.ledger { border-color: var(--line); box-shadow: none; }
.sheet.ledger:focus-within { border-color: var(--ink); }
.top { padding: 11px 14px 7px; }
.title { display: flex; align-items: center; gap: 8px; min-width: 0; }
.title .small { white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.name { font-size: 20px; font-weight: 600; line-height: 1.2; border: 0; background: none; padding: 0; min-width: 3ch; flex: 0 1 auto; field-sizing: content; text-overflow: ellipsis; }
.note { border: 0; background: none; padding: 2px 0 0; width: 100%; color: var(--quiet); text-overflow: ellipsis; }
.name:focus, .note:focus { outline: none; box-shadow: inset 0 -1.5px 0 var(--chosen); }
.of-table { padding-top: 5px; }
.heads { display: grid; grid-template-columns: var(--sheet-columns); column-gap: 8px; padding: 0 14px; color: var(--quiet); font-size: 11.5px; height: 21px; }
.key-end { border-bottom: 1.5px solid var(--ink); }
.key-end + :deep(.line) { border-top: 0; }
</style>
