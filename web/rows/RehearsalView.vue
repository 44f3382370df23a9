<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { tableOf } from '../../core/design/directory.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { counted } from '../../core/naming/words.ts'
import { placeInWhole } from '../../core/rehearse/sound-rows.ts'
import type { Effect, EffectKind } from '../../core/rehearse/trial.ts'
import { labelBeside, rowLabel } from '../../core/relate/label.ts'
import { EFFECT_WORDS, sayEffect, sayRefusal, sayTrial } from '../../core/rehearse/words.ts'
import type { Relation } from '../bench/useRelation.ts'
import { useShortcuts } from '../frame/shortcuts.ts'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'
import { useRehearsal, type Outcome } from '../stores/rehearsal.ts'
import RulingForm from '../rulings/RulingForm.vue'
import RealRuns from './RealRuns.vue'
import RuleChoice from './RuleChoice.vue'
import { useRealRuns } from './useRealRuns.ts'

/** What is tried, and its effects from left to right: each column one reference further from where it began. */
const emit = defineEmits<{ done: []; walk: [table: string, place: number | undefined] }>()
const store = useDesign()
const rehearsal = useRehearsal()

/** How long a step is looked at before the next one comes (milliseconds). */
const BEAT = 500
/** How many rows of a group are named. */
const NAMED = 7

const design = computed(() => rehearsal.sound?.design)
const effects = computed(() => rehearsal.shown?.rehearsed.effects ?? [])
const refusals = computed(() => rehearsal.shown?.rehearsed.refusals ?? [])
const last = computed(() => {
  const steps = effects.value.map(({ step }) => step)
  if (refusals.value.length > 0) steps.push(refusedStep.value)
  return steps.reduce((most, step) => Math.max(most, step), 0)
})
/** The step at which it is refused, one further than what was refused. */
const refusedStep = computed(() => {
  const [refusal] = refusals.value
  const above = refusal?.effect === undefined ? undefined : effects.value[refusal.effect]
  return above ? above.step + 1 : 0
})

interface Group {
  key: string
  table: string
  kind: EffectKind
  /** The reference through which it came. */
  by: string | undefined
  effects: Effect[]
}

const columns = computed(() => {
  const steps = Array.from({ length: last.value + 1 }, () => new Map<string, Group>())
  for (const effect of effects.value) {
    const { table, kind, cause, step } = effect
    const key = `${table} ${kind} ${cause?.foreignKey ?? ''}`
    const group = steps[step]?.get(key)
    if (group) group.effects.push(effect)
    else steps[step]?.set(key, { key, table, kind, by: cause?.foreignKey, effects: [effect] })
  }
  return steps.map((groups) => [...groups.values()])
})

const shown = ref(0)
let timer: ReturnType<typeof setInterval> | undefined
const isStill = (): boolean => window.matchMedia('(prefers-reduced-motion: reduce)').matches
function play(): void {
  clearInterval(timer)
  if (isStill()) return void (shown.value = last.value)
  shown.value = 0
  timer = setInterval(() => {
    if (shown.value >= last.value) clearInterval(timer)
    else shown.value++
  }, BEAT)
}
watch(effects, play, { immediate: true })
onBeforeUnmount(() => clearInterval(timer))

function step(by: number): void {
  clearInterval(timer)
  shown.value = Math.max(0, Math.min(shown.value + by, last.value))
}

const said = computed(() =>
  design.value
    ? rehearsal.statements.map((statement, at) => ({
        at,
        text: sayTrial(design.value as NonNullable<typeof design.value>, statement),
        refused: refusals.value.find((each) => each.statement === at)
      }))
    : []
)
const title = computed(() => said.value.map(({ text }) => text).join(', then '))

