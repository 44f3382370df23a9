<script setup lang="ts">
import { onBeforeUnmount, ref, watch } from 'vue'

/** The text of a template, which is taken while it is typed, whenever one pauses. */
const props = defineProps<{ name: string; text: string }>()
const emit = defineEmits<{ take: [text: string] }>()
const PAUSE = 600
const typed = ref(props.text)
/** What was taken last: it comes back as it was, and what comes otherwise is somebody else's, or undone. */
let taken = props.text
let waiting: ReturnType<typeof setTimeout> | undefined

function take(): void {
  clearTimeout(waiting)
  if (typed.value === taken) return
  taken = typed.value
  emit('take', taken)
}
function later(): void {
  clearTimeout(waiting)
  waiting = setTimeout(take, PAUSE)
}
watch(
  () => props.text,
  (now) => {
    if (now === taken) return
    taken = now
    typed.value = now
  }
)
onBeforeUnmount(take)
</script>

<template>
  <textarea
    v-model="typed"
    class="mono"
    :aria-label="`Template ${name}`"
    spellcheck="false"
    wrap="off"
    @input="later"
    @blur="take" />
</template>

<style scoped>
textarea {
  width: 100%;
  height: 100%;
  padding: 8px 14px;
  border: 0;
  resize: none;
  background: transparent;
  color: var(--ink);
  font-size: 12.5px;
  line-height: 1.5;
}
textarea:focus {
  outline: none;
  box-shadow: inset 0 0 0 2px var(--act);
}
</style>
