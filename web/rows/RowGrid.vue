<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { isInPrimaryKey } from '../../core/design/directory.ts'
import type { Row, Table } from '../../core/design/model.ts'
import type { Violation } from '../../core/design/violations.ts'
import { cellText, plainText, referenceAt } from '../../core/rows/cells.ts'
import { lineOf, linesBetween, nextGroup, type RowGroup } from '../../core/rows/grouped.ts'
import { isNumberShown, shownText, type RowsView, type ShownColumn } from '../../core/rows/shown.ts'
import { counted } from '../../core/naming/words.ts'
import { useDesign } from '../stores/design.ts'
import CellField, { type Taken } from './CellField.vue'
import RowNumbers from './RowNumbers.vue'
import { useAmiss } from './useAmiss.ts'
import { useFigures } from './useFigures.ts'
import { BEFORE, LINE, useInView } from './useInView.ts'
import { useRowWriting } from './useRowWriting.ts'

/** The rows of a table as lines that are written in: only those in view are there. */
const props = defineProps<{
  table: Table
  shown: readonly ShownColumn[]
  sort?: RowsView['sort']
  /** The places of the rows that are shown, in their order. */
  order: readonly number[]
  /** What the rows are put together by, where they are. */
  groups?: readonly RowGroup[]
  groupedBy?: string
  violations: readonly Violation[]
}>()
const emit = defineEmits<{
  /** The places of the rows that are chosen, the one with the keyboard last. */
  choose: [places: number[]]
  remove: [places: number[]]
  /** A key that others refer to is to become another. */
  rekey: [place: number, values: Row]
  out: [to: 'left' | 'right' | 'up']
  /** The rows are to be ordered by a column, or the other way round, or as they stand. */
  sort: [by: string]
  /** The rows are to be put together by a column, or no longer. */
  group: [by: string]
  /** A row was just made and is still written in; nothing is said against it until the keyboard leaves it. */
  begun: [place: number | undefined]
}>()
const store = useDesign()

const scroller = ref<HTMLElement>()
const active = ref({ at: 0, column: 0 })
/** Where a choice of several rows began. */
const anchor = ref(0)
const editing = ref<{ text: string; begun: string; isTyped: boolean }>()
const field = ref<InstanceType<typeof CellField>[]>()
/** The place of the row that was just made, while the keyboard is in it. */
const begun = ref<number>()
const { wrong, waitingIn } = useAmiss(
  () => props.table,
  () => props.violations,
  () => begun.value
)
const groups = computed(() => props.groups ?? [])
const writing = useRowWriting(
  () => props.table,
  (place, values) => emit('rekey', place, values)
)

const columns = computed(() => props.shown)
/** They stay while one writes, and are measured anew for other columns or rows in another order. */
const widths = ref<number[]>([])
/** The column with the keyboard, where it is one that is written into. */
const own = computed(() => {
  const at = columns.value[active.value.column]
  return at?.kind === 'own' ? at.column : undefined
})
const total = computed(() => BEFORE + widths.value.reduce((sum, width) => sum + width, 0))
/** How many lines there are: rows, and the heads of their groups. */
const lineCount = computed(() => props.order.length + groups.value.length)
const inView = useInView(scroller, lineCount, widths, () => (editing.value ? active.value.column : undefined))
const { isCut, isAside, measure } = inView
const tracks = (some: readonly number[]): string => [BEFORE, ...some].map((width) => `${width}px`).join(' ')
/** The columns that are drawn; the first stands as far off as those before it are wide. */
const drawn = computed(() => {
  const { from, to } = inView.columns.value
  const skipped = widths.value.slice(0, from).reduce((sum, width) => sum + width, 0)
  const [first = 0, ...more] = widths.value.slice(from, to)
  const shown = columns.value.slice(from, to).map((column, index) => {
    const kind = { number: isNumberShown(props.table, column), made: isMade(column) }
    return { column, at: from + index, kind }
  })
  return { columns: shown, skipped, tracks: tracks([skipped + first, ...more]) }
})
const lines = computed(() => {
  const { from, to } = inView.lines.value
  return linesBetween(groups.value, props.order.length, from, to)
})
const rows = computed(() =>
  lines.value.flatMap((each) => {
    if (!('at' in each)) return []
    const place = props.order[each.at] as number
    return [{ ...each, place, waits: waitingIn(place) }]
  })
)
const heads = computed(() => lines.value.flatMap((each) => ('head' in each ? [each] : [])))
const activePlace = computed(() => props.order[active.value.at])