function verdict({ rehearsed, orphans, touched }: Outcome): { words: string; tone: string } {
  if (rehearsed.refusals.length > 0) return { words: 'refused', tone: 'refused' }
  const lost = orphans.reduce((sum, { rows }) => sum + rows.length, 0)
  if (lost > 0) return { words: `${counted(lost, 'row')} left astray`, tone: 'deleted' }
  return { words: counted(touched, 'row'), tone: '' }
}
const nameOf = (id: string): string => (design.value && tableOf(design.value, id)?.name) ?? ''
const marksOf = (id: string): ReturnType<typeof tableMarks> => {
  const table = store.design && tableOf(store.design, id)
  return store.design && table ? tableMarks(store.design, table) : []
}
/** What a row is called; beside the only one that it refers to, without that one's name. */
function rowOf(effect: Effect, { by, effects: all }: Group): string {
  const [from, row] = [design.value, effect.before ?? effect.after]
  const table = from && tableOf(from, effect.table)
  if (!from || !table || !row) return ''
  const isBeside = by !== undefined && all.every(({ cause }) => cause?.effect === effect.cause?.effect)
  return isBeside ? labelBeside(from, table, row, by) : rowLabel(from, table, row)
}
const why = (effect: Effect): string => (design.value ? sayEffect(design.value, effects.value, effect) : '')
/** The relationship through which rows of a table are come to, as the design has it. */
function relationBy(table: string, key: string | undefined): Relation | undefined {
  const child = store.design && tableOf(store.design, table)
  const foreignKey = child?.foreignKeys.find(({ id }) => id === key)
  const parent = foreignKey && store.design && tableOf(store.design, foreignKey.table)
  return child && parent && foreignKey ? { child, parent, foreignKey } : undefined
}
/** Whether an effect came of a row that goes, or of one that gets another key. */
const cameOf = (effect: number | undefined): 'delete' | 'update' =>
  effects.value[effect ?? -1]?.kind === 'deleted' ? 'delete' : 'update'
/** What is left that refers to nothing, where nothing is held. */
const astray = computed(() => {
  const outcome = rehearsal.shown
  return (outcome?.orphans ?? []).map(({ table: id, foreignKey, rows }) => {
    const table = outcome?.after && tableOf(outcome.after, id)
    const labels = rows.slice(0, NAMED).map((place) => {
      const row = table?.rows[place]
      return outcome?.after && table && row ? rowLabel(outcome.after, table, row) : ''
    })
    return { key: foreignKey, table: id, rows: rows.length, labels }
  })
})
/** What a connection says that asks for references to be held. */
const asking = computed(() => rehearsal.shown?.dialect.engine?.onConnect.join('; ') ?? '')
const refusedWords = computed(() =>
  design.value && rehearsal.shown
    ? refusals.value.map((refusal) =>
        sayRefusal(design.value as never, rehearsal.shown?.rehearsed as never, refusal)
      )
    : []
)

function walk(effect: Effect): void {
  const place = rehearsal.sound ? placeInWhole(rehearsal.sound, effect.table, effect.place) : effect.place
  rehearsal.putBack()
  emit('walk', effect.table, place)
}
function putBack(): void {
  rehearsal.putBack()
  emit('done')
}
/** Whether it can be kept: it is worked out, not refused, and leaves nothing astray. */
const mayKeep = computed(
  () => !rehearsal.isWorking && refusals.value.length === 0 && astray.value.length === 0
)
function keep(): void {
  if (!mayKeep.value) return
  rehearsal.keep(title.value)
  emit('done')
}

const { job, failure, running, tryReally, cancel, stop } = useRealRuns()
watch([effects, refusals], stop)

/** Whether what is tried is being made a ruling. */
const ruling = ref(false)
function ruled(): void {
  ruling.value = false
  root.value?.focus()
}

const root = ref<HTMLElement>()
/** Whether no button has the keyboard: one that was pressed may be gone with what it offered. */
const isFree = (target: EventTarget | null): boolean => target === root.value || target === document.body
onMounted(() => root.value?.focus())
useShortcuts((event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return false
  if (event.key === 'Escape') putBack()
  else if (event.key === 'ArrowRight') step(1)
  else if (event.key === 'ArrowLeft') step(-1)
  else if (event.key === 'Enter' && isFree(event.target)) keep()
  else return false
  return true
})
</script>

