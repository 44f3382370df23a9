<script setup lang="ts">
import { ref, watch } from 'vue'

/**
 * A field that shows a value and keeps what is being typed in it, whatever is drawn anew around it, until
 * it is taken or left as it was.
 */
const props = defineProps<{ value: string }>()
/** `take` answers false where what was typed cannot be; it then stays, to be put right. */
const emit = defineEmits<{ take: [text: string, field: HTMLInputElement]; entered: []; escaped: [] }>()
const text = ref(props.value)
const field = ref<HTMLInputElement>()

watch(
  () => props.value,
  (now, before) => {
    if (text.value === before) text.value = now
  }
)

function change(): void {
  if (text.value !== props.value && field.value) emit('take', text.value, field.value)
}

function enter(): void {
  field.value?.blur()
  emit('entered')
}

function back(): void {
  text.value = props.value
  emit('escaped')
}

defineExpose({
  focus: () => field.value?.focus(),
  reset: () => {
    text.value = props.value
  }
})
</script>

<template>
  <input
    ref="field"
    v-model="text"
    :data-taken="value"
    autocomplete="off"
    @change="change"
    @keydown.enter.prevent="enter"
    @keydown.esc="back" />
</template>
