<script setup lang="ts">
import type { Chosen } from '../../core/version/choice.ts'
import type { DifferenceInWords } from '../../core/version/compare.ts'

/** What changes, in sentences; each can be left out where `chosen` is given. */
const props = defineProps<{
  changes: readonly DifferenceInWords[]
  chosen?: Chosen | undefined
  /** Those that came or went with the last one that was taken or left. */
  along: Chosen
}>()
const emit = defineEmits<{ take: [key: string, isTaken: boolean] }>()

const isLeft = ({ key }: DifferenceInWords): boolean => props.chosen !== undefined && !props.chosen.has(key)

const KIND = { added: '+', removed: '−', renamed: '→', changed: '~', carried: '⇥' }
const KIND_WORD = {
  added: 'new',
  removed: 'removed',
  renamed: 'renamed',
  changed: 'changed',
  carried: 'carried'
}
</script>

<template>
  <ul class="changes">
    <li
      v-for="(change, at) in changes"
      :key="at"
      :class="[change.kind, { left: isLeft(change), along: along.has(change.key), choosing: chosen }]">
      <component :is="chosen ? 'label' : 'span'">
        <input
          v-if="chosen"
          type="checkbox"
          :aria-label="change.sentence"
          :checked="!isLeft(change)"
          @change="emit('take', change.key, ($event.target as HTMLInputElement).checked)" />
        <span class="kind" :title="KIND_WORD[change.kind]" aria-hidden="true">{{ KIND[change.kind] }}</span>
        <span class="visually-hidden">{{ KIND_WORD[change.kind] }}:{{ ' ' }}</span>
        <span class="said">{{ change.sentence }}</span>
      </component>
    </li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0 0 12px;
  padding: 0;
}
li > * {
  display: grid;
  grid-template-columns: 14px minmax(0, 1fr);
  column-gap: 6px;
  padding: 2px 0;
  overflow-wrap: anywhere;
}
li.choosing > * {
  grid-template-columns: 15px 14px minmax(0, 1fr);
  cursor: pointer;
}
li.choosing > *:hover {
  background: var(--sheet);
}
input {
  margin: 3px 0 0;
  width: 14px;
  height: 14px;
}
.kind {
  font-family: var(--mono);
  font-weight: 700;
  text-align: center;
}
.added .kind {
  color: var(--added);
}
.removed .kind {
  color: var(--deleted);
}
.renamed .kind,
.carried .kind {
  color: var(--act);
}
.changed .kind {
  color: var(--chosen);
}
.left .said,
.left .kind {
  color: var(--quiet);
}
li.choosing {
  padding-left: 4px;
  border-left: 3px solid transparent;
}
li.along {
  border-left-color: var(--chosen);
}
</style>
