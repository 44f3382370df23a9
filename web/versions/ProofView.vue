<script setup lang="ts">
import { DIALECTS } from '../../core/dialect/index.ts'
import type { Job, ProofState } from '../api/client.ts'

/** A proof as a chain of steps from left to right, one row for each engine. */
defineProps<{ job: Job }>()

const WORDS = {
  waiting: 'waiting',
  running: 'running',
  good: 'good',
  failed: 'failed',
  cancelled: 'cancelled'
}

function verdict(state: ProofState): { words: string; tone: string } {
  if (state.phase === 'waiting') return { words: 'waits its turn', tone: '' }
  if (state.phase === 'starting') return { words: 'the engine is starting', tone: '' }
  if (state.phase === 'broken') return { words: state.message ?? 'stopped', tone: 'failed' }
  if (state.phase === 'running') return { words: 'running', tone: '' }
  if (state.proof?.good) return { words: 'proven', tone: 'good' }
  return state.proof?.cancelled ? { words: 'cancelled', tone: '' } : { words: 'not proven', tone: 'failed' }
}
</script>

<template>
  <div class="proof" role="status">
    <section
      v-for="state in job.states"
      :key="state.engine"
      :aria-label="`Proof on ${state.title || DIALECTS[state.engine].title}`">
      <h3>
        <b>{{ state.title || DIALECTS[state.engine].title }}</b>
        {{ ' ' }}
        <span :class="verdict(state).tone">{{ verdict(state).words }}</span>
      </h3>
      <ol v-if="state.proof">
        <li v-for="step in state.proof.steps" :key="step.name" :class="`is-${step.state}`">
          <span class="bar" aria-hidden="true"
            ><i
              :style="{
                width: step.state === 'good' ? '100%' : step.of > 0 ? `${(100 * step.done) / step.of}%` : '0'
              }"
          /></span>
          <span>{{ step.name }}</span>
          <span class="quiet small"
            >{{ WORDS[step.state]
            }}<template v-if="step.state === 'running' && step.of > 0">
              {{ step.done }} of {{ step.of }}</template
            ></span
          >
        </li>
      </ol>
      <template v-if="state.proof?.good && state.proof.unproven.length > 0">
        <p class="quiet small">Not tried:</p>
        <ul class="quiet small" aria-label="What the proof says nothing of">
          <li v-for="line in state.proof.unproven" :key="line">{{ line }}</li>
        </ul>
      </template>
      <template v-for="step in state.proof?.steps ?? []" :key="step.name">
        <div v-if="step.error" class="trouble">
          <p class="failed">At “{{ step.name }}” the engine said: {{ step.error.message }}</p>
          <pre v-if="step.error.sql" class="mono" tabindex="0">{{ step.error.sql }}</pre>
        </div>
        <table v-if="step.differences.length > 0" class="trouble">
          <caption>
            {{
              step.name
            }}:
            {{
              step.differences.length
            }}
            differences
          </caption>
          <thead>
            <tr>
              <th>table</th>
              <th>what</th>
              <th>expected</th>
              <th>found</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(each, at) in step.differences" :key="at">
              <td>{{ each.table }}</td>
              <td>{{ each.what }}</td>
              <td class="mono">{{ each.expected }}</td>
              <td class="mono">{{ each.found }}</td>
            </tr>
          </tbody>
        </table>
      </template>
    </section>
  </div>
</template>

<style scoped>
section + section {
  margin-top: 10px;
}
h3 {
  display: flex;
  gap: 10px;
}
.good {
  color: var(--added);
}
.failed {
  color: var(--deleted);
}
ol {
  list-style: none;
  margin: 5px 0 0;
  padding: 0;
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: minmax(0, 1fr);
  gap: 2px;
}
li {
  display: grid;
  gap: 1px;
  padding-right: 8px;
  align-content: start;
  line-height: 1.3;
}
.bar {
  height: 4px;
  background: var(--hair);
  margin-right: -8px;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--quiet);
  transition: width 0.15s;
}
li.is-good .bar i {
  background: var(--added);
}
li.is-failed .bar i {
  background: var(--deleted);
  width: 100% !important;
}
li.is-good .small {
  color: var(--added);
}
li.is-failed .small {
  color: var(--deleted);
}
.trouble {
  margin-top: 8px;
}
pre {
  margin: 4px 0 0;
  padding: 6px 10px;
  background: var(--tint);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
table {
  border-collapse: collapse;
}
caption {
  text-align: left;
  color: var(--deleted);
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--quiet);
  font-size: 12px;
}
td,
th {
  padding: 2px 16px 2px 0;
  vertical-align: top;
}
</style>
