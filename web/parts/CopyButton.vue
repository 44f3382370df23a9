<script setup lang="ts">
import { ref } from 'vue'

/** Puts a text on the clipboard, and says so for a moment. */
const props = defineProps<{ text: string; label?: string }>()

const copied = ref(false)
async function copy(): Promise<void> {
  await navigator.clipboard.writeText(props.text)
  copied.value = true
  setTimeout(() => {
    copied.value = false
  }, 1500)
}
</script>

<template>
  <button type="button" :aria-label="copied ? undefined : label" @click="copy">
    <template v-if="copied">copied</template>
    <slot v-else>copy</slot>
  </button>
</template>