watch(activePlace, (place) => {
  if (place !== begun.value) begun.value = undefined
})
watch(begun, (place) => emit('begun', place), { flush: 'sync' })

/** How many rows tell how wide a column is, and how wide a letter (pixels). */
const MEASURED = 40
const LETTER = 8

/** As wide as its name and what the first rows hold, within bounds. */
function widthOf(each: ShownColumn): number {
  const places = props.order.slice(0, MEASURED)
  const longest = places.reduce((most, place) => Math.max(most, text(each, place).length), 0)
  const named = each.name.length * 7.3 + (props.sort?.by === each.id ? 36 : 20)
  return Math.round(Math.min(240, Math.max(64, named, longest * LETTER + 20)))
}

const figures = useFigures()
const text = (shown: ShownColumn, place: number): string =>
  store.design ? figures.text(store.design, props.table, shown, props.table.rows[place] ?? {}) : ''
/** What the widths depend on: columns by their names, the rows that are measured, and what has become known of them. */
const measured = computed(() => {
  const named = columns.value.map(({ id, name }) => [id, name])
  return JSON.stringify([named, props.order.slice(0, MEASURED), props.sort?.by, figures.told.value])
})
watch(
  measured,
  () => {
    widths.value = columns.value.map(widthOf)
    void nextTick(measure)
  },
  { immediate: true }
)
const isKey = (shown: ShownColumn): boolean =>
  shown.kind === 'own' && isInPrimaryKey(props.table, shown.column.id)
const isMade = (shown: ShownColumn): boolean => shown.kind !== 'own' || shown.column.computed !== undefined
const isActive = (at: number, column: number): boolean =>
  at === active.value.at && column === active.value.column
const activeId = computed(() => `cell-${active.value.at}-${active.value.column}`)
/** What a column is, to whoever points at its name. */
function said(shown: ShownColumn): string {
  switch (shown.kind) {
    case 'own':
      return shown.column.note ?? shown.name
    case 'figure':
      return `${shown.name}: what a row says over ${shown.standing.of.name}`
    case 'beyond':
      return `${shown.name}, of what a row refers to`
  }
}

const chosen = computed(() => {
  const [from, to] = [Math.min(anchor.value, active.value.at), Math.max(anchor.value, active.value.at)]
  return { from, to }
})
const isChosen = (at: number): boolean => at >= chosen.value.from && at <= chosen.value.to
/** What stands before a row: which it is, or that something is wrong with it. */
const number = (place: number): string => (wrong.value.has(place) ? '!' : String(place + 1))
function tell(): void {
  const { from, to } = chosen.value
  const places = props.order.slice(from, to + 1).filter((place) => place !== activePlace.value)
  emit('choose', activePlace.value === undefined ? [] : [...places, activePlace.value])
}
watch([active, () => props.order, anchor], tell, { immediate: true })
watch(
  () => props.order.length,
  (length) => {
    if (active.value.at >= length) move({ at: Math.max(length - 1, 0) })
  }
)

/** Goes to a cell, and takes the beginning of a choice along unless it grows. */
function move(to: { at?: number; column?: number }, grows = false): void {
  const at = Math.max(0, Math.min(to.at ?? active.value.at, Math.max(props.order.length - 1, 0)))
  const column = Math.max(0, Math.min(to.column ?? active.value.column, columns.value.length - 1))
  active.value = { at, column }
  if (!grows) anchor.value = at
  void nextTick(reveal)
}

function reveal(): void {
  const view = scroller.value
  if (!view) return
  const y = lineOf(groups.value, active.value.at) * LINE
  // The head of a group is shown with its first row.
  const isFirst = groups.value.some(({ at }) => at === active.value.at)
  const above = isFirst ? y - LINE : y
  if (above < view.scrollTop) view.scrollTop = above
  else if (y + 2 * LINE > view.scrollTop + view.clientHeight)
    view.scrollTop = y + 2 * LINE - view.clientHeight
  const x = widths.value.slice(0, active.value.column).reduce((sum, width) => sum + width, BEFORE)
  const width = widths.value[active.value.column] ?? 0
  if (x < view.scrollLeft + BEFORE) view.scrollLeft = x - BEFORE
  else if (x + width > view.scrollLeft + view.clientWidth) view.scrollLeft = x + width - view.clientWidth
  measure()
}

