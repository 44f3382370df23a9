import { computed, type ComputedRef } from 'vue'
import type { Table } from '../../core/design/model.ts'
import type { Violation } from '../../core/design/violations.ts'
import { useUnfinished, type WaitingCell } from '../stores/unfinished.ts'

/**
 * What is amiss in a table's rows: rules that they break, and what waits in their cells since it cannot stand there.
 * @param begun the place of a row that is still written in: no rule is held against it yet.
 */
export function useAmiss(
  table: () => Table,
  violations: () => readonly Violation[],
  begun: () => number | undefined
): {
  /** What is wrong with a row, by its place. */
  wrong: ComputedRef<ReadonlyMap<number, string>>
  /** What waits in the cells of the row at a place, by column; nothing where none does. */
  waitingIn(place: number): Readonly<Record<string, WaitingCell>> | undefined
} {
  const unfinished = useUnfinished()
  const waiting = computed(() => unfinished.rowsWaiting.get(table().id))

  function waitingIn(place: number): Readonly<Record<string, WaitingCell>> | undefined {
    const row = waiting.value?.has(place) ? table().rows[place] : undefined
    return row && unfinished.cellsOf(table(), row)
  }

  const wrong = computed(() => {
    const found = new Map<number, string>()
    const add = (place: number, message: string): void =>
      void found.set(place, [found.get(place), message].filter(Boolean).join(' '))
    for (const { table: id, rows, message } of violations())
      if (id === table().id) for (const place of rows) if (place !== begun()) add(place, message)
    for (const place of waiting.value ?? [])
      for (const { why } of Object.values(waitingIn(place) ?? {})) add(place, why)
    return found
  })
  return { wrong, waitingIn }
}
