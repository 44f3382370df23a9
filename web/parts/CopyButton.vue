<script setup lang="ts">
import { ref } from 'vue'
import { copyText } from './clipboard.ts'

/** Puts a text on the clipboard, and says so for a moment; or that the browser does not let it. */
const props = defineProps<{ text: string; label?: string }>()

const said = ref('')
async function copy(): Promise<void> {
  said.value = (await copyText(props.text)) ? 'copied' : 'not copied: the browser forbids it'
  setTimeout(() => {
    said.value = ''
  }, 1500)
}
</script>

<template>
  <button type="button" :aria-label="said === '' ? label : undefined" @click="copy">
    <template v-if="said !== ''">{{ said }}</template>
    <slot v-else>copy</slot>
  </button>
</template>
