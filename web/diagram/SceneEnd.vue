<script setup lang="ts">
import { computed, inject } from 'vue'
import { END_WORDS } from '../../core/diagram/line-words.ts'
import { endMarks, endNumbers } from '../../core/diagram/scene.ts'
import { HOW, PLAIN } from './how.ts'
import { endNumbersAt, type LineEnd } from '../../core/diagram/scene-parts.ts'

/** The end of a line: how few and how many, by a foot or by numbers, and what is said there. */
const props = defineProps<{ end: LineEnd }>()
const how = inject(HOW, PLAIN)
const marks = computed(() => endMarks(props.end))
const numbers = computed(() => endNumbersAt(props.end))
</script>

<template>
  <g>
    <text
      v-if="how.ends === 'numbers'"
      class="numbers"
      :x="numbers[0]"
      :y="numbers[1]"
      :text-anchor="end.side < 0 ? 'end' : 'start'"
      >{{ endNumbers(end) }}</text
    >
    <template v-else>
      <path :d="marks.path" />
      <circle v-if="marks.circle" :cx="marks.circle[0]" :cy="marks.circle[1]" r="3.5" />
    </template>
    <text
      v-if="end.words"
      class="words"
      :x="end.words.at[0]"
      :y="end.words.at[1]"
      :font-size="END_WORDS.size"
      :text-anchor="end.words.side < 0 ? 'end' : 'start'"
      >{{ end.words.text }}</text
    >
  </g>
</template>

<style scoped>
path {
  fill: none;
  stroke: var(--wire);
  stroke-width: 1.3;
  vector-effect: non-scaling-stroke;
}
circle {
  fill: var(--film);
  stroke: var(--wire);
  stroke-width: 1.3;
}
text {
  stroke: var(--film);
  stroke-width: 3;
  stroke-linejoin: round;
  paint-order: stroke;
}
.numbers {
  font-family: var(--mono);
  font-size: 11px;
  fill: var(--ink);
}
.words {
  font-family: var(--sans);
  fill: var(--quiet);
}
</style>
