import { defineStore } from 'pinia'
import { ref, watch } from 'vue'
import { z } from 'zod'
import { idSchema } from '../../core/design/ids.ts'
import { readJson } from '../../core/design/json.ts'
import { remember, remembered } from '../parts/remembered.ts'

/** A design that is open, and where in it one was. */
const tabSchema = z.object({ id: idSchema, name: z.string(), path: z.string().startsWith('/d/') })
export type Tab = z.infer<typeof tabSchema>

const KEY = 'patient-key open designs'

function opened(): Tab[] {
  const read = readJson(remembered('sessionStorage', KEY) ?? '[]')
  return read.ok && Array.isArray(read.value)
    ? read.value.flatMap((each) => tabSchema.safeParse(each).data ?? [])
    : []
}

/** The designs that are open in this window, in the order in which they were opened. */
export const useTabs = defineStore('tabs', () => {
  const tabs = ref(opened())
  watch(tabs, (now) => remember('sessionStorage', KEY, JSON.stringify(now)), { deep: true })

  /** Notes where one is in a design; opens a tab for it where it has none. */
  function visit(id: string, path: string, name?: string): void {
    const tab = tabs.value.find((each) => each.id === id)
    if (!tab) tabs.value = [...tabs.value, { id, name: name ?? '', path }]
    else Object.assign(tab, { path, ...(name !== undefined && { name }) })
  }

  /** Closes a tab, and says which design to go to, if there is another. */
  function close(id: string): Tab | undefined {
    const at = tabs.value.findIndex((each) => each.id === id)
    tabs.value = tabs.value.filter((each) => each.id !== id)
    return tabs.value[Math.max(0, at - 1)]
  }

  /** The tab so many places to the right, round and round. */
  function beside(id: string, by: number): Tab | undefined {
    const at = tabs.value.findIndex((each) => each.id === id)
    return tabs.value[(at + by + tabs.value.length) % tabs.value.length]
  }

  return { tabs, visit, close, beside }
})
