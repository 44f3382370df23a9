import { defineStore } from 'pinia'
import { ref } from 'vue'

/** Which key is pointed at: every place that it reaches lights up. */
export const useKeyLight = defineStore('key light', () => {
  const key = ref('')
  return {
    key,
    point: (id: string) => {
      key.value = id
    },
    leave: () => {
      key.value = ''
    }
  }
})