<template>
  <section ref="root" class="rehearsal" tabindex="-1" aria-label="Rehearsal">
    <header>
      <div class="what">
        <h1>If you {{ title }}</h1>
        <p v-if="rehearsal.isWorking" class="quiet" role="status">being worked out…</p>
        <p v-else-if="refusals.length === 0" class="quiet" role="status">
          {{ counted(effects.length, 'effect') }} on {{ rehearsal.shown?.title }}; nothing is kept yet.
        </p>
        <p v-else class="effect-refused" role="status">
          {{ rehearsal.shown?.title }} refuses it: everything stays as it was.
        </p>
      </div>
      <div class="engines" role="group" aria-label="What each engine does">
        <button
          v-for="outcome in rehearsal.outcomes"
          :key="outcome.name"
          type="button"
          class="engine"
          :class="[
            verdict(outcome).tone && `effect-${verdict(outcome).tone}`,
            { on: outcome === rehearsal.shown }
          ]"
          :aria-pressed="outcome === rehearsal.shown"
          @click="rehearsal.chosen = outcome.name">
          <span
            >{{ outcome.title }} <small v-if="!outcome.dialect.facts.runs">as its manual says</small></span
          >
          <b>{{ verdict(outcome).words }}</b>
        </button>
        <p v-if="rehearsal.differs" class="differ">They do not agree.</p>
      </div>
      <div class="acts">
        <button type="button" class="button" @click="putBack">Put it back <kbd>Esc</kbd></button>
        <button type="button" class="button main" :disabled="!mayKeep" @click="keep">
          Keep it <kbd>Enter</kbd>
        </button>
      </div>
    </header>
    <div class="steps">
      <div v-for="(groups, at) in columns" :key="at" class="step" :class="{ yet: at > shown }">
        <h2>{{ at === 0 ? 'what you do' : at === 1 ? 'what refers to it' : `${at} references on` }}</h2>
        <article v-for="group in groups" :key="group.key" class="group" :class="group.kind">
          <h3>
            <KeyMark v-for="mark in marksOf(group.table)" :key="mark.key" :mark="mark" />
            <span class="table">{{ nameOf(group.table) }}</span>
          </h3>
          <p class="tally" :class="`effect-${group.kind}`">
            {{ counted(group.effects.length, nameOf(group.table)) }}
            {{ refusals.length > 0 ? 'would be ' : '' }}{{ EFFECT_WORDS[group.kind] }}
          </p>
          <ul>
            <li v-for="effect in group.effects.slice(0, NAMED)" :key="effect.place" :title="why(effect)">
              <button type="button" class="row" @click="walk(effect)">{{ rowOf(effect, group) }}</button>
            </li>
            <li v-if="group.effects.length > NAMED" class="quiet">
              and {{ (group.effects.length - NAMED).toLocaleString('en-GB') }} more
            </li>
          </ul>
          <RuleChoice
            v-if="relationBy(group.table, group.by)"
            :relation="relationBy(group.table, group.by)!"
            :on="cameOf(group.effects[0]?.cause?.effect)" />
        </article>
        <article
          v-for="(refusal, index) in at === refusedStep ? refusals : []"
          :key="index"
          class="group refused"
          role="alert">
          <h3>
            <KeyMark v-for="mark in marksOf(refusal.table)" :key="mark.key" :mark="mark" />
            <span class="table">{{ nameOf(refusal.table) }}</span>
          </h3>
          <p class="tally effect-refused">refuses</p>
          <p>{{ refusedWords[index] }}</p>
          <RuleChoice
            v-if="refusal.kind === 'reference' && relationBy(refusal.table, refusal.of)"
            stands
            :relation="relationBy(refusal.table, refusal.of)!"
            :on="cameOf(refusal.effect)" />
        </article>
      </div>
      <div v-if="astray.length > 0" class="step">
        <h2>left, and pointing at nothing</h2>
        <article v-for="lost in astray" :key="lost.key" class="group deleted">
          <h3>
            <KeyMark v-for="mark in marksOf(lost.table)" :key="mark.key" :mark="mark" />
            <span class="table">{{ nameOf(lost.table) }}</span>
          </h3>
          <p class="tally effect-deleted">{{ counted(lost.rows, nameOf(lost.table)) }} left astray</p>
          <ul>
            <li v-for="(each, at) in lost.labels" :key="at">{{ each }}</li>
            <li v-if="lost.rows > lost.labels.length" class="quiet">
              and {{ lost.rows - lost.labels.length }} more
            </li>
          </ul>
          <p class="quiet">
            The connection has not said <span class="mono">{{ asking }}</span>, so that nothing holds these
            rows to what they refer to.
          </p>
        </article>
      </div>
    </div>
    <RealRuns v-if="job || failure" :job="job" :failure="failure" />
    <RulingForm v-if="ruling" @done="ruled" />
    <footer>
      <button type="button" class="link" :disabled="shown === 0" @click="step(-1)">
        a step back <kbd>←</kbd>
      </button>
      <button type="button" class="link" :disabled="shown >= last" @click="step(1)">
        a step on <kbd>→</kbd>
      </button>
      <button type="button" class="link" @click="play">play it again</button>
      <button v-if="!running" type="button" class="link" @click="tryReally">run it on real engines</button>
      <button v-else type="button" class="link" @click="cancel">stop the engines</button>
      <button v-if="!ruling" type="button" class="link" @click="ruling = true">make it a ruling</button>
      <span v-if="said.length > 1" class="list quiet">
        <span v-for="each in said" :key="each.at"
          >{{ each.at + 1 }}. {{ each.text
          }}<button
            type="button"
            class="link"
            :aria-label="`Leave out: ${each.text}`"
            @click="rehearsal.without(each.at)">
            leave out
          </button></span
        >
      </span>
      <label v-if="said.length > 1"
        ><input v-model="rehearsal.together" type="checkbox" /> in one transaction</label
      >
      <label v-if="rehearsal.together" title="SET CONSTRAINTS ALL DEFERRED, where the engine has it"
        ><input v-model="rehearsal.deferring" type="checkbox" /> look at references when it ends</label
      >
    </footer>
  </section>
