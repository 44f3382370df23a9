<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { BOUNDS } from '../../core/bounds.ts'
import type { Table } from '../../core/design/model.ts'
import { addRows } from '../../core/edit/row.ts'
import { counted } from '../../core/naming/words.ts'
import { cellText } from '../../core/rows/cells.ts'
import { ENCODINGS, readCsv, recogniseCsv, SEPARATORS, type CsvText } from '../../core/rows/csv.ts'
import { moment } from '../parts/moment.ts'
import WorkCard from '../parts/WorkCard.vue'
import { useDesign } from '../stores/design.ts'

/** Rows of a file, as they would be taken, before they are. */
const props = defineProps<{ table: Table }>()
const emit = defineEmits<{ close: [] }>()
const store = useDesign()

/** How many rows, and how many lines that are not taken, are shown. */
const SHOWN = 5
const LISTED = 200
const BETWEEN: Record<string, string> = { ',': 'comma', ';': 'semicolon', '\t': 'tab', '|': 'bar' }

const bytes = shallowRef<Uint8Array>()
const file = shallowRef<CsvText>()
const chosen = shallowRef<(string | undefined)[]>()
const name = ref('')
const tooLarge = ref(false)

async function open(event: Event): Promise<void> {
  const [picked] = (event.target as HTMLInputElement).files ?? []
  if (!picked) return
  name.value = picked.name
  tooLarge.value = picked.size > BOUNDS.file
  if (tooLarge.value) return
  take(new Uint8Array(await picked.arrayBuffer()))
}
function take(read: Uint8Array): void {
  bytes.value = read
  file.value = recogniseCsv(read)
  chosen.value = undefined
}
function paste(event: Event): void {
  const { value } = event.target as HTMLTextAreaElement
  if (value.trim() !== '') take(new TextEncoder().encode(value))
}

function setForm(change: Partial<CsvText['form']>): void {
  const now = file.value
  if (!now || !bytes.value) return
  const { text } = change.encoding ? recogniseCsv(bytes.value, change.encoding) : now
  file.value = { text, form: { ...now.form, ...change } }
  chosen.value = undefined
}

const read = computed(() =>
  store.design && file.value
    ? readCsv(store.design, props.table, file.value, chosen.value, moment())
    : undefined
)
const writable = computed(() => props.table.columns.filter((column) => column.computed === undefined))
function choose(at: number, column: string): void {
  const fields = read.value?.fields ?? []
  chosen.value = fields.map((field, each) => (each === at ? column || undefined : field.column))
}
const taken = computed(() =>
  writable.value.filter(({ id }) => read.value?.fields.some(({ column }) => column === id))
)
const sample = computed(() =>
  (read.value?.rows ?? [])
    .slice(0, SHOWN)
    .map((row) =>
      taken.value.map((column) => (store.design ? cellText(store.design, props.table, column, row) : ''))
    )
)

function put(): void {
  const rows = read.value?.rows ?? []
  const label = `import ${counted(rows.length, 'row')} into ${props.table.name}`
  if (store.submit(addRows(props.table, rows), label)) return
  emit('close')
}
</script>

