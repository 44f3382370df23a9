<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Table } from '../../core/design/model.ts'
import { article, plural } from '../../core/naming/words.ts'
import { askedOf, keptPairs, relateByRows, shapeOfLinks, type Connected } from '../../core/relate/by-rows.ts'
import { rowLabel } from '../../core/relate/label.ts'
import WorkCard from '../parts/WorkCard.vue'
import { useDesign } from '../stores/design.ts'

/** Rows of two tables are connected by hand; from what is connected and answered comes how the tables are related. */
const props = defineProps<{ table: Table }>()
const emit = defineEmits<{ close: [] }>()
const store = useDesign()

/** How many rows of a side are offered. */
const OFFERED = 60

const others = computed(() =>
  (store.design?.tables ?? []).filter(
    ({ id, rows, external }) => id !== props.table.id && rows.length > 0 && !external
  )
)
const otherId = ref(others.value[0]?.id ?? '')
const other = computed(() => others.value.find(({ id }) => id === otherId.value))
const pairs = ref<[number, number][]>([])
const severalRight = ref<boolean>()
const severalLeft = ref<boolean>()
const required = ref(false)
/** The row of the left side that waits for the one that it is connected with. */
const held = ref<number>()
function begin(): void {
  pairs.value = []
  severalRight.value = severalLeft.value = held.value = undefined
  required.value = false
}
watch(otherId, begin)

const connected = computed((): Connected => ({
  pairs: pairs.value,
  severalRight: severalRight.value,
  severalLeft: severalLeft.value
}))
const asked = computed(() => askedOf(connected.value))
const kept = computed(() => keptPairs(connected.value))
const label = (table: Table | undefined, place: number): string => {
  const row = table?.rows[place]
  return store.design && table && row ? rowLabel(store.design, table, row) : ''
}
function connect(right: number): void {
  const left = held.value
  if (left === undefined || asked.value) return
  const isThere = pairs.value.some(([one, two]) => one === left && two === right)
  const rest = pairs.value.filter(([one, two]) => one !== left || two !== right)
  pairs.value = isThere ? rest : [...rest, [left, right]]
}
function say(several: boolean): void {
  if (asked.value?.side === 'left') severalRight.value = several
  else severalLeft.value = several
  pairs.value = keptPairs(connected.value).map(([left, right]) => [left, right])
}
const question = computed(() => {
  const now = asked.value
  if (!now || !other.value) return undefined
  const [own, its] = now.side === 'left' ? [props.table, other.value] : [other.value, props.table]
  const names = now.others.map((place) => `“${label(its, place)}”`)
  return {
    says: `${own.name} “${label(own, now.place)}” is connected with ${names.join(' and ')}.`,
    asks: `May ${article(own.name)} ${own.name} have several ${plural(its.name)}?`,
    yes: `Yes, several ${plural(its.name)}`,
    no: `No, one: “${label(its, now.others.at(-1) ?? 0)}”`
  }
})
const SHAPES = {
  junction: (left: string, right: string) =>
    `Each ${left} has any number of ${plural(right)}, and each ${right} any number of ${plural(left)}: a junction keeps the pairs.`,
  'right refers': (left: string, right: string) =>
    `Each ${left} has any number of ${plural(right)}, and each ${right} is of at most one ${left}: ${right} refers to ${left}.`,
  'left refers': (left: string, right: string) =>
    `Each ${right} has any number of ${plural(left)}, and each ${left} is of at most one ${right}: ${left} refers to ${right}.`,
  'one to one': (left: string, right: string) =>
    `Each ${left} has at most one ${right}, and the other way round: ${right} refers to ${left}, each to another.`
}
const shape = computed(() => shapeOfLinks(connected.value))
const sentence = computed(() => (other.value ? SHAPES[shape.value](props.table.name, other.value.name) : ''))
/** The side that refers, where every row of it is connected, so that it can be asked whether each must be. */
const whole = computed(() => {
  if (shape.value === 'junction' || !other.value) return undefined
  const [child, at] =
    shape.value === 'left refers' ? ([props.table, 0] as const) : ([other.value, 1] as const)
  const linked = new Set(kept.value.map((pair) => pair[at]))
  return linked.size === child.rows.length ? child : undefined
})
const outcome = computed(() =>
  store.design && other.value
    ? relateByRows(store.design, props.table, other.value, connected.value, required.value && !!whole.value)
    : undefined
)
function put(): void {
  if (!outcome.value?.ok) return
  if (!store.submit(outcome.value.value)) emit('close')
}
const isOn = (left: number): boolean => pairs.value.some(([one]) => one === left)
const isWith = (right: number): boolean =>
  held.value !== undefined && pairs.value.some(([one, two]) => one === held.value && two === right)
