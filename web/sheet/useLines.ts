import { computed, nextTick, ref, watch, type ComputedRef, type Ref } from 'vue'
import type { Column, Table } from '../../core/design/model.ts'
import type { LineText } from '../../core/typing/edits.ts'
import type { WaitingLine } from '../stores/unfinished.ts'
import type SheetLine from './SheetLine.vue'

/** The id of the line for a new column, also where an address asks for it. */
export const NEW_LINE = 'new'

/** A line of a sheet: a column, the line for a new one, or one that was pasted and waits. */
export interface Row {
  id: string
  column: Column | undefined
  at: number
  typed?: LineText
}

type LineView = Pick<InstanceType<typeof SheetLine>, 'row' | 'focusLine' | 'focusCell'>

export interface Lines {
  rows: ComputedRef<Row[]>
  /** The line that the keyboard is at; as many as there are columns is the line for a new one. */
  current: Ref<number>
  /** Ids of the columns that are selected. */
  selected: Ref<string[]>
  /**
   * The columns that a command is for: those selected, else the one the keyboard is at, in the order of
   * the sheet.
   */
  chosen: ComputedRef<Column[]>
  focusLine(index: number): Promise<void>
  /** Begins a new line at the place. */
  write(at: number): Promise<void>
  /** Where a new line below another one stands. */
  below(index: number): number
  cellLeft(where: 'below' | 'above' | 'line' | 'newBelow', index: number): Promise<void>
  /** After a line was written the next one is written below it. */
  added(index: number): void
  pick(event: MouseEvent, index: number, from?: number): void
  /** One line up (-1) or down (1), selecting with Shift. False where there is no line to go to. */
  step(index: number, by: -1 | 1, selecting: boolean): boolean
  /** Lines that cannot be taken yet wait below, as they were typed. */
  wait(texts: readonly LineText[]): void
  /** Where what is pasted goes in. */
  pastesAt(): number
  /** Removes the line at which the keyboard is if it waits; false where it does not. */
  dismiss(): boolean
  /** How many lines wait, and what leaves all of them out. */
  waitingCount: ComputedRef<number>
  dismissAll(): void
  /** Keeps what stands in a line that goes out of sight before it is a column. */
  unfinished(row: Row, text: LineText): void
}

/**
 * The lines of a sheet: where the keyboard is, which are selected, and where a new one is written. `views`
 * are what shows them, for the keyboard to go to; `waiting` are those that cannot be columns yet.
 */
