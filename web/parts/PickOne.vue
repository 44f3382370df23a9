<script setup lang="ts" generic="T extends string">
/** One of a few, all of which are seen: the one that holds is told by its ink and its line. */
defineProps<{ value: T; options: readonly T[]; words: Readonly<Record<T, string>>; label: string }>()
const emit = defineEmits<{ pick: [value: T] }>()
</script>

<template>
  <span class="picks" role="group" :aria-label="label">
    <button
      v-for="each in options"
      :key="each"
      type="button"
      class="link"
      :aria-pressed="value === each"
      @click="emit('pick', each)">
      {{ words[each] }}
    </button>
  </span>
</template>

<style scoped>
.picks {
  display: inline-flex;
  gap: 10px;
}
[aria-pressed='true'] {
  color: var(--ink);
  border-bottom-style: solid;
}
</style>
