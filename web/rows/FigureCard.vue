<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { figuresSelect, figureValue } from '../../core/rows/figures.ts'
import { columnOf, referencesTo, tableOf } from '../../core/design/directory.ts'
import type { Dialect } from '../../core/dialect/dialect.ts'
import { readExpression, showExpression } from '../../core/design/expressions.ts'
import { standFigure } from '../../core/design/figure.ts'
import { newId, type Figure, type ForeignKey, type Measure, type Table } from '../../core/design/model.ts'
import { isNumeric } from '../../core/design/type.ts'
import { freeName } from '../../core/naming/names.ts'
import { rowLabel } from '../../core/relate/label.ts'
import SqlFor from '../parts/SqlFor.vue'
import WorkCard from '../parts/WorkCard.vue'
import { useDesign } from '../stores/design.ts'

/** What rows of a table say over the rows that refer to them, as a sentence that is put together. */
const props = defineProps<{ table: Table; figure?: Figure | undefined; over?: string | undefined }>()
const emit = defineEmits<{ close: [] }>()
const store = useDesign()

/** How many rows show what they would say. */
const SHOWN = 6

const ways = computed(() => (store.design ? referencesTo(store.design, props.table.id) : []))
const before = props.figure
const measure = ref<Measure>(before?.measure ?? 'count')
const by = ref(before?.by ?? props.over ?? ways.value[0]?.foreignKey.id ?? '')
const farId = ref(before?.far ?? '')
const column = ref(before?.column ?? '')
const order = ref(before?.order ?? '')
const name = ref(before?.name ?? '')

const way = computed(() => ways.value.find(({ foreignKey }) => foreignKey.id === by.value))
const of = computed(() => way.value?.table)
/** The references by which the rows lead on: none back to the same row. */
const fars = computed((): { key: ForeignKey; table: Table }[] =>
  (of.value?.foreignKeys ?? []).flatMap((key) => {
    const table = store.design && tableOf(store.design, key.table)
    return table && key.id !== by.value ? [{ key, table }] : []
  })
)
const far = computed(() => fars.value.find(({ key }) => key.id === farId.value))
const said = computed(() => far.value?.table ?? of.value)
const sayable = computed(() =>
  (said.value?.columns ?? []).filter(({ type }) => measure.value !== 'sum' || isNumeric(type))
)
const needsColumn = computed(() => ['sum', 'first', 'last'].includes(measure.value))
const needsOrder = computed(() => ['first', 'last'].includes(measure.value))

const where = ref(before?.where && of.value ? showExpression(before.where, of.value.columns) : '')
const whereFar = ref(
  before?.whereFar && far.value ? showExpression(before.whereFar, far.value.table.columns) : ''
)
watch(by, () => (farId.value = ''))
watch(measure, () => {
  if (measure.value === 'different' && !far.value) farId.value = fars.value[0]?.key.id ?? ''
})
watch([sayable, needsColumn], () => {
  if (!sayable.value.some(({ id }) => id === column.value)) column.value = sayable.value[0]?.id ?? ''
})

/** A name that says what it is, until one is given. */
const proposed = computed(() => {
  const what = said.value?.name ?? ''
  const measured = said.value && columnOf(said.value, column.value)?.name
  const words = { count: '_count', different: '_count', sum: '_sum', first: '', last: '' }[measure.value]
  const plain = needsColumn.value ? `${needsOrder.value ? `${measure.value}_` : ''}${measured ?? ''}` : what
  const taken = [
    ...props.table.columns.map((each) => each.name),
    ...(store.design?.figures ?? [])
      .filter((each) => each.table === props.table.id && each.id !== before?.id)
      .map((each) => each.name)
  ]
  return freeName(`${plain}${words}`, taken)
})

const read = (text: string, table: Table | undefined): { kept?: string; flaw?: string } => {
  if (text.trim() === '' || !table) return {}
  const parsed = readExpression(text, { columns: table.columns, enums: store.design?.enums ?? [] })
  return parsed.ok ? { kept: parsed.value } : { flaw: parsed.message }
}
const near = computed(() => read(where.value, of.value))
const beyond = computed(() => read(whereFar.value, far.value?.table))

