<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { Design } from '../../core/design/model.ts'
import { tableOf } from '../../core/design/directory.ts'
import { sayEfforts } from '../../core/dialect/effort.ts'
import type { DialectName } from '../../core/dialect/dialect.ts'
import { DIALECTS, dialectsOf, PROVABLE } from '../../core/dialect/index.ts'
import { compareBeside, compareDesigns } from '../../core/version/compare.ts'
import { sayCarried } from '../../core/version/counted.ts'
import { hindrances } from '../../core/version/hindered.ts'
import { planMigration } from '../../core/version/plan.ts'
import {
  dropKeepsakes,
  effortsIn,
  migrationScript,
  setAside,
  whyNothing,
  type Way
} from '../../core/version/script.ts'
import { api, type StateName } from '../api/client.ts'
import { download } from '../parts/files.ts'
import CopyButton from '../parts/CopyButton.vue'
import SqlText from '../parts/SqlText.vue'
import { useDesign } from '../stores/design.ts'
import ChangeList from './ChangeList.vue'
import { chosenDialect } from './chosenDialect.ts'
import { comparedIn } from './compared.ts'
import FillAsk from './FillAsk.vue'
import ForApplications from './ForApplications.vue'
import ProofView from './ProofView.vue'
import SaveVersion from './SaveVersion.vue'
import { useProof } from './useProof.ts'
import { useSome } from './useSome.ts'
import VersionLine from './VersionLine.vue'

const store = useDesign()
const router = useRouter()
const failure = ref('')

const dialects = computed(() => (store.draft ? dialectsOf(store.draft) : []))
const writer = computed(
  () =>
    dialects.value.find((each) => each.name === chosenDialect.value) ??
    dialects.value[0] ??
    DIALECTS.postgresql
)
const last = computed(() => store.versions.at(-1)?.number)
const { from, to, choose, show } = comparedIn(store.id, last)

// A saved version is fetched once, unless it has been saved anew.
const fetched = shallowRef(new Map<string, Design>())
const keyOf = (state: StateName | undefined): string =>
  `${state} ${store.versions.find(({ number }) => number === state)?.savedAt ?? ''}`
async function fetchVersion(state: StateName | undefined): Promise<void> {
  const key = keyOf(state)
  if (typeof state !== 'number' || fetched.value.has(key)) return
  try {
    const { design } = await api.version(store.id, state)
    fetched.value = new Map([...fetched.value, [key, design]])
  } catch (error) {
    failure.value = error instanceof Error ? error.message : String(error)
  }
}
watch(
  [() => keyOf(from.value), () => keyOf(to.value)],
  () => {
    void fetchVersion(from.value)
    void fetchVersion(to.value)
  },
  { immediate: true }
)
const designAt = (state: StateName | undefined): Design | undefined =>
  state === 'draft' ? store.draft : fetched.value.get(keyOf(state))
const before = computed(() => designAt(from.value))
const whole = computed(() => designAt(to.value))
const changes = computed(() => (before.value && whole.value ? compareDesigns(before.value, whole.value) : []))
const beside = computed(() => (before.value && whole.value ? compareBeside(before.value, whole.value) : []))

