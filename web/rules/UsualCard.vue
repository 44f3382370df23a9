<script setup lang="ts">
import { computed, ref } from 'vue'
import { referencesTo, tableOf } from '../../core/design/directory.ts'
import { ACTIONS, SHAPES, type Action, type ReferenceShape, type Usual } from '../../core/design/model.ts'
import { SHAPE_ACTIONS, SHAPE_WORDS } from '../../core/relate/rules.ts'
import WorkCard from '../parts/WorkCard.vue'
import { useDesign } from '../stores/design.ts'

/** What deletes usually do in this design: by what a reference is, and by the table that is deleted from. */
const emit = defineEmits<{ close: [] }>()
const store = useDesign()

const WORDS: Record<Action, string> = {
  'NO ACTION': 'refuse it, when the statement ends',
  RESTRICT: 'refuse it at once',
  CASCADE: 'delete what refers too',
  'SET NULL': 'empty the reference',
  'SET DEFAULT': 'set it to its default'
}
const usual = computed((): Usual => store.design?.usual ?? { shapes: {}, tables: {} })
const say = (next: Usual): void => void store.submit({ kind: 'design.setUsual', usual: next })

function setShape(shape: ReferenceShape, action: string): void {
  const { [shape]: _, ...others } = usual.value.shapes
  const shapes = action === '' ? others : { ...others, [shape]: action as Action }
  say({ ...usual.value, shapes })
}
function setTable(id: string, action: string): void {
  const { [id]: _, ...others } = usual.value.tables
  const tables = action === '' ? others : { ...others, [id]: action as Action }
  say({ ...usual.value, tables })
}

const own = computed(() =>
  Object.entries(usual.value.tables).flatMap(([id, action]) => {
    const table = store.design && tableOf(store.design, id)
    return table ? [{ table, action }] : []
  })
)
/** Tables that others refer to, and of which nothing is said yet. */
const others = computed(() =>
  (store.design?.tables ?? []).filter(
    ({ id }) => store.design && referencesTo(store.design, id).length > 0 && !(id in usual.value.tables)
  )
)
const adding = ref('')
function add(): void {
  if (adding.value !== '') setTable(adding.value, 'RESTRICT')
  adding.value = ''
}
</script>

<template>
  <WorkCard title="What deletes usually do here" :width="680" @close="emit('close')">
    <p class="quiet">
      It is proposed for what is related from now on, and for what does otherwise on this page. Nothing that
      is there changes by it alone.
    </p>
    <table>
      <tbody>
        <tr v-for="shape in SHAPES" :key="shape">
          <th scope="row">{{ SHAPE_WORDS[shape] }}</th>
          <td>
            <select
              class="choice"
              :value="usual.shapes[shape] ?? ''"
              :aria-label="`What deletes do to ${SHAPE_WORDS[shape]}`"
              @change="setShape(shape, ($event.target as HTMLSelectElement).value)">
              <option value="">as proposed: {{ WORDS[SHAPE_ACTIONS[shape]] }}</option>
              <option v-for="action in ACTIONS" :key="action" :value="action">{{ WORDS[action] }}</option>
            </select>
            <span class="term">{{ usual.shapes[shape] ?? SHAPE_ACTIONS[shape] }}</span>
          </td>
        </tr>
        <tr v-for="each in own" :key="each.table.id">
          <th scope="row">deleting a {{ each.table.name }}</th>
          <td>
            <select
              class="choice"
              :value="each.action"
              :aria-label="`What deleting a ${each.table.name} does`"
              @change="setTable(each.table.id, ($event.target as HTMLSelectElement).value)">
              <option value="">as its shapes say</option>
              <option v-for="action in ACTIONS" :key="action" :value="action">{{ WORDS[action] }}</option>
            </select>
            <span class="term">{{ each.action }}</span>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="others.length > 0">
      <label
        >and otherwise for
        <select v-model="adding" class="choice" @change="add">
          <option value="">a table of its own…</option>
          <option v-for="table in others" :key="table.id" :value="table.id">{{ table.name }}</option>
        </select></label
      >
    </p>
    <template #acts>
      <button type="button" class="button main" @click="emit('close')">Done <kbd>Esc</kbd></button>
    </template>
  </WorkCard>
</template>

<style scoped>
table {
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  font-weight: 400;
  padding: 4px 22px 4px 0;
  border-bottom: 1px solid var(--hair);
}
.term {
  font: 11px var(--mono);
  color: var(--quiet);
  margin-left: 10px;
}
</style>