function edit(begin?: string): void {
  const [at, column] = [columns.value[active.value.column], own.value]
  const row = props.table.rows[activePlace.value ?? -1]
  if (!at || !row || !store.design) return
  if (!column) {
    const is = at.kind === 'figure' ? 'a figure' : 'of what the row refers to'
    return store.say(`${at.name} is ${is}, so nothing is written into it.`)
  }
  if (column.computed !== undefined) {
    store.say(`${column.name} is computed, so nothing is written into it.`)
    return
  }
  const waits = waitingIn(activePlace.value ?? -1)?.[at.id]?.text
  const now = referenceAt(props.table, column)
    ? cellText(store.design, props.table, column, row)
    : plainText(props.table, column, row)
  editing.value = {
    text: begin ?? waits ?? now,
    begun: waits === undefined ? now : '',
    isTyped: begin !== undefined
  }
}

function take(taken: Taken): void {
  const [column, place] = [own.value, activePlace.value]
  stop()
  if (column && place !== undefined) writing.take(place, column, taken)
}

function next(to: 'below' | 'right' | 'left'): void {
  if (to === 'below') return move({ at: active.value.at + 1 })
  move({ column: active.value.column + (to === 'right' ? 1 : -1) })
  void nextTick(() => edit())
}

/** The keyboard goes back to the lines as long as the field is there: afterwards all would be laid out for it first. */
function stop(): void {
  if (scroller.value?.contains(document.activeElement)) scroller.value.focus({ preventScroll: true })
  editing.value = undefined
}

/** Writes a block over the cells from the one with the keyboard on. */
function paste(event: ClipboardEvent): void {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (editing.value || text === '') return
  event.preventDefault()
  const { at, column } = active.value
  const from = columns.value.slice(column).map((each) => (each.kind === 'own' ? each.column : undefined))
  writing.paste(props.order.slice(at), from, text)
}

/** What a cell says, worked out at once. */
const wholeText = (shown: ShownColumn, place: number): string =>
  store.design ? shownText(store.design, props.table, shown, props.table.rows[place] ?? {}) : ''

/** The chosen rows as lines with tabs, as other programs take them. */
function copy(event: ClipboardEvent): void {
  if (editing.value) return
  event.preventDefault()
  const { from, to } = chosen.value
  const lines = props.order
    .slice(from, to + 1)
    .map((place) => columns.value.map((each) => wholeText(each, place)).join('\t'))
  event.clipboardData?.setData('text/plain', lines.join('\n'))
}

/** What is typed while a new row is being drawn: it is meant for its first cell. */
const early = ref<string>()

/** Holds what is typed back until the new row's cell is there; says whether it did. */
function isHeld({ key: name, ctrlKey, metaKey, altKey: isAlt }: KeyboardEvent): boolean {
  if (early.value === undefined) return false
  const isText = name.length === 1 && !ctrlKey && !metaKey && !isAlt
  if (isText) early.value += name
  if (name === 'Escape') early.value = undefined
  return true
}

/** Makes a row, and goes to write in it, which is a task of its own so that the page is not held up. */
async function add(): Promise<void> {
  const at = props.table.rows.length
  const row = writing.add()
  if (!row) return
  begun.value = at
  early.value = ''
  await new Promise((resolve) => setTimeout(resolve))
  const line = props.order.indexOf(at)
  const column = columns.value.findIndex(
    (each) => each.kind === 'own' && !isMade(each) && (row[each.id] ?? null) === null
  )
  move({ at: line < 0 ? props.order.length - 1 : line, column: Math.max(column, 0) })
  await nextTick()
  if (early.value !== undefined) edit(early.value)
  early.value = undefined
}

/** What is done with Alt; says whether something was. */
function altKey(name: string, shown: ShownColumn | undefined): boolean {
  if (name === 's' && shown) emit('sort', shown.id)
  else if (name === 'g' && (shown || props.groupedBy)) emit('group', props.groupedBy ?? shown?.id ?? '')
  else if (name === 'ArrowDown' || name === 'ArrowUp') {
    const at = nextGroup(groups.value, active.value.at, name === 'ArrowDown' ? 1 : -1)
    if (at !== undefined) move({ at })
  } else return false
  return true
}