// The next version may have some of what has changed since the last.
const isNext = computed(() => from.value === last.value && to.value === 'draft')
const some = useSome(
  computed(() => (isNext.value ? before.value : undefined)),
  computed(() => store.draft)
)
const after = computed(() => some.design.value ?? whole.value)
const isChoosing = computed(() => isNext.value && some.of.value > 1)
const next = computed(() => (last.value ?? 0) + 1)
function say(state: StateName | undefined): string {
  if (state !== 'draft') return `version ${state}`
  return some.only.value ? `what is chosen for version ${next.value}` : 'the draft'
}
const plan = computed(() =>
  before.value && after.value && from.value !== to.value
    ? planMigration(before.value, after.value, writer.value)
    : undefined
)
function scriptOf(way: Way): string {
  if (!plan.value) return ''
  const [start, end] = way === 'up' ? [from.value, to.value] : [to.value, from.value]
  const ends = { from: `${store.draft?.name ?? ''}, ${say(start)}`, to: say(end) }
  return migrationScript(plan.value, way, ends)
}
const up = computed(() => scriptOf('up'))
const down = computed(() => scriptOf('down'))
const nothing = computed(() => whyNothing(changes.value, writer.value))
const aside = computed(() => ({
  up: plan.value && before.value ? setAside(plan.value, 'up', before.value) : [],
  down: plan.value && after.value ? setAside(plan.value, 'down', after.value) : []
}))
/** What each way carries and costs, with how many rows the design has there. */
const costs = computed(() => {
  const [ways, start, end] = [plan.value, before.value, after.value]
  if (!ways || !start || !end) return []
  const ends = { up: [start, end], down: [end, start] } as const
  return (['up', 'down'] as const)
    .filter((way) => ways[way].length > 0)
    .map((way) => {
      const [leaves, reaches] = ends[way]
      const efforts = effortsIn(ways, way)
      const rows = (id: string): number | undefined => tableOf(leaves, id)?.rows.length
      const said = sayEfforts(efforts, writer.value.effort, rows)
      return { way, said: [...sayCarried(ways.moves[way], reaches), ...said] }
    })
})
/** The design's own rows that up would stop at. */
const inTheWay = computed(() => {
  const [ways, start, end] = [plan.value?.ways.up, before.value, after.value]
  return ways && start && end ? hindrances(start, end, ways.moves, ways.input.to) : []
})
const warningsOf = (way: Way) => plan.value?.warnings[way].filter(({ effect }) => effect !== 'kept') ?? []

const { job, failure: proofFailure, running, start, stop, cancel } = useProof()
watch([from, to, some.only], stop)
const engines = ref<DialectName[]>(PROVABLE.map((each) => each.name))
function prove(what: 'state' | 'migration'): void {
  const since = what === 'migration' ? from.value : undefined
  void start(store.id, to.value, since, engines.value, some.only.value)
}

/** What was saved is compared with what was there before. */
function compareWith(before: number | undefined): void {
  show(before ?? last.value, before === undefined ? 'draft' : (last.value ?? 'draft'))
}

const alongWords = computed(() => {
  const count = some.along.value.size
  return count === 0 ? '' : ` ${count === 1 ? 'The marked one goes' : 'The marked ones go'} with it.`
})

async function changeNote(number: number, text: string): Promise<void> {
  failure.value = ''
  try {
    await store.changeVersion(number, text.trim(), false)
  } catch (error) {
    failure.value = error instanceof Error ? error.message : String(error)
  }
}

/** A version is looked at in the diagram first; all other screens show it too. */
async function look(number: number): Promise<void> {
  failure.value = ''
  try {
    await store.look(number)
    await router.push({ name: 'diagram' })
  } catch (error) {
    failure.value = error instanceof Error ? error.message : String(error)
  }
}

function take(step: 'up' | 'down'): void {
  download(
    `${store.draft?.name ?? 'design'} ${say(from.value)} to ${say(to.value)} ${writer.value.name} ${step}.sql`,
    step === 'up' ? up.value : down.value,
    'text/plain'
  )
}

function takeDrop(): void {
  if (plan.value)
    download(
      `${store.draft?.name ?? 'design'} drop what is set aside.sql`,
      dropKeepsakes(plan.value),
      'text/plain'
    )
}
</script>

