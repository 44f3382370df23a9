<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { newId, type Ruling, type Verdict } from '../../core/design/model.ts'
import { fittingVerdicts, ruledStatements } from '../../core/rehearse/ruling.ts'
import { sayTrial } from '../../core/rehearse/words.ts'
import { useDesign } from '../stores/design.ts'
import { useRehearsal } from '../stores/rehearsal.ts'

/** What is being tried, with a verdict, to be kept with the design. */
const emit = defineEmits<{ done: [] }>()
const store = useDesign()
const rehearsal = useRehearsal()

const design = computed(() => rehearsal.sound?.design)
const fitting = computed(() =>
  design.value && rehearsal.shown ? fittingVerdicts(design.value, rehearsal.shown.rehearsed) : []
)
/** The other way round, for what is to be and is not yet. */
const contrary = computed((): Verdict[] => [
  { is: (rehearsal.shown?.rehearsed.refusals.length ?? 0) > 0 ? 'taken' : 'refused' }
])
const verdicts = computed(() => [...fitting.value, ...contrary.value])
const at = ref(0)

function say(verdict: Verdict): string {
  switch (verdict.is) {
    case 'taken':
      return 'must be taken'
    case 'refused':
      return verdict.by === undefined ? 'must be refused' : 'must be refused, by this rule'
    case 'takes along':
      return verdict.rows.length === 1
        ? 'must take this row along'
        : `must take these ${verdict.rows.length} rows along`
  }
}
const what = computed(() =>
  design.value
    ? rehearsal.statements.map((each) => sayTrial(design.value as never, each)).join(', then ')
    : ''
)
const proposed = computed(() => {
  const verdict = verdicts.value[at.value]
  return verdict ? `To ${what.value} ${say(verdict).replace(/, by this rule$/, '')}.` : ''
})
const says = ref('')
const field = ref<HTMLInputElement>()
onMounted(() => field.value?.focus())

/** A ruling is about a few rows: it is read, and tried with each edit. */
const FEW = 200
const isTooMany = computed(() => {
  const verdict = verdicts.value[at.value]
  const along = verdict?.is === 'takes along' ? verdict.rows.length : 0
  return along > FEW || rehearsal.statements.some(({ rows }) => rows.length > FEW)
})

function keep(): void {
  const verdict = verdicts.value[at.value]
  if (!design.value || !verdict) return
  if (isTooMany.value) return store.say(`A ruling names ${FEW} rows at the most: try it with fewer.`)
  const ruling: Ruling = {
    id: newId('u'),
    says: (says.value.trim() || proposed.value).slice(0, 300),
    statements: ruledStatements(design.value, { statements: rehearsal.statements }),
    together: rehearsal.together,
    ...(rehearsal.deferring && { deferring: true as const }),
    verdict
  }
  if (store.submit({ kind: 'ruling.add', ruling })) return
  store.say(`Kept as a ruling: “${ruling.says}”`)
  emit('done')
}
</script>

<template>
  <form class="ruling" @submit.prevent="keep" @keydown.stop @keydown.esc="emit('done')">
    <b>A ruling:</b>
    <span class="quiet">it</span>
    <select v-model="at" class="choice" aria-label="What must come of it">
      <option v-for="(verdict, index) in verdicts" :key="index" :value="index">
        {{ say(verdict) }}{{ index >= fitting.length ? ', which it is not yet' : '' }}
      </option>
    </select>
    <span class="quiet">since</span>
    <input
      ref="field"
      v-model="says"
      class="lined"
      maxlength="300"
      aria-label="What it says"
      :placeholder="proposed" />
    <button type="submit" class="button main">Keep the ruling <kbd>Enter</kbd></button>
    <button type="button" class="button" @click="emit('done')">Leave it <kbd>Esc</kbd></button>
  </form>
</template>

<style scoped>
.ruling {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 8px 20px;
  background: var(--sheet);
  border-top: 1px solid var(--line);
}
.ruling input {
  flex: 1;
}
</style>