function key(event: KeyboardEvent): void {
  if (editing.value) return
  if (isHeld(event)) return event.preventDefault()
  const { at, column } = active.value
  if (event.altKey) {
    if (altKey(event.key, columns.value[column])) event.preventDefault()
    return
  }
  const page = inView.page.value
  const command = event.ctrlKey || event.metaKey
  if (command && !['Home', 'End'].includes(event.key)) return
  switch (event.key) {
    case 'ArrowDown':
      move({ at: at + 1 }, event.shiftKey)
      break
    case 'ArrowUp':
      if (at === 0 && !event.shiftKey) emit('out', 'up')
      else move({ at: at - 1 }, event.shiftKey)
      break
    case 'PageDown':
      move({ at: at + page }, event.shiftKey)
      break
    case 'PageUp':
      move({ at: at - page }, event.shiftKey)
      break
    case 'ArrowLeft':
      if (column === 0) emit('out', 'left')
      else move({ column: column - 1 })
      break
    case 'ArrowRight':
      if (column === columns.value.length - 1) emit('out', 'right')
      else move({ column: column + 1 })
      break
    case 'Home':
      move(command ? { at: 0, column: 0 } : { column: 0 })
      break
    case 'End':
      move(command ? { at: props.order.length - 1 } : { column: columns.value.length - 1 })
      break
    case 'Enter':
    case 'F2':
      edit()
      break
    case 'Delete': {
      const { from, to } = chosen.value
      emit('remove', props.order.slice(from, to + 1))
      break
    }
    case 'Insert':
      void add()
      break
    default:
      if (event.key.length !== 1 || event.key === ' ' || event.key === '/' || event.key === '?') return
      edit(event.key)
  }
  event.preventDefault()
}

/** The cell that something happened in, where it did in one; what happens in the field is the field's. */
function cellOf({ target }: Event): { at: number; column: number } | undefined {
  const from = target instanceof Element && !target.matches('input') ? target : undefined
  const cell = from?.closest('[role=gridcell]') ?? undefined
  const line = cell?.parentElement
  const row = rows.value.find((each) => line?.ariaRowIndex === String(each.line + 2))
  return cell && row && { at: row.at, column: Number(cell.ariaColIndex) - 2 }
}
/** Listened for once and not in each cell: they are made anew while one scrolls. */
function click(event: MouseEvent): void {
  const to = cellOf(event)
  if (!to) return
  field.value?.[0]?.take()
  move(to, event.shiftKey)
  scroller.value?.focus()
}
function doubleClick(event: MouseEvent): void {
  if (cellOf(event)) edit()
}

defineExpose({
  focus: () => scroller.value?.focus(),
  add,
  /** Brings the keyboard to a row. */
  goTo: (place: number) => {
    const at = props.order.indexOf(place)
    if (at >= 0) move({ at })
  },
  /** Brings it to a column, where that is shown. */
  goToColumn: (id: string) => {
    const column = columns.value.findIndex((each) => each.id === id)
    if (column >= 0) move({ column })
  }
})
</script>

<template>
  <div
    ref="scroller"
    class="grid"
    tabindex="0"
    role="grid"
    :aria-label="`Rows of ${table.name}`"
    :aria-rowcount="lineCount + 1"
    :aria-colcount="columns.length + 1"
    :aria-activedescendant="activePlace === undefined ? undefined : activeId"
    @scroll.passive="measure"
    @keydown="key"
    @paste="paste"
    @copy="copy"
    @focus="measure">
    <div class="edge" role="presentation">
      <span v-if="isCut" aria-hidden="true" title="There are more columns">›</span>
    </div>
    <div
      class="head"
      role="row"
      aria-rowindex="1"
      :style="{ gridTemplateColumns: tracks(widths), width: `${total}px` }">
      <span class="no" role="columnheader"><span class="visually-hidden">row</span></span>
      <span
        v-for="column in columns"
        :key="column.id"
        role="columnheader"
        class="name"
        :class="{ number: isNumberShown(table, column), key: isKey(column), made: column.kind !== 'own' }"
        :title="`${said(column)} (Alt S orders by it, Alt G puts together)`"
        :aria-sort="sort?.by === column.id ? (sort.descending ? 'descending' : 'ascending') : undefined"
        @click="emit('sort', column.id)"
        >{{ column.name
        }}<template v-if="sort?.by === column.id">{{ sort.descending ? ' ↓' : ' ↑' }}</template></span
      >
    </div>
    <div
      class="space"
      role="presentation"
      :style="{
        height: `${lineCount * LINE}px`,
        width: `${total}px`,
        '--columns': drawn.tracks,
        '--skipped': `${drawn.skipped}px`
      }"
      @click="click"
      @dblclick="doubleClick">
      <div
        v-for="{ line, head } in heads"
        :key="`head-${head.at}`"
        class="group"
        role="row"
        :aria-rowindex="line + 2"
        :style="{ top: `${line * LINE}px` }">
        <span role="rowheader" :aria-colspan="columns.length + 1" :class="{ none: head.label === '' }">{{
          head.label || 'none'
        }}</span>
        <span class="quiet">{{ counted(head.count, table.name) }}</span>
      </div>
      <RowNumbers
        v-if="isAside"
        :rows="rows"
        :most="inView.most.value"
        :wrong="wrong"
        :says="number"
        :is-here="(at) => at === active.at"
        :is-chosen="isChosen" />
      <div
        v-for="line in rows"
        :key="line.line % inView.most.value"
        class="line"
        role="row"
        :aria-rowindex="line.line + 2"
        :aria-selected="isChosen(line.at)"
        :class="{ here: line.at === active.at, chosen: isChosen(line.at), wrong: wrong.has(line.place) }"
        :style="{ top: `${line.line * LINE}px` }">
        <span class="no" role="rowheader" :title="wrong.get(line.place)">{{ number(line.place) }}</span>
        <span
          v-for="{ column, at, kind } in drawn.columns"
          :id="isActive(line.at, at) ? activeId : undefined"
          :key="column.id"
          role="gridcell"
          :aria-colindex="at + 2"
          class="cell"
          :class="[kind, { at: isActive(line.at, at), unfit: line.waits?.[column.id] }]"
          :title="line.waits?.[column.id]?.why"
          ><template v-if="editing && isActive(line.at, at)">
            <CellField
              v-if="own"
              ref="field"
              :key="`${line.place} ${column.id}`"
              :table="table"
              :column="own"
              v-bind="editing"
              :is-flawed="line.waits?.[column.id] !== undefined"
              :label="`${column.name} of row ${line.place + 1}`"
              @take="take"
              @stop="stop"
              @next="next" /></template
          ><template v-else>{{ line.waits?.[column.id]?.text ?? text(column, line.place) }}</template></span
        >
      </div>
    </div>
  </div>