</template>

<style scoped>
.rehearsal {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto auto;
  min-height: 0;
  outline: none;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  align-items: start;
  padding: 6px 20px 12px;
}
.what {
  min-width: 0;
  flex: 1 1 400px;
}
h1 {
  font-size: 16px;
  font-weight: 600;
  overflow-wrap: anywhere;
}
.engines {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  flex: 1 1 100%;
  order: 1;
}
.engine {
  border: 1px solid var(--line);
  background: var(--sheet);
  padding: 3px 10px;
  cursor: pointer;
  display: flex;
  flex-direction: column;
  align-items: start;
  line-height: 1.3;
}
.engine span {
  color: var(--quiet);
  font-size: 12px;
}
.engine small {
  color: var(--quiet);
  font-size: 11px;
}
.engine.on {
  border-color: var(--chosen);
  box-shadow: inset 0 -2px 0 var(--chosen);
}
.differ {
  color: var(--refused);
  font-weight: 600;
}
.acts {
  display: flex;
  gap: 8px;
  flex: none;
}
.steps {
  display: flex;
  gap: 34px;
  overflow: auto;
  padding: 0 20px 16px;
  min-height: 0;
}
.step {
  flex: 0 0 280px;
  min-width: 0;
  display: flex;
  flex-direction: column;
  gap: 10px;
  transition: opacity 0.25s;
  position: relative;
}
.step.yet {
  opacity: 0.12;
}
.step + .step::before {
  content: '';
  position: absolute;
  left: -34px;
  top: 44px;
  width: 34px;
  border-top: 1.3px solid var(--wire);
}
h2 {
  font-size: 12px;
  color: var(--quiet);
}
.group {
  background: var(--sheet);
  border: 1px solid var(--line);
  border-left: 3px solid var(--line);
  padding: 7px 11px 8px;
  flex: none;
}
.group.deleted {
  border-left-color: var(--deleted);
}
.group.emptied,
.group.defaulted {
  border-left-color: var(--emptied);
}
.group.refused {
  border-left-color: var(--refused);
}
.group.changed {
  border-left-color: var(--act);
}
.group.inserted {
  border-left-color: var(--added);
}
h3 {
  display: flex;
  gap: 7px;
  align-items: center;
}
.table {
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.tally {
  font-weight: 600;
}
ul {
  list-style: none;
  margin: 3px 0 0;
  padding: 0;
}
li {
  border-top: 1px solid var(--hair);
}
.row {
  border: 0;
  background: none;
  padding: 2px 0;
  width: 100%;
  text-align: left;
  cursor: pointer;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  display: block;
}
.deleted .row {
  text-decoration: line-through;
  text-decoration-color: var(--deleted);
}
.row:hover {
  color: var(--act);
}
footer {
  display: flex;
  grid-row: 4;
  gap: 18px;
  align-items: center;
  flex-wrap: wrap;
  padding: 8px 20px;
  border-top: 1px solid var(--line);
  background: var(--sheet);
}
.list {
  display: flex;
  gap: 12px;
  flex-wrap: wrap;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
