import { defineStore } from 'pinia'
import { ref } from 'vue'

/** The strip with the SQL of the table at hand: whether it is pulled up, and in which dialect. */
export const useStrip = defineStore('sql strip', () => {
  const open = ref(false)
  const dialect = ref('')
  return {
    open,
    dialect,
    toggle: () => {
      open.value = !open.value
    }
  }
})