</template>

<style scoped>
.grid {
  overflow: auto;
  min-height: 0;
  flex: 1;
  outline: none;
  position: relative;
  background: var(--sheet);
}
.head {
  display: grid;
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--sheet);
  border-bottom: 1px solid var(--ink);
  min-width: 100%;
}
.head .name {
  font: 12px var(--mono);
  color: var(--quiet);
  padding: 4px 8px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.head .key {
  color: var(--ink);
  font-weight: 600;
}
.number {
  text-align: right;
}
.space {
  position: relative;
  min-width: 100%;
}
.line {
  position: absolute;
  left: 0;
  right: 0;
  display: grid;
  grid-template-columns: var(--columns);
  height: 26px;
  border-bottom: 1px solid var(--hair);
  /* No line moves another. */
  contain: layout size style;
}
.line.chosen {
  background: var(--chosen-tint);
}
.no {
  font: 11px var(--mono);
  color: var(--quiet);
  padding: 5px 8px 0 0;
  text-align: right;
}
.wrong .no {
  color: var(--deleted);
  font-weight: 700;
  box-shadow: inset 3px 0 0 var(--deleted);
}
.head .no {
  position: sticky;
  left: 0;
  background: var(--sheet);
}
/* What is offered under its field lies over the lines below. */
.line.here {
  z-index: 1;
}
.line.here .no {
  color: var(--chosen);
  font-weight: 700;
}
.no + .cell {
  margin-left: var(--skipped);
}
.cell {
  padding: 3px 8px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  position: relative;
}
/* Columns beyond the edge are told of by a sign that stays there. */
.edge {
  position: sticky;
  top: 0;
  left: 0;
  height: 0;
  z-index: 3;
  display: flex;
  justify-content: flex-end;
}
.edge span {
  height: 22px;
  padding: 2px 6px;
  background: var(--sheet);
  box-shadow: -10px 0 8px -4px var(--sheet);
  color: var(--act);
  font-weight: 700;
}
.cell.made {
  color: var(--quiet);
  font-style: italic;
}
.cell.at {
  overflow: visible;
  box-shadow: inset 0 0 0 1px var(--line);
}
.grid:focus .cell.at,
.grid:focus-within .cell.at {
  box-shadow: inset 0 0 0 2px var(--chosen);
}
.cell.unfit {
  color: var(--deleted);
  text-decoration: underline wavy;
  text-underline-offset: 2px;
}
.group {
  position: absolute;
  left: 0;
  right: 0;
  height: 26px;
  display: flex;
  align-items: baseline;
  gap: 12px;
  padding: 5px 8px 0 10px;
  white-space: nowrap;
  background: var(--film);
  border-bottom: 1px solid var(--line);
  font-weight: 600;
}
.group .quiet {
  font-weight: 400;
}
.group .none {
  font-style: italic;
  font-weight: 400;
}
</style>