<template>
  <WorkCard :title="`Rows of a file for ${table.name}`" :width="900" @close="emit('close')">
    <p class="pick">
      <label class="button"
        >Choose a CSV file<input type="file" accept=".csv,.tsv,.txt,text/csv" @change="open"
      /></label>
      <span class="quiet">{{ name || 'or paste lines below' }}</span>
    </p>
    <p v-if="tooLarge" role="alert">
      {{ name }} is longer than {{ BOUNDS.file.toLocaleString('en-GB') }} bytes, which is more than is read.
      Nothing was taken of it.
    </p>
    <textarea
      v-if="!file"
      class="field mono"
      rows="5"
      aria-label="Lines of rows"
      placeholder="name,telephone&#10;Ines Toller,01632 960 114"
      spellcheck="false"
      @change="paste"></textarea>
    <template v-if="file && read">
      <p class="form">
        <label
          >read as
          <select
            class="choice"
            :value="file.form.encoding"
            @change="setForm({ encoding: ($event.target as HTMLSelectElement).value as never })">
            <option v-for="encoding in ENCODINGS" :key="encoding">{{ encoding }}</option>
          </select></label
        >
        <label
          >between fields a
          <select
            class="choice"
            :value="file.form.separator"
            @change="setForm({ separator: ($event.target as HTMLSelectElement).value })">
            <option v-for="separator in SEPARATORS" :key="separator" :value="separator">
              {{ BETWEEN[separator] }}
            </option>
          </select></label
        >
        <label
          ><input
            type="checkbox"
            :checked="file.form.named"
            @change="setForm({ named: ($event.target as HTMLInputElement).checked })" />
          the first line names them</label
        >
      </p>
      <div class="scroll" tabindex="0" role="region" aria-label="Where each field goes">
        <table>
          <caption class="visually-hidden">
            Where each field goes
          </caption>
          <tbody>
            <tr v-for="(field, at) in read.fields" :key="at">
              <th scope="row" class="mono">{{ field.name }}</th>
              <td>
                <select
                  class="choice"
                  :value="field.column ?? ''"
                  :aria-label="`Where ${field.name} goes`"
                  @change="choose(at, ($event.target as HTMLSelectElement).value)">
                  <option value="">is left out</option>
                  <option v-for="column in writable" :key="column.id" :value="column.id">
                    {{ column.name }}
                  </option>
                </select>
              </td>
            </tr>
          </tbody>
        </table>
        <table v-if="sample.length > 0">
          <thead>
            <tr>
              <th v-for="column in taken" :key="column.id" scope="col" class="mono">{{ column.name }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(row, at) in sample" :key="at">
              <td v-for="(value, column) in row" :key="column">{{ value }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p role="status">
        <b>{{ counted(read.rows.length, 'row') }}</b> of {{ counted(read.lines, 'line') }} can be
        taken<template v-if="read.bad.length > 0">; {{ counted(read.bad.length, 'line') }} cannot:</template>
      </p>
      <p v-if="read.over > 0" class="over" role="alert">
        The file has {{ counted(read.over, 'row') }} more than a table of a design can hold, which is
        {{ BOUNDS.rows.toLocaleString('en-GB') }}: those would not be taken.
      </p>
      <ul v-if="read.bad.length > 0" class="bad" tabindex="0" aria-label="Lines that cannot be taken">
        <li v-for="line in read.bad.slice(0, LISTED)" :key="line.line">
          <span class="mono no">{{ line.line }}</span>
          <span class="effect-deleted">{{ line.why.join(' ') }}</span>
          <span class="quiet mono said">{{ line.text }}</span>
        </li>
        <li v-if="read.bad.length > LISTED" class="quiet">and {{ read.bad.length - LISTED }} more</li>
      </ul>
    </template>
    <template #acts>
      <button type="button" class="button main" :disabled="!read || read.rows.length === 0" @click="put">
        {{ read ? `Take ${counted(read.rows.length, 'row')}` : 'Take them' }}
      </button>
      <button type="button" class="button" @click="emit('close')">Take none <kbd>Esc</kbd></button>
    </template>
  </WorkCard>
</template>

<style scoped>
.pick,
.form {
  display: flex;
  gap: 16px;
  align-items: center;
}
.pick input {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
.pick label:focus-within {
  outline: 2px solid var(--chosen);
}
.over {
  color: var(--deleted);
}
.scroll {
  display: flex;
  gap: 28px;
  align-items: start;
  overflow: auto;
  max-height: 38vh;
}
table {
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  font-weight: 400;
  padding: 2px 14px 2px 0;
  border-bottom: 1px solid var(--hair);
  white-space: nowrap;
}
.bad {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 24vh;
  overflow: auto;
  border: 1px solid var(--line);
}
.bad li {
  display: flex;
  gap: 12px;
  padding: 2px 10px;
  border-bottom: 1px solid var(--hair);
}
.no {
  flex: 0 0 36px;
  text-align: right;
  color: var(--quiet);
}
.said {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  min-width: 0;
  flex: 1;
}
</style>