export function useLines(
  table: () => Table,
  views: Readonly<Ref<readonly LineView[]>>,
  waiting: Ref<readonly WaitingLine[]>
): Lines {
  const current = ref(0)
  const selected = ref<string[]>([])
  /** Where a new line is being written: below everything unless Enter was pressed further up. */
  const writingAt = ref<number>()
  const columns = computed(() => table().columns)

  /**
   * The lines as they stand: columns, with the line that is being written between or below them, and what
   * was pasted and waits.
   */
  const rows = computed(() => {
    const all: Row[] = columns.value.map((column, at) => ({ id: column.id, column, at }))
    const at = writingAt.value ?? columns.value.length
    all.splice(at, 0, { id: NEW_LINE, column: undefined, at })
    return [
      ...all,
      ...waiting.value.map(({ id, text }): Row => ({
        id: `waiting ${id}`,
        column: undefined,
        at: columns.value.length,
        typed: text
      }))
    ]
  })

  const chosen = computed(() => {
    const at = rows.value[current.value]?.column?.id
    const ids = selected.value.length > 0 ? selected.value : at ? [at] : []
    return columns.value.filter((column) => ids.includes(column.id))
  })

  watch(
    () => table().id,
    () => {
      current.value = 0
      selected.value = []
      writingAt.value = undefined
    }
  )

  function viewAt(index: number): LineView | undefined {
    const row = rows.value[index]
    return row && views.value.find((view) => view.row() === row.id)
  }

  async function focusLine(index: number): Promise<void> {
    current.value = Math.max(0, Math.min(index, rows.value.length - 1))
    await nextTick()
    viewAt(current.value)?.focusLine()
  }

  async function write(at: number): Promise<void> {
    writingAt.value = at >= columns.value.length ? undefined : at
    current.value = Math.min(at, columns.value.length)
    await nextTick()
    viewAt(current.value)?.focusCell('name')
  }

  /** Below a line; where that stands within a key, or within what refers together, below all of that. */
  function below(index: number): number {
    const { primaryKey, foreignKeys } = table()
    const groups = [
      primaryKey?.columns ?? [],
      ...foreignKeys.map(({ pairs }) => pairs.map(({ column }) => column))
    ]
    const isWithin = (at: number): boolean => {
      const [before, after] = [columns.value[at - 1]?.id, columns.value[at]?.id]
      const isBoth = (ids: readonly string[]): boolean =>
        before !== undefined && after !== undefined && ids.includes(before) && ids.includes(after)
      return groups.some(isBoth)
    }
    let at = index + 1
    while (isWithin(at)) at++
    return at
  }

  async function cellLeft(where: 'below' | 'above' | 'line' | 'newBelow', index: number): Promise<void> {
    if (where === 'newBelow') {
      // The table may be another by the next tick.
      await nextTick()
      return write(below(index))
    }
    if (rows.value[index]?.id === NEW_LINE) writingAt.value = undefined
    return focusLine(where === 'line' ? index : where === 'below' ? index + 1 : index - 1)
  }

  function added(index: number): void {
    const row = rows.value[index]
    if (row?.typed) waiting.value = waiting.value.filter((each) => `waiting ${each.id}` !== row.id)
    if (writingAt.value !== undefined) writingAt.value = index + 1
    current.value = index + 1
  }

  const range = (a: number, b: number): string[] =>
    rows.value.slice(Math.min(a, b), Math.max(a, b) + 1).flatMap((row) => row.column?.id ?? [])

  /** @param from the line that had the keyboard before, where a range begins */
  function pick(event: MouseEvent, index: number, from = current.value): void {
    const id = rows.value[index]?.column?.id
    if (!id) return
    if (event.shiftKey) selected.value = range(from, index)
    else if (selected.value.includes(id)) selected.value = selected.value.filter((each) => each !== id)
    else selected.value = event.ctrlKey || event.metaKey ? [...selected.value, id] : [id]
    void focusLine(index)
  }

  function step(index: number, by: -1 | 1, selecting: boolean): boolean {
    const next = index + by
    if (selecting) {
      const kept = Math.max(0, Math.min(next, columns.value.length - 1))
      const anchor = selected.value.length > 0 ? selected.value : range(index, index)
      selected.value = [...new Set([...anchor, ...range(kept, kept)])]
    } else {
      selected.value = []
      if (next < 0 || next >= rows.value.length) return false
    }
    void focusLine(next)
    return true
  }

  function wait(texts: readonly LineText[]): void {
    const next = Math.max(0, ...waiting.value.map((each) => each.id)) + 1
    waiting.value = [...waiting.value, ...texts.map((text, n) => ({ id: next + n, text }))]
  }

  function dismiss(): boolean {
    const row = rows.value[current.value]
    if (!row?.typed || selected.value.length > 0) return false
    waiting.value = waiting.value.filter((each) => `waiting ${each.id}` !== row.id)
    void focusLine(current.value)
    return true
  }

  function dismissAll(): void {
    waiting.value = []
    void focusLine(columns.value.length)
  }

  function unfinished(row: Row, text: LineText): void {
    if (row.id === NEW_LINE) return wait([text])
    // One that was taken, or left out, is no longer among them.
    waiting.value = waiting.value.map((each) => (`waiting ${each.id}` === row.id ? { ...each, text } : each))
  }

  const pastesAt = (): number => {
    const row = rows.value[current.value]
    return Math.min(row?.column ? current.value + 1 : (row?.at ?? columns.value.length), columns.value.length)
  }

  return {
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
    waitingCount: computed(() => waiting.value.length),
    dismissAll,
    unfinished
  }
}
