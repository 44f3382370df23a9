<script setup lang="ts">
import type { Answers, ChangeQuestion } from '../../core/restructure/change.ts'

/** What is to be said before a change of mind is done. */
const props = defineProps<{ asks: readonly ChangeQuestion[]; answers: Answers }>()
const emit = defineEmits<{ answer: [answers: Answers] }>()

const said = (ask: ChangeQuestion): string | readonly string[] => props.answers[ask.id] ?? ask.proposed
const say = (ask: ChangeQuestion, value: string | string[]): void =>
  emit('answer', { ...props.answers, [ask.id]: value })

function toggle(ask: ChangeQuestion, value: string): void {
  const now = said(ask)
  const list = typeof now === 'string' ? [now] : [...now]
  say(ask, list.includes(value) ? list.filter((each) => each !== value) : [...list, value])
}
</script>

<template>
  <div v-for="ask in asks" :key="ask.id" class="ask">
    <span class="quiet" aria-hidden="true">{{ ask.asks }}</span>
    <input
      v-if="ask.kind === 'name'"
      class="field mono"
      :aria-label="ask.asks"
      :value="said(ask)"
      spellcheck="false"
      @change="say(ask, ($event.target as HTMLInputElement).value)" />
    <select
      v-else-if="ask.kind === 'choice'"
      class="field"
      :aria-label="ask.asks"
      :value="said(ask)"
      @change="say(ask, ($event.target as HTMLSelectElement).value)">
      <option v-for="option in ask.options" :key="option.value" :value="option.value">
        {{ option.words }}
      </option>
    </select>
    <span v-else class="some" role="group" :aria-label="ask.asks">
      <label v-for="option in ask.options" :key="option.value" class="mono"
        ><input
          type="checkbox"
          :checked="said(ask).includes(option.value)"
          @change="toggle(ask, option.value)" />{{ option.words }}</label
      >
    </span>
  </div>
</template>

<style scoped>
.ask {
  display: grid;
  grid-template-columns: 200px 1fr;
  gap: 4px 14px;
  align-items: baseline;
  padding: 5px 0;
  border-top: 1px solid var(--hair);
}
.field {
  justify-self: start;
  max-width: 100%;
  min-width: 220px;
}
.some {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  font-size: 12.5px;
}
.some label {
  display: inline-flex;
  gap: 5px;
  align-items: center;
}
</style>
