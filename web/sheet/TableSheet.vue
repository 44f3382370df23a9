<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { columnsIn, sameSet } from '../../core/design/lookup.ts'
import { newId, type Table } from '../../core/design/model.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { columnMarks, tableMarks } from '../../core/diagram/mark.ts'
import { isJunction } from '../../core/relate/junction.ts'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'
import SheetLine from './SheetLine.vue'

/** A table as a full writing sheet: its name, its columns as lines, its keys. */
const props = defineProps<{ table: Table }>()
const emit = defineEmits<{ walk: [to: 'left' | 'right' | 'back']; relate: []; removed: [] }>()
const store = useDesign()

/** The line that the keyboard is at; as many as there are columns is the line for a new one. */
const current = ref(0)
const selected = ref<string[]>([])
/** Where a new line is being written: below everything unless Enter was pressed further up. */
const writingAt = ref<number>()
const lines = ref<InstanceType<typeof SheetLine>[]>([])

const marks = computed(() => (store.design ? columnMarks(store.design, props.table) : new Map()))
const head = computed(() => (store.design ? tableMarks(store.design, props.table) : []))
const columns = computed(() => props.table.columns)
const key = computed(() => props.table.primaryKey?.columns ?? [])
const uniques = computed(() => props.table.uniques.map((unique) => ({ unique, names: columnsIn(props.table, unique.columns).map((column) => column.name).join(', ') })))

/** The lines as they stand: columns, with the line that is being written between or below them. */
const rows = computed(() => {
  const all: { id: string; column: Table['columns'][number] | undefined; at: number }[] = columns.value.map((column, at) => ({ id: column.id, column, at }))
  const at = writingAt.value ?? columns.value.length
  all.splice(at, 0, { id: 'new', column: undefined, at })
  return all
})

watch(() => props.table.id, () => {
  current.value = 0
  selected.value = []
  writingAt.value = undefined
})

