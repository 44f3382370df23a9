<script setup lang="ts">
import { BEFORE, LINE } from './useInView.ts'

/**
 * The numbers of the rows in view, which stay while columns go by under them: one thing that sticks for all of them,
 * since each that does is scrolled by itself.
 */
defineProps<{
  rows: readonly { line: number; at: number; place: number }[]
  /** How many lines are drawn at most. */
  most: number
  wrong: ReadonlyMap<number, string>
  says: (place: number) => string
  isHere: (at: number) => boolean
  isChosen: (at: number) => boolean
}>()
</script>

<template>
  <div class="numbers" aria-hidden="true" :style="{ width: `${BEFORE}px` }">
    <span
      v-for="{ line, at, place } in rows"
      :key="line % most"
      :class="{ here: isHere(at), chosen: isChosen(at), wrong: wrong.has(place) }"
      :title="wrong.get(place)"
      :style="{ top: `${line * LINE}px` }"
      >{{ says(place) }}</span
    >
  </div>
</template>

<style scoped>
.numbers {
  position: sticky;
  left: 0;
  height: 0;
  z-index: 2;
}
span {
  position: absolute;
  width: 100%;
  height: 26px;
  padding: 5px 8px 0 0;
  font: 11px var(--mono);
  text-align: right;
  color: var(--quiet);
  background: var(--sheet);
  border-bottom: 1px solid var(--hair);
}
.chosen {
  background: var(--chosen-tint);
}
.wrong {
  color: var(--deleted);
  font-weight: 700;
  box-shadow: inset 3px 0 0 var(--deleted);
}
.here {
  color: var(--chosen);
  font-weight: 700;
}
</style>
