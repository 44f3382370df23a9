<script setup lang="ts">
import { computed, reactive } from 'vue'
import { LETTER_CASES, policySchema, type Policy } from '../../core/design/model.ts'
import { adoptPolicy, renamingsUnder } from '../../core/naming/policy.ts'
import { useDesign } from '../stores/design.ts'

/** The naming policy of the design, and what it would call otherwise before that is done. */
const emit = defineEmits<{ close: [] }>()
const store = useDesign()
const policy = reactive<Policy>({ ...(store.design?.policy as Policy) })

const PATTERNS: { part: keyof Policy; words: string; parts: string }[] = [
  { part: 'key', words: 'generated key', parts: '{table}' },
  { part: 'reference', words: 'column of a reference', parts: '{table} {column}' },
  { part: 'junction', words: 'junction', parts: '{first} {second}' },
  { part: 'primaryKey', words: 'primary key', parts: '{table}' },
  { part: 'unique', words: 'unique key', parts: '{table} {columns}' },
  { part: 'foreignKey', words: 'foreign key', parts: '{table} {columns}' },
  { part: 'check', words: 'check', parts: '{table} {columns}' },
  { part: 'index', words: 'index', parts: '{table} {columns}' }
]

const checked = computed(() => policySchema.safeParse(policy))
const faults = computed(() =>
  checked.value.success
    ? []
    : checked.value.error.issues.map(
        (issue) =>
          `${PATTERNS.find((each) => each.part === issue.path[0])?.words ?? 'The policy'} ${issue.message}.`
      )
)
const renamings = computed(() =>
  store.design && checked.value.success ? renamingsUnder(store.design, checked.value.data).renamings : []
)
/** As many as a person reads; the others are counted. */
const SHOWN = 8

function adopt(existing: boolean): void {
  if (!store.design || !checked.value.success) return
  if (!store.submit(adoptPolicy(store.design, checked.value.data, existing))) emit('close')
}
</script>

<template>
  <form class="head-card" @submit.prevent="adopt(false)">
    <fieldset>
      <legend>letters</legend>
      <label v-for="each in LETTER_CASES" :key="each"
        ><input v-model="policy.letterCase" type="radio" name="letter-case" :value="each" /> {{ each }}</label
      >
    </fieldset>
    <fieldset>
      <legend>tables</legend>
      <label v-for="each in ['singular', 'plural', 'as typed'] as const" :key="each"
        ><input v-model="policy.tables" type="radio" name="table-number" :value="each" /> {{ each }}</label
      >
      <label class="apart"
        ><input v-model="policy.indexForeignKeys" type="checkbox" /> an index on each foreign key that no key
        or index begins with</label
      >
    </fieldset>
    <div class="patterns">
      <label v-for="each in PATTERNS" :key="each.part"
        >{{ each.words }}
        <input v-model="policy[each.part]" class="field mono" spellcheck="false" :title="each.parts"
      /></label>
    </div>
    <p v-for="fault in faults" :key="fault" class="fault" role="alert">{{ fault }}</p>
    <div class="preview">
      <p v-if="renamings.length === 0" class="quiet">Everything there is is called so already.</p>
      <template v-else>
        <p class="quiet">
          {{ renamings.length }} {{ renamings.length === 1 ? 'name' : 'names' }} of what there is would
          change:
        </p>
        <ul>
          <li v-for="each in renamings.slice(0, SHOWN)" :key="`${each.place} ${each.what} ${each.from}`">
            <span class="quiet">{{ each.what === 'table' ? 'table' : `${each.what} of ${each.place}` }}</span>
            {{ ' ' }}
            <span class="mono">{{ each.from }}</span> → <span class="mono">{{ each.to }}</span>
          </li>
        </ul>
        <p v-if="renamings.length > SHOWN" class="quiet">and {{ renamings.length - SHOWN }} more</p>
      </template>
    </div>
    <p class="acts">
      <button type="submit" class="button" :disabled="faults.length > 0">For what is new</button>
      <button
        v-if="renamings.length > 0"
        type="button"
        class="button main"
        :disabled="faults.length > 0"
        @click="adopt(true)">
        Rename what there is as well
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
  flex-wrap: wrap;
  gap: 2px 14px;
}
legend {
  float: left;
  width: 86px;
  color: var(--quiet);
}
.apart {
  margin-left: auto;
}
.patterns {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 6px 14px;
}
.patterns label {
  color: var(--quiet);
  display: flex;
  flex-direction: column;
  gap: 2px;
}
ul {
  margin: 2px 0;
  padding: 0;
  list-style: none;
  columns: 2;
}
</style>