function lineAt(index: number): InstanceType<typeof SheetLine> | undefined {
  const row = rows.value[index]
  return lines.value.find((line) => line.id() === row?.column?.id)
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
async function left(where: 'below' | 'above' | 'line' | 'newBelow', index: number): Promise<void> {
  if (where === 'newBelow') {
    await nextTick()
    return write(index + 1)
  }
  if (rows.value[index]?.column === undefined) writingAt.value = undefined
  return focusLine(where === 'line' ? index : where === 'below' ? index + 1 : index - 1)
}

/** After a line was written the next one is written below it. */
function added(index: number): void {
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

function makeKey(): void {
  const ids = chosen.value.map((column) => column.id)
  if (ids.length === 0) return
  const { primaryKey } = props.table
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

function removeLines(): void {
  const [first] = chosen.value
  if (!first) return
  const removals = chosen.value.map((column): Operation => ({ kind: 'column.remove', table: props.table.id, column: column.id }))
  if (submit(removals.length === 1 ? removals[0] as Operation : { kind: 'batch', label: `remove ${removals.length} columns of ${props.table.name}`, operations: removals })) {
    selected.value = []
    void focusLine(Math.min(current.value, columns.value.length - 1))
  }
}

function removeTable(): void {
  if (submit({ kind: 'table.remove', table: props.table.id })) emit('removed')
}

function moveLine(by: number): void {
  const row = rows.value[current.value]
  const to = current.value + by
  if (!row?.column || to < 0 || to >= columns.value.length) return
  if (submit({ kind: 'column.move', table: props.table.id, column: row.column.id, to })) void focusLine(to)
}

/** Moves a column of the key one place to the front. */
function earlier(at: number): void {
  const { primaryKey } = props.table
  if (!primaryKey || at === 0) return
  const order = [...primaryKey.columns]
  order.splice(at - 1, 2, order[at] as string, order[at - 1] as string)
  submit({ kind: 'key.setPrimary', table: props.table.id, key: { ...primaryKey, columns: order } })
}

function lineKey(event: KeyboardEvent, index: number): void {
  const done = (): void => {
    event.preventDefault()
    event.stopPropagation()
  }
  if (event.ctrlKey || event.metaKey) return
  if (event.altKey) {
    if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
      done()
      moveLine(event.key === 'ArrowUp' ? -1 : 1)
    }
    return
  }
  const command: Record<string, () => void> = {
    ArrowDown: () => move(event, index, 1), ArrowUp: () => move(event, index, -1), Home: () => void focusLine(0), End: () => void focusLine(rows.value.length - 1),
    ArrowLeft: () => emit('walk', 'left'), ArrowRight: () => emit('walk', 'right'), Backspace: () => emit('walk', 'back'),
    k: makeKey, u: makeUnique, r: () => emit('relate'), Delete: removeLines, Escape: () => { selected.value = [] },
    ' ': toggleRequired, n: () => void write(index + 1)
  }
  const run = command[event.key] ?? command[event.key.toLowerCase()]
  if (!run) return
  done()
  run()
}

function move(event: KeyboardEvent, index: number, by: number): void {
  if (event.shiftKey) {
    const next = Math.max(0, Math.min(index + by, columns.value.length - 1))
    const anchor = selected.value.length > 0 ? selected.value : range(index, index)
    selected.value = [...new Set([...anchor, ...range(next, next)])]
  } else selected.value = []
  void focusLine(index + by)
}

function toggleRequired(): void {
  const [first] = chosen.value
  if (!first) return
  const required = !first.required
  const operations = chosen.value.map((column): Operation => ({ kind: 'column.require', table: props.table.id, column: column.id, required }))
  submit(operations.length === 1 ? operations[0] as Operation : { kind: 'batch', label: `${required ? 'require' : 'let be empty'} ${operations.length} columns`, operations })
}

function rename(field: HTMLInputElement): void {
  const name = field.value.trim()
  if (name === props.table.name) return
  if (!submit({ kind: 'table.rename', table: props.table.id, name })) field.select()
}

function annotate(note: string): void {
  if (note.trim() !== (props.table.note ?? '')) submit({ kind: 'table.annotate', table: props.table.id, note: note.trim() })
}

defineExpose({ focusLine: (index = current.value) => focusLine(index), write: () => write(columns.value.length) })
</script>

<template>
  <section class="sheet" :class="{ junction: isJunction(table) }" :aria-label="`Table ${table.name}`">
    <div class="top">
      <div class="title">
        <KeyMark v-for="mark in head" :key="mark.key" :mark="mark" large />
        <input class="name" :value="table.name" :data-taken="table.name" aria-label="Name of the table" spellcheck="false" @change="rename($event.target as HTMLInputElement)" @keydown.enter.prevent="($event.target as HTMLInputElement).blur(); focusLine(current)" @keydown.esc="($event.target as HTMLInputElement).value = table.name">
        <span v-if="isJunction(table)" class="quiet small">junction table</span>
      </div>
      <input class="note" :value="table.note ?? ''" :data-taken="table.note ?? ''" aria-label="Note on the table" placeholder="What one row of it is…" @change="annotate(($event.target as HTMLInputElement).value)" @keydown.enter.prevent="($event.target as HTMLInputElement).blur(); focusLine(current)">
    </div>
    <div role="grid" :aria-label="`Columns of ${table.name}`" aria-multiselectable="true">
      <div class="heads" role="row">
        <span role="columnheader"><span class="visually-hidden">key marks</span></span><span role="columnheader">column</span><span role="columnheader">type</span><span role="columnheader">required</span><span role="columnheader">default</span><span role="columnheader">note</span>
      </div>
      <SheetLine
        v-for="(row, index) in rows" :key="row.id" ref="lines" :table="table" :column="row.column" :at="row.at" :marks="row.column ? (marks.get(row.column.id) ?? []) : []" :key-place="row.column ? key.indexOf(row.column.id) : -1"
        :selected="row.column !== undefined && selected.includes(row.column.id)" :unique="table.uniques.some((each) => each.columns.length === 1 && each.columns[0] === row.column?.id)" :current="index === current" :class="{ 'key-end': row.column && key.includes(row.column.id) && !key.includes(columns[columns.indexOf(row.column) + 1]?.id ?? '') }"
        @leave="left($event, index)" @added="added(index)" @key="lineKey($event, index)" @pick="pick($event, index)" @focusin="current = index"
      />
    </div>
    <div class="foot">
      <p v-if="!table.primaryKey" class="missing">No primary key yet: rows of {{ table.name }} cannot be referred to. Select the lines that tell rows apart and press <kbd>K</kbd></p>
      <p v-else-if="key.length > 1">key, in this order:
        <template v-for="(column, at) in columnsIn(table, key)" :key="column.id"><span class="mono">{{ column.name }}</span><button v-if="at > 0" type="button" class="link small" :aria-label="`earlier in the key: ${column.name}`" @click="earlier(at)">earlier</button><span v-if="at < key.length - 1">, </span></template>
      </p>
      <p v-for="{ unique, names } in uniques" :key="unique.id">unique: <span class="mono">{{ names }}</span> <button type="button" class="link small" :aria-label="`let it repeat: ${names}`" @click="submit({ kind: 'unique.remove', table: table.id, key: unique.id })">let it repeat</button></p>
      <p class="commands">
        <button type="button" class="link" @click="write(columns.length)">new line <kbd>N</kbd></button>
        <button type="button" class="link" :disabled="chosen.length === 0" @click="makeKey">key <kbd>K</kbd></button>
        <button type="button" class="link" :disabled="chosen.length === 0" @click="makeUnique">unique <kbd>U</kbd></button>
        <button type="button" class="link" :disabled="chosen.length === 0" @click="removeLines">remove <kbd>Del</kbd></button>
        <button type="button" class="link" @click="emit('relate')">relate <kbd>R</kbd></button>
        <button type="button" class="link away" @click="removeTable">remove this table</button>
      </p>
    </div>
  </section>
</template>

<style scoped>
.sheet { background: var(--sheet); border: 1px solid var(--ink); box-shadow: var(--shadow); }
.top { padding: 11px 14px 7px; }
.title { display: flex; align-items: center; gap: 8px; min-width: 0; }
.title .small { white-space: nowrap; }
.name { font-size: 20px; font-weight: 600; line-height: 1.2; border: 0; background: none; padding: 0; min-width: 3ch; flex: 0 1 auto; field-sizing: content; text-overflow: ellipsis; }
.note { border: 0; background: none; padding: 2px 0 0; width: 100%; color: var(--quiet); }
.name:focus, .note:focus { outline: none; box-shadow: inset 0 -1.5px 0 var(--chosen); }
.heads { display: grid; grid-template-columns: var(--sheet-columns); column-gap: 8px; padding: 0 14px; color: var(--quiet); font-size: 11.5px; height: 21px; }
.key-end { border-bottom: 1.5px solid var(--ink); }
.key-end + :deep(.line) { border-top: 0; }
.foot { border-top: 1px solid var(--line); padding: 7px 14px 8px; color: var(--quiet); display: flex; flex-direction: column; gap: 3px; }
.missing { color: var(--emptied); }
.foot p { overflow-wrap: anywhere; min-width: 0; }
.foot .small { margin-left: 6px; }
.commands { display: flex; flex-wrap: wrap; gap: 3px 14px; }
.commands .link { border-bottom: 0; }
.away { margin-left: auto; color: var(--quiet); }
.away:hover { color: var(--deleted); }
</style>