<template>
  <div class="versions">
    <div class="top">
      <VersionLine
        :from="from"
        :to="to"
        :versions="store.versions"
        @update:from="choose({ from: $event })"
        @update:to="choose({ to: $event })"
        :looking="store.looking?.number"
        @note="changeNote"
        @look="look" />
      <SaveVersion :dialects="dialects" :writer="writer" :some="some" @saved="compareWith" />
      <p v-if="failure" class="failed" role="alert">{{ failure }}</p>
    </div>

    <div v-if="before && after && from !== to" class="body">
      <section class="words" aria-label="What changes">
        <p v-if="plan && !writer.engine" class="quiet">
          The scripts for {{ writer.title }} are worked out, not run: a proof runs on the engines below.
        </p>
        <template v-if="warningsOf('up').length > 0">
          <h2>before you run it</h2>
          <ul class="warnings">
            <li v-for="warning in warningsOf('up')" :key="warning.message" :class="warning.effect">
              {{ warning.message }}
              <FillAsk
                v-if="warning.fills && to === 'draft'"
                :table="warning.table"
                :column="warning.fills"
                :since="before" />
            </li>
          </ul>
        </template>
        <template v-if="inTheWay.length > 0">
          <h2>of the rows of {{ say(from) }}, up stops at</h2>
          <ul class="warnings">
            <li v-for="row in inTheWay" :key="row.message" class="stops">{{ row.message }}</li>
          </ul>
        </template>
        <h2>
          from {{ say(from) }} to {{ say(to) }}
          <span v-if="isChoosing" class="away">
            <button v-if="some.only.value" type="button" class="link" @click="some.takeAll">all</button>
            <button v-if="some.chosen.value.size > 0" type="button" class="link" @click="some.takeNone">
              none
            </button>
          </span>
        </h2>
        <p v-if="some.only.value" class="quiet" role="status">
          Version {{ next }} gets {{ some.only.value.length }} of {{ some.of.value }} changes, the others stay
          in the draft.{{ alongWords }}
        </p>
        <p v-if="changes.length === 0" class="quiet">
          Nothing changes in the schema, so there is nothing to migrate.
        </p>
        <ChangeList
          :changes="changes"
          :chosen="isChoosing ? some.chosen.value : undefined"
          :along="some.along.value"
          @take="some.take" />
        <template v-if="beside.length > 0">
          <h2>beside the schema</h2>
          <ChangeList
            :changes="beside"
            :chosen="isChoosing ? some.chosen.value : undefined"
            :along="some.along.value"
            @take="some.take" />
        </template>
        <ForApplications :before="before" :after="after" />
        <template v-for="{ way, said } in costs" :key="way">
          <h2>while {{ way }} runs</h2>
          <ul class="warnings">
            <li v-for="sentence in said" :key="sentence">{{ sentence }}</li>
          </ul>
        </template>
        <template v-if="warningsOf('down').length > 0">
          <h2>before you go back</h2>
          <ul class="warnings">
            <li v-for="(warning, at) in warningsOf('down')" :key="at" :class="warning.effect">
              {{ warning.message }}
            </li>
          </ul>
        </template>
        <template v-if="aside.up.length + aside.down.length > 0">
          <h2>
            set aside, and put back
            <button type="button" class="link away" @click="takeDrop">script that drops it</button>
          </h2>
          <template v-for="way in ['up', 'down'] as const" :key="way">
            <p v-if="aside[way].length > 0" class="quiet">
              {{ way === 'up' ? 'by up, until down:' : 'by down, until up again:' }}
            </p>
            <ul class="warnings">
              <li v-for="each in aside[way]" :key="each.name" class="kept">
                {{ each.says }}, {{ each.rows }} {{ each.rows === 1 ? 'row' : 'rows' }} here
                <code>{{ each.name }}</code>
              </li>
            </ul>
          </template>
        </template>
      </section>
      <section
        v-for="step in ['up', 'down'] as const"
        :key="step"
        class="sql"
        :aria-label="step === 'up' ? 'Up' : 'Down'">
        <h2>
          <b>{{ step }}</b>
          <span v-if="step === 'up' ? up : down" class="away">
            <CopyButton class="link" :text="step === 'up' ? up : down" :label="`copy ${step}`" />
            {{ ' ' }}
            <button type="button" class="link" :aria-label="`download ${step}`" @click="take(step)">
              download
            </button>
          </span>
        </h2>
        <div class="page">
          <SqlText
            v-if="step === 'up' ? up : down"
            :text="step === 'up' ? up : down"
            highlight
            :label="`${step}, ${writer.title}`" />
          <p v-else class="quiet nothing">{{ nothing }}</p>
        </div>
      </section>
    </div>
    <div v-else class="body single">
      <p class="quiet">
        {{
          store.versions.length === 0
            ? 'No version yet. Save the draft as version 1 when it is worth coming back to; from then on every change since is told here, with the migration up and down.'
            : 'Choose where from and where to on the line above, and the change between them is told here.'
        }}
      </p>
    </div>

    <div class="proving">
      <div class="act">
        <b>Proof</b><span class="quiet">on</span>
        <label v-for="each in PROVABLE" :key="each.name"
          ><input v-model="engines" type="checkbox" :value="each.name" /> {{ each.title }}</label
        >
        <button
          type="button"
          class="button"
          :disabled="running || engines.length === 0 || some.only.value?.length === 0"
          @click="prove('state')">
          Prove {{ say(to) }}
        </button>
        <button
          v-if="plan"
          type="button"
          class="button main"
          :disabled="running || engines.length === 0 || some.only.value?.length === 0"
          @click="prove('migration')">
          Prove the migration, up and down
        </button>
        <button v-if="running" type="button" class="button" @click="cancel">Cancel</button>
        <span v-if="!job" class="quiet hint">runs the SQL on real engines, reads it back and compares</span>
      </div>
      <p v-if="proofFailure" class="failed" role="alert">{{ proofFailure }}</p>
      <ProofView v-if="job" :job="job" />
    </div>
  </div>
