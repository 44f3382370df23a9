import { defineStore } from 'pinia'
import { computed, ref, type WritableComputedRef } from 'vue'
import type { LineText } from '../../core/typing/edits.ts'
import { useDesign } from './design.ts'

/** A line that cannot be a column yet, as it was typed. */
export interface WaitingLine {
  id: number
  text: LineText
}

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

  return { linesOf }
})
