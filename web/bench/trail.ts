import { defineStore } from 'pinia'
import { ref } from 'vue'

/** How far back the trail goes. */
const LONGEST = 8

/** The tables walked through to the one in the middle, the last one last. */
export const useTrail = defineStore('trail', () => {
  const tables = ref<string[]>([])

  function step(table: string): void {
    const at = tables.value.indexOf(table)
    // Going back along the trail shortens it; anything else adds to it.
    if (at >= 0 && at === tables.value.length - 2) tables.value = tables.value.slice(0, at + 1)
    else if (tables.value.at(-1) !== table) tables.value = [...tables.value, table].slice(-LONGEST)
  }

  function back(): string | undefined {
    return tables.value.at(-2)
  }

  return {
    tables,
    step,
    back,
    clear: () => {
      tables.value = []
    }
  }
})