const figure = computed((): Figure => ({
  id: before?.id ?? '',
  name: name.value.trim() || proposed.value,
  table: props.table.id,
  of: of.value?.id ?? '',
  by: by.value,
  ...(far.value && { far: far.value.key.id }),
  measure: measure.value,
  ...(needsColumn.value && { column: column.value }),
  ...(needsOrder.value && order.value !== '' && { order: order.value }),
  ...(near.value.kept !== undefined && { where: near.value.kept }),
  ...(far.value && beyond.value.kept !== undefined && { whereFar: beyond.value.kept })
}))
const stands = computed(() => (store.design ? standFigure(store.design, figure.value) : undefined))
const flaw = computed(
  () => near.value.flaw ?? beyond.value.flaw ?? (stands.value && !stands.value.ok ? stands.value.message : '')
)
const sample = computed(() => {
  const [design, standing] = [store.design, stands.value]
  if (!design || !standing?.ok || flaw.value !== '') return []
  return props.table.rows.slice(0, SHOWN).map((row) => {
    const value = figureValue(design, standing.value, row)
    const says = value === undefined ? 'needs an engine' : value === null ? 'nothing' : String(value)
    return { label: rowLabel(design, props.table, row), says }
  })
})
const sql = (dialect: Dialect): string =>
  store.design && stands.value?.ok
    ? figuresSelect(store.design, dialect, props.table, [stands.value.value])
    : ''

function put(): void {
  const refused = before
    ? store.submit({ kind: 'figure.change', figure: figure.value })
    : store.submit({ kind: 'figure.add', figure: { ...figure.value, id: newId('g') } })
  if (!refused) emit('close')
}
function remove(): void {
  if (before && !store.submit({ kind: 'figure.remove', figure: before.id })) emit('close')
}
</script>

<template>
  <WorkCard
    :title="before ? `The figure ${before.name}` : `A figure of ${table.name}`"
    @close="emit('close')">
    <p v-if="ways.length === 0">Nothing refers to {{ table.name }}, so its rows have nothing to count.</p>
    <template v-else>
      <p class="sentence">
        Each <b>{{ table.name }}</b> says
        <select v-model="measure" class="choice" aria-label="What it says">
          <option value="count">how many</option>
          <option value="different" :disabled="fars.length === 0">how many different</option>
          <option value="sum">the sum</option>
          <option value="first">the first</option>
          <option value="last">the last</option>
        </select>
        <template v-if="needsColumn">
          of
          <select v-model="column" class="choice mono" aria-label="Which column">
            <option v-for="each in sayable" :key="each.id" :value="each.id">{{ each.name }}</option>
          </select>
          in</template
        >
        <select v-model="farId" class="choice" aria-label="Of which rows">
          <option value="" :disabled="measure === 'different'">{{ of?.name }}</option>
          <option v-for="each in fars" :key="each.key.id" :value="each.key.id">
            {{ each.table.name }}, through {{ of?.name }}
          </option>
        </select>
        that {{ far ? 'it has' : 'refer to it' }} by
        <select v-model="by" class="choice mono" aria-label="By which reference">
          <option v-for="each in ways" :key="each.foreignKey.id" :value="each.foreignKey.id">
            {{ each.table.name }}.{{
              each.foreignKey.pairs.map((pair) => columnOf(each.table, pair.column)?.name).join(', ')
            }}
          </option>
        </select>
        <template v-if="needsOrder"
          >, in the order of
          <select v-model="order" class="choice mono" aria-label="In which order">
            <option value="" :disabled="far !== undefined">what is said</option>
            <option v-for="each in of?.columns ?? []" :key="each.id" :value="each.id">{{ each.name }}</option>
          </select></template
        >
      </p>
      <label class="line"
        >only {{ of?.name }} where
        <input v-model="where" class="lined mono" placeholder="a condition on it" spellcheck="false"
      /></label>
      <label v-if="far" class="line"
        >and only {{ far.table.name }} where
        <input v-model="whereFar" class="lined mono" placeholder="a condition on it" spellcheck="false"
      /></label>
      <label class="line"
        >called <input v-model="name" class="lined mono" :placeholder="proposed" spellcheck="false"
      /></label>
      <p v-if="flaw" class="effect-deleted" role="alert">{{ flaw }}</p>
      <ul v-if="sample.length > 0" aria-label="What rows would say">
        <li v-for="(each, at) in sample" :key="at">
          <span>{{ each.label }}</span> <b>{{ each.says }}</b>
        </li>
      </ul>
      <SqlFor v-if="flaw === ''" :write="sql" says="the same as SQL" />
    </template>
    <template #acts>
      <button type="button" class="button main" :disabled="flaw !== '' || ways.length === 0" @click="put">
        {{ before ? 'Change it' : `Let each ${table.name} say it` }}
      </button>
      <button type="button" class="button" @click="emit('close')">Leave it <kbd>Esc</kbd></button>
      <button v-if="before" type="button" class="button" @click="remove">Remove the figure</button>
    </template>
  </WorkCard>
</template>

<style scoped>
.sentence {
  line-height: 2.1;
}
.line {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.line input {
  flex: 1;
  max-width: 420px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  columns: 2;
  column-gap: 30px;
}
li {
  display: flex;
  gap: 12px;
  border-bottom: 1px solid var(--hair);
  break-inside: avoid;
}
li span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
li b {
  margin-left: auto;
  white-space: nowrap;
}
</style>