</template>

<style scoped>
.versions {
  height: 100%;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto minmax(0, 1fr) auto;
}
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 24px;
  padding: 12px 20px 10px;
  border-bottom: 1px solid var(--line);
  align-items: flex-start;
}
.top > :first-child {
  flex: 1;
  min-width: 0;
}
.failed {
  grid-column: 1 / 3;
}
.failed {
  color: var(--deleted);
}
.top .failed {
  flex-basis: 100%;
  margin: 0;
}
.body {
  display: grid;
  grid-template-columns: minmax(300px, 1fr) minmax(0, 1.25fr) minmax(0, 1.25fr);
  gap: 16px;
  padding: 12px 20px;
  min-height: 0;
}
.body.single {
  display: block;
  padding: 40px 20px;
  max-width: 620px;
}
.body > section {
  min-height: 0;
  overflow: auto;
}
h2 {
  font-size: 12px;
  color: var(--quiet);
  margin-bottom: 5px;
  display: flex;
  gap: 12px;
  align-items: center;
}
.words ul {
  list-style: none;
  margin: 0 0 12px;
  padding: 0;
}
.words > p {
  margin: 0 0 10px;
}
.words li {
  padding: 2px 0 2px 22px;
  position: relative;
  overflow-wrap: anywhere;
}
.warnings li {
  padding-left: 12px;
  box-shadow: inset 3px 0 0 var(--line);
  margin-bottom: 4px;
}
.warnings .stops {
  box-shadow: inset 3px 0 0 var(--deleted);
}
.warnings .lost {
  box-shadow: inset 3px 0 0 var(--emptied);
}
.warnings .empty {
  box-shadow: inset 3px 0 0 var(--chosen);
}
.warnings .kept {
  box-shadow: inset 3px 0 0 var(--act);
}
.warnings code {
  display: block;
  font-size: 12px;
  color: var(--quiet);
}
.sql {
  display: flex;
  flex-direction: column;
  overflow: hidden !important;
}
.sql h2 {
  min-height: 24px;
}
.sql h2 b {
  color: var(--ink);
  font-size: 13px;
}
.page {
  flex: 1;
  min-height: 0;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.nothing {
  padding: 14px;
}
.away {
  margin-left: auto;
}
span.away {
  display: inline-flex;
  gap: 12px;
}
.proving {
  border-top: 1px solid var(--line);
  background: var(--sheet);
  padding: 9px 20px 10px;
  max-height: 44vh;
  overflow: auto;
}
.act {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
}
.act label {
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
.proving .proof {
  margin-top: 8px;
}
</style>
