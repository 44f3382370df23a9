import { defineStore } from 'pinia'
import { computed, ref, type WritableComputedRef } from 'vue'
import type { LineText } from '../../core/typing/edits.ts'
import { textOfKey } from '../../core/design/key-text.ts'
import type { Row, Table, TableId } from '../../core/design/model.ts'
import { useDesign } from './design.ts'

/** A line that cannot be a column yet, as it was typed. */
export interface WaitingLine {
  id: number
  text: LineText
}

/** What was typed into a cell that cannot stand there, and why. */
export interface WaitingCell {
  text: string
  why: string
}
type WaitingCells = Readonly<Record<string, WaitingCell>>

/** What was typed and could not be taken yet, by design and table, so that it is still there after another screen. */
export const useUnfinished = defineStore('unfinished', () => {
  const design = useDesign()
  const lines = ref(new Map<string, readonly WaitingLine[]>())
  const placeOf = (table: string): string => `${design.design?.id ?? ''} ${table}`

  /** The lines that wait in a table. */
  function linesOf(table: () => string): WritableComputedRef<readonly WaitingLine[]> {
    return computed({
      get: () => lines.value.get(placeOf(table())) ?? [],
      set: (now) => {
        if (now.length > 0) lines.value.set(placeOf(table()), now)
        else lines.value.delete(placeOf(table()))
      }
    })
  }

  const cells = ref(new Map<string, WaitingCells>())
  const rowName = (table: Table, row: Row): string =>
    `${placeOf(table.id)} ${textOfKey(table, table.primaryKey?.columns ?? [], row) || JSON.stringify(row)}`

  /** What waits in the cells of a row, by columns. */
  const cellsOf = (table: Table, row: Row): WaitingCells | undefined =>
    cells.value.size === 0 ? undefined : cells.value.get(rowName(table, row))

  /** Lets something wait in a cell of a row, or nothing any longer; the row may have become another meanwhile. */
  function setCell(table: Table, row: Row, column: string, cell: WaitingCell | undefined, now = row): void {
    const { [column]: _, ...others } = cellsOf(table, row) ?? {}
    const next = cell ? { ...others, [column]: cell } : others
    cells.value.delete(rowName(table, row))
    if (Object.keys(next).length > 0) cells.value.set(rowName(table, now), next)
  }

  /** The rows in which something waits, by their tables and places. */
  const rowsWaiting = computed((): ReadonlyMap<TableId, ReadonlySet<number>> => {
    const found = new Map<TableId, ReadonlySet<number>>()
    if (cells.value.size === 0) return found
    for (const table of design.design?.tables ?? []) {
      const own = [...cells.value.keys()].some((name) => name.startsWith(`${placeOf(table.id)} `))
      const places = own ? table.rows.flatMap((row, at) => (cellsOf(table, row) ? [at] : [])) : []
      if (places.length > 0) found.set(table.id, new Set(places))
    }
    return found
  })

  return { linesOf, cellsOf, setCell, rowsWaiting }
})
