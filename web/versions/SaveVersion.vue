<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Dialect } from '../../core/dialect/dialect.ts'
import { useDesign } from '../stores/design.ts'
import { chosenDialect } from './chosenDialect.ts'
import type { Some } from './useSome.ts'
import { useChain } from './useChain.ts'

/** The draft as a version, and all versions as scripts in a dialect. */
const props = defineProps<{
  dialects: readonly Dialect[]
  writer: Dialect
  /** Which of the changes the version is to have. */
  some: Some
}>()
const emit = defineEmits<{ saved: [before: number | undefined] }>()
const store = useDesign()
const note = ref('')
const saving = ref(false)
const failure = ref('')
const last = computed(() => store.versions.at(-1)?.number)

/** Does what may fail, and says why where it does. */
async function attempt(what: () => Promise<void>): Promise<void> {
  saving.value = true
  failure.value = ''
  try {
    await what()
    note.value = ''
  } catch (error) {
    failure.value = error instanceof Error ? error.message : String(error)
  }
  saving.value = false
}

const save = (): Promise<void> =>
  attempt(async () => {
    const before = last.value
    await store.saveVersion(note.value.trim(), props.some.only.value)
    emit('saved', before)
  })

/** Whether it is asked to be meant that the last version becomes the draft. */
const amending = ref(false)
watch([() => store.draft, note], () => {
  amending.value = false
})
function amend(number: number): void {
  const text = note.value.trim()
  amending.value = false
  void attempt(() => store.changeVersion(number, text === '' ? undefined : text, true))
}

const chain = useChain()
function takeChain(): void {
  const numbers = store.versions.map(({ number }) => number)
  void chain.take(store.id, numbers, props.writer.name, store.draft?.name ?? '')
}
</script>

<template>
  <form class="save" @submit.prevent="save">
    <input
      v-model="note"
      class="field"
      :aria-label="`Note on version ${(last ?? 0) + 1}`"
      placeholder="What this version is for…"
      maxlength="2000" />
    <button
      type="submit"
      class="button main"
      :disabled="
        saving ||
        store.pending.length > 0 ||
        store.draft?.tables.length === 0 ||
        some.only.value?.length === 0
      ">
      Save version {{ (last ?? 0) + 1
      }}{{ some.only.value ? `: ${some.only.value.length} of ${some.of.value}` : '' }}
    </button>
    <p v-if="failure" class="failed" role="alert">{{ failure }}</p>
    <div v-if="last !== undefined" class="scripts">
      <button
        v-if="!amending"
        type="button"
        class="link"
        :disabled="store.pending.length > 0"
        :title="`Version ${last} becomes what the draft is now: only where it was run nowhere yet`"
        @click="amending = true">
        put the draft into version {{ last }}
      </button>
      <template v-else>
        <span>Run nowhere yet? Then version {{ last }} becomes the draft.</span>
        <button type="button" class="link" @click="amend(last)">Yes</button>
        <button type="button" class="link" @click="amending = false">No</button>
      </template>
    </div>
    <div v-if="store.versions.length > 0" class="scripts">
      <span class="dialects"
        ><label v-for="each in dialects" :key="each.name" :class="{ on: writer === each }"
          ><input v-model="chosenDialect" type="radio" name="dialect" :value="each.name" />{{
            each.title
          }}</label
        ></span
      >
      <button v-if="chain.progress.value" type="button" class="link" @click="chain.cancel">
        {{ chain.progress.value.done }} of {{ chain.progress.value.of }} versions: cancel
      </button>
      <button
        v-else
        type="button"
        class="link"
        title="Every version as scripts that look first where a database stands, packed"
        @click="takeChain">
        folder of all versions
      </button>
    </div>
    <p v-if="chain.failure.value" class="failed" role="alert">{{ chain.failure.value }}</p>
  </form>
</template>

<style scoped>
.save {
  display: grid;
  grid-template-columns: minmax(230px, 1fr) auto;
  gap: 8px;
}
.save .failed {
  color: var(--deleted);
}
.dialects {
  display: inline-flex;
  border: 1px solid var(--line);
}
.dialects label {
  padding: 0 8px;
  cursor: pointer;
  position: relative;
}
.dialects label + label {
  border-left: 1px solid var(--line);
}
.dialects label.on {
  color: var(--act);
  font-weight: 600;
  box-shadow: inset 0 0 0 1px var(--act);
}
.dialects input {
  position: absolute;
  opacity: 0;
}
.dialects label:focus-within {
  outline: 2px solid var(--chosen);
}
.scripts {
  grid-column: 1 / 3;
  justify-self: end;
  display: flex;
  gap: 14px;
  align-items: center;
  margin-top: 6px;
}
</style>
