<script setup lang="ts">
import { computed, nextTick, reactive, ref } from 'vue'
import { NOTHING_STANDING, type Standing } from '../../core/design/model.ts'
import { giveStanding, lackingStanding } from '../../core/relate/standing.ts'
import { readRenewed, sayRenewed } from '../../core/typing/given.ts'
import { readStanding, standingLine, type StandingLine } from '../../core/typing/standing.ts'
import type { Operation } from '../../core/edit/operation.ts'
import ChoiceMenu from '../parts/ChoiceMenu.vue'
import { RENEWERS, wordsOf } from '../sheet/kept.ts'
import TypeField from '../sheet/TypeField.vue'
import { useDesign } from '../stores/design.ts'

/** What every new table begins with, and what tables that are there would get of it before it is done. */
const emit = defineEmits<{ close: [] }>()
const store = useDesign()
const now = store.design?.standing ?? NOTHING_STANDING
const key = ref<Standing['key']>(now.key)
const lists = reactive({ tables: now.tables.map(standingLine), junctions: now.junctions.map(standingLine) })

const KINDS = { tables: 'a table, beside its key', junctions: 'a junction, beside its sides' } as const
type Kind = keyof typeof KINDS
/** What many begin with, to be had at a keystroke. */
const USUAL: StandingLine[] = [
  { name: 'made_at', type: 'timestamp zone', required: true, default: 'now' },
  { name: 'changed_at', type: 'timestamp zone', required: true, default: 'now on change' },
  { name: 'changed_by', type: 'text(80)', required: false, default: '' }
]
const usualFor = (kind: Kind): StandingLine[] =>
  USUAL.filter((usual) => !lists[kind].some(({ name }) => name === usual.name))

const read = computed(() => ({
  tables: readStanding(lists.tables),
  junctions: readStanding(lists.junctions)
}))
const fault = computed(() =>
  read.value.tables.ok
    ? read.value.junctions.ok
      ? ''
      : read.value.junctions.message
    : read.value.tables.message
)
const standing = computed((): Standing | undefined =>
  read.value.tables.ok && read.value.junctions.ok
    ? { tables: read.value.tables.value, junctions: read.value.junctions.value, key: key.value }
    : undefined
)
const lacking = computed(() =>
  store.design && standing.value
    ? lackingStanding({ tables: store.design.tables, standing: standing.value })
    : []
)
/** As many as a person reads; the others are counted. */
const SHOWN = 8

const card = ref<HTMLElement>()
function add(kind: Kind, line: StandingLine): void {
  lists[kind].push({ ...line })
  void nextTick(() =>
    card.value?.querySelector<HTMLInputElement>(`[data-kind=${kind}] .line:last-of-type input`)?.focus()
  )
}

function adopt(existing: boolean): void {
  if (!standing.value) return
  const { tables, junctions } = standing.value
  const isNothing = tables.length + junctions.length === 0 && key.value === 'normal'
  const set: Operation = { kind: 'design.setStanding', standing: isNothing ? null : standing.value }
  const gives = existing ? [giveStanding(lacking.value)] : []
  const label = 'change what every table begins with'
  if (!store.submit(gives.length > 0 ? { kind: 'batch', label, operations: [set, ...gives] } : set))
    emit('close')
}
</script>

<template>
  <form ref="card" class="head-card" @submit.prevent="adopt(false)">
    <fieldset>
      <legend>key</legend>
      <label
        ><input v-model="key" type="radio" name="standing-key" value="normal" /> integer, generated</label
      >
      <label><input v-model="key" type="radio" name="standing-key" value="big" /> bigint, generated</label>
    </fieldset>
    <div v-for="(words, kind) in KINDS" :key="kind" :data-kind="kind" class="kind">
      <p class="quiet">{{ words }}</p>
      <div>
        <div v-for="(line, at) in lists[kind]" :key="at" class="line mono">
          <input
            v-model="line.name"
            class="lined"
            placeholder="name"
            :aria-label="`Name of what ${kind} begin with`"
            spellcheck="false" />
          <TypeField v-model="line.type" :label="`Type of ${line.name}`" placeholder="type" />
          <label class="flag"><input v-model="line.required" type="checkbox" />required</label>
          <input
            v-model="line.default"
            class="lined"
            placeholder="default"
            :aria-label="`Default of ${line.name}`"
            spellcheck="false" />
          <ChoiceMenu
            class="by"
            v-if="readRenewed(line.default).renewed"
            :value="readRenewed(line.default).renewed ?? 'database'"
            :words="wordsOf(RENEWERS, readRenewed(line.default).renewed ?? 'database')"
            :options="RENEWERS"
            :label="`What renews ${line.name}`"
            @choose="line.default = sayRenewed(readRenewed(line.default).first.trim(), $event)" />
          <button
            type="button"
            class="link small"
            :aria-label="`remove ${line.name}`"
            @click="lists[kind].splice(at, 1)">
            remove
          </button>
        </div>
        <p class="usual">
          <button
            type="button"
            class="link quiet"
            @click="add(kind, { name: '', type: '', required: false, default: '' })">
            another column…
          </button>
          <button
            v-for="usual in usualFor(kind)"
            :key="usual.name"
            type="button"
            class="link"
            @click="add(kind, usual)">
            {{ usual.name }}
          </button>
        </p>
      </div>
    </div>
    <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
    <div v-else-if="lacking.length > 0" class="preview">
      <p class="quiet">{{ lacking.length === 1 ? '1 table' : `${lacking.length} tables` }} would get:</p>
      <ul>
        <li v-for="each in lacking.slice(0, SHOWN)" :key="each.table.id">
          <span class="mono">{{ each.table.name }}</span>
          <span class="quiet">{{ each.columns.map(({ name }) => name).join(', ') }}</span>
        </li>
      </ul>
      <p v-if="lacking.length > SHOWN" class="quiet">and {{ lacking.length - SHOWN }} more</p>
    </div>
    <p class="acts">
      <button type="submit" class="button" :disabled="fault !== ''">For what is new</button>
      <button
        v-if="lacking.length > 0"
        type="button"
        class="button main"
        :disabled="fault !== ''"
        @click="adopt(true)">
        For what there is as well
      </button>
      <button type="button" class="link" @click="emit('close')">Leave it as it is</button>
    </p>
  </form>
</template>

<style scoped>
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  display: flex;
  gap: 2px 14px;
}
legend {
  padding: 0;
  float: left;
  width: 200px;
  color: var(--quiet);
}
.kind {
  display: grid;
  grid-template-columns: 186px minmax(0, 1fr);
  gap: 14px;
}
.line {
  display: grid;
  grid-template-columns: 160px 190px 84px 120px auto auto;
  gap: 0 12px;
  padding: 2px 0;
  align-items: center;
  justify-content: start;
}
.flag {
  font: 12px var(--sans);
  color: var(--quiet);
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
.by {
  font: 13px var(--sans);
}
.usual {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
}
.link.quiet {
  color: var(--quiet);
}
ul {
  margin: 2px 0;
  padding: 0;
  list-style: none;
  columns: 2;
}
li {
  display: flex;
  gap: 10px;
}
</style>
