<script setup lang="ts">
import type { Job, ProofState } from '../api/client.ts'
import { useRehearsal } from '../stores/rehearsal.ts'

/** What real engines do with what is tried, a line for each. */
defineProps<{ job: Job | undefined; failure: string }>()
const rehearsal = useRehearsal()

const titleOf = (engine: string): string =>
  rehearsal.dialects.find(({ name }) => name === engine)?.title ?? engine

function sayRun(state: ProofState): { words: string; tone: string } {
  if (state.phase === 'broken') return { words: state.message ?? 'it could not be run', tone: 'deleted' }
  if (!state.run) return { words: state.phase === 'starting' ? 'starts…' : 'runs…', tone: '' }
  const [refused] = state.run.refusals
  if (!state.run.same) return { words: 'does something else', tone: 'deleted' }
  return { words: refused ? `the same: ${refused.message}` : 'the same rows, each of them', tone: 'changed' }
}
</script>

<template>
  <ul class="runs" role="status" aria-label="On real engines">
    <li v-if="failure" class="effect-deleted">{{ failure }}</li>
    <li v-for="state in job?.states ?? []" :key="state.engine">
      <b>{{ state.title || titleOf(state.engine) }}</b>
      <span :class="sayRun(state).tone && `effect-${sayRun(state).tone}`">{{ sayRun(state).words }}</span>
      <code v-if="state.run" class="mono quiet">{{ state.run.said.join('; ') }}</code>
    </li>
  </ul>
</template>

<style scoped>
.runs {
  list-style: none;
  margin: 0;
  padding: 6px 20px;
  background: var(--sheet);
  border-top: 1px solid var(--line);
  max-height: 30vh;
  overflow: auto;
}
.runs li {
  display: flex;
  gap: 12px;
  align-items: baseline;
  min-width: 0;
}
.runs code {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  margin-left: auto;
  max-width: 50%;
}
</style>
