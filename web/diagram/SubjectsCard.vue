<script setup lang="ts">
import { computed, ref } from 'vue'
import { fold, fullName } from '../../core/design/directory.ts'
import { newId, type Subject } from '../../core/design/model.ts'
import { proposeSubjects } from '../../core/diagram/propose-subjects.ts'
import { counted } from '../../core/naming/words.ts'
import DraftField from '../parts/DraftField.vue'
import WorkCard from '../parts/WorkCard.vue'
import { useDesign } from '../stores/design.ts'

/** The subjects of the design: named parts, each with its tables. */
const emit = defineEmits<{ close: []; look: [subject: string] }>()
const store = useDesign()

const subjects = computed(() => store.design?.subjects ?? [])
const chosen = ref<string>()
const subject = computed(() => subjects.value.find(({ id }) => id === chosen.value) ?? subjects.value[0])
const wanted = ref('')
const why = ref('')
const tables = computed(() => {
  const text = fold(wanted.value.trim())
  const all = (store.design?.tables ?? []).map((table) => ({
    id: table.id,
    name: store.design ? fullName(store.design, table) : table.name,
    has: subject.value?.tables.includes(table.id) ?? false
  }))
  const found = all.filter(({ name }) => fold(name).includes(text))
  return found.sort((one, other) => Number(other.has) - Number(one.has) || one.name.localeCompare(other.name))
})
const left = computed(() => {
  const taken = new Set(subjects.value.flatMap((each) => each.tables))
  return (store.design?.tables ?? []).filter(({ id }) => !taken.has(id)).length
})

function change(next: Subject): boolean {
  const refusal = store.submit({ kind: 'subject.change', subject: next })
  why.value = refusal?.message ?? ''
  return !refusal
}
function toggle(id: string): void {
  const now = subject.value
  if (!now) return
  const has = now.tables.includes(id)
  change({ ...now, tables: has ? now.tables.filter((each) => each !== id) : [...now.tables, id] })
}
function add(): void {
  const names = new Set(subjects.value.map(({ name }) => fold(name)))
  let number = subjects.value.length + 1
  while (names.has(`subject ${number}`)) number++
  const made = { id: newId('b'), name: `subject ${number}`, tables: [] }
  const refusal = store.submit({ kind: 'subject.add', subject: made })
  why.value = refusal?.message ?? ''
  if (!refusal) chosen.value = made.id
}
function remove(): void {
  if (subject.value) store.submit({ kind: 'subject.remove', subject: subject.value.id })
}
/** Makes those that the design seems to fall into; what there is already stays. */
function propose(): void {
  if (!store.design) return
  const names = new Set(subjects.value.map(({ name }) => fold(name)))
  const taken = new Set(subjects.value.flatMap((each) => each.tables))
  const made = proposeSubjects(store.design)
    .map((each) => ({ ...each, tables: each.tables.filter((id) => !taken.has(id)) }))
    .filter(({ name, tables: ids }) => ids.length > 1 && !names.has(fold(name)))
  if (made.length === 0) return void (why.value = 'No part hangs together more than the rest.')
  const refusal = store.submit({
    kind: 'batch',
    label: `make ${counted(made.length, 'subject')}`,
    operations: made.map((each) => ({ kind: 'subject.add', subject: { ...each, id: newId('b') } }))
  })
  why.value = refusal?.message ?? ''
}
</script>

<template>
  <WorkCard title="Subjects" :width="720" @close="emit('close')">
    <p class="quiet">
      Named parts of the design. In the whole picture each stands in a region of its own; by itself it is
      drawn with what is beside it. A table may stand in several.
    </p>
    <div class="both">
      <div>
        <ul v-if="subjects.length > 0">
          <li v-for="each in subjects" :key="each.id">
            <button
              type="button"
              class="pick"
              :aria-pressed="each.id === subject?.id"
              @click="chosen = each.id">
              {{ each.name }} <span class="quiet">{{ each.tables.length }}</span>
            </button>
          </li>
        </ul>
        <p v-else class="quiet">None yet.</p>
        <p class="makes">
          <button type="button" class="link" @click="add">a new one</button>
          <button type="button" class="link" :disabled="left < 3" @click="propose">propose some</button>
        </p>
        <p v-if="left > 0 && subjects.length > 0" class="quiet">{{ counted(left, 'table') }} in none</p>
      </div>
      <div v-if="subject" class="one">
        <p class="named">
          <DraftField
            :key="subject.id"
            class="lined"
            aria-label="Its name"
            :value="subject.name"
            @take="(text) => subject && change({ ...subject, name: text.trim() })" />
          <button type="button" class="link" @click="emit('look', subject.id)">draw it alone</button>
          <button type="button" class="link" @click="remove">remove</button>
        </p>
        <input v-model="wanted" class="lined" placeholder="only tables with…" aria-label="Only tables with" />
        <ul class="tables" tabindex="0" aria-label="Its tables, and the others">
          <li v-for="table in tables" :key="table.id">
            <label
              ><input type="checkbox" :checked="table.has" @change="toggle(table.id)" />
              {{ table.name }}</label
            >
          </li>
        </ul>
      </div>
    </div>
    <p v-if="why" class="why" role="alert">{{ why }}</p>
    <template #acts>
      <button type="button" class="button main" @click="emit('close')">Done <kbd>Esc</kbd></button>
    </template>
  </WorkCard>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: 230px minmax(0, 1fr);
  gap: 24px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 46vh;
  overflow: auto;
}
.pick {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  width: 100%;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  padding: 3px 8px;
  font: inherit;
  color: var(--ink);
  cursor: pointer;
  text-align: left;
}
.pick[aria-pressed='true'] {
  background: var(--chosen-tint);
  border-left-color: var(--chosen);
}
.makes,
.named {
  display: flex;
  gap: 14px;
  align-items: baseline;
}
.named :deep(input) {
  font-weight: 600;
  flex: 1;
}
.one {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.tables {
  height: 40vh;
  border: 1px solid var(--line);
  padding: 4px 8px;
}
.why {
  color: var(--deleted);
}
</style>