</script>

<template>
  <WorkCard :title="`Connect rows of ${table.name}`" :width="860" @close="emit('close')">
    <p v-if="!other">No other table has rows yet: write some first.</p>
    <template v-else>
      <p class="quiet">
        Choose a row on the left, then those on the right that belong to it. How the tables are related
        follows from that.
      </p>
      <div class="sides">
        <div>
          <h2>{{ table.name }}</h2>
          <ul role="listbox" tabindex="0" :aria-label="`Rows of ${table.name}`">
            <li
              v-for="(_, at) in table.rows.slice(0, OFFERED)"
              :key="at"
              role="option"
              :aria-selected="held === at">
              <button type="button" :class="{ on: held === at, linked: isOn(at) }" @click="held = at">
                {{ label(table, at)
                }}<span v-if="isOn(at)" class="quiet">
                  {{
                    pairs
                      .filter(([one]) => one === at)
                      .map(([, two]) => label(other, two))
                      .join(', ')
                  }}</span
                >
              </button>
            </li>
          </ul>
        </div>
        <div>
          <h2>
            <select v-model="otherId" class="choice" aria-label="The other table">
              <option v-for="each in others" :key="each.id" :value="each.id">{{ each.name }}</option>
            </select>
          </h2>
          <ul role="listbox" tabindex="0" :aria-label="`Rows of ${other.name}`">
            <li
              v-for="(_, at) in other.rows.slice(0, OFFERED)"
              :key="at"
              role="option"
              :aria-selected="isWith(at)">
              <button
                type="button"
                :class="{ on: isWith(at) }"
                :disabled="held === undefined || asked !== undefined"
                @click="connect(at)">
                {{ label(other, at) }}
              </button>
            </li>
          </ul>
        </div>
      </div>
      <div v-if="question" class="ask" role="alert">
        <p>
          {{ question.says }} <b>{{ question.asks }}</b>
        </p>
        <p class="answers">
          <button type="button" class="button main" @click="say(true)">{{ question.yes }}</button>
          <button type="button" class="button" @click="say(false)">{{ question.no }}</button>
        </p>
      </div>
      <template v-else-if="pairs.length > 0">
        <p role="status">{{ sentence }}</p>
        <label v-if="whole"
          ><input v-model="required" type="checkbox" /> every {{ whole.name }} must have one, as all that are
          here do</label
        >
      </template>
      <p v-if="outcome && !outcome.ok && pairs.length > 0" class="effect-deleted" role="alert">
        {{ outcome.message }}
      </p>
    </template>
    <template #acts>
      <button type="button" class="button main" :disabled="!outcome?.ok || asked !== undefined" @click="put">
        Relate them so
      </button>
      <button type="button" class="button" @click="emit('close')">Leave it <kbd>Esc</kbd></button>
    </template>
  </WorkCard>
</template>

<style scoped>
.sides {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 26px;
}
h2 {
  font-weight: 600;
  height: 30px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 36vh;
  overflow: auto;
  border: 1px solid var(--line);
}
li button {
  width: 100%;
  border: 0;
  background: none;
  text-align: left;
  padding: 3px 10px;
  cursor: pointer;
  border-bottom: 1px solid var(--hair);
}
li button:disabled {
  cursor: default;
}
li button.linked {
  font-weight: 600;
}
li button span {
  font-weight: 400;
  margin-left: 8px;
}
li button.on {
  background: var(--chosen-tint);
  box-shadow: inset 2px 0 0 var(--chosen);
}
.ask {
  background: var(--chosen-tint);
  box-shadow: inset 3px 0 0 var(--chosen);
  padding: 8px 14px;
}
.answers {
  display: flex;
  gap: 10px;
  margin-top: 6px;
}
</style>
