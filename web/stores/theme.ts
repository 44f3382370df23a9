import { defineStore } from 'pinia'
import { ref, watchEffect } from 'vue'
import { remember, remembered } from '../parts/remembered.ts'

const KEY = 'patient-key theme'

/** Light or dark: as the person chose, else as the system says. */
export const useTheme = defineStore('theme', () => {
  const system = matchMedia('(prefers-color-scheme: dark)')
  const dark = ref((remembered('localStorage', KEY) ?? (system.matches ? 'dark' : 'light')) === 'dark')
  system.addEventListener('change', (event) => {
    if (remembered('localStorage', KEY) === undefined) dark.value = event.matches
  })
  watchEffect(() => {
    document.documentElement.dataset.theme = dark.value ? 'dark' : 'light'
  })
  function toggle(): void {
    dark.value = !dark.value
    remember('localStorage', KEY, dark.value ? 'dark' : 'light')
  }
  return { dark, toggle }
})
