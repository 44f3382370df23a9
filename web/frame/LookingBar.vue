<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { writeDesignFile } from '../../core/design/file.ts'
import { newId } from '../../core/design/model.ts'
import { api } from '../api/client.ts'
import { useDesign } from '../stores/design.ts'

/** Says that a saved version is looked at, and leads back to the draft. */
const store = useDesign()
const router = useRouter()

const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })
const saved = computed(() => store.looking && day.format(new Date(store.looking.savedAt)))

/** A design of its own that begins with the version. */
async function begin(): Promise<void> {
  const version = store.looking
  if (!version) return
  const name = `${version.design.name}, from version ${version.number}`
  try {
    const file = writeDesignFile({ ...version.design, id: newId('d'), name })
    const made = await api.create({ file })
    await router.push({ name: 'bench', params: { design: made.design.id } })
  } catch (error) {
    store.say(error instanceof Error ? error.message : String(error))
  }
}
</script>

<template>
  <div v-if="store.looking" class="looking" role="status">
    <b>Version {{ store.looking.number }}</b>
    <span class="note"
      >as it was saved on {{ saved }}{{ store.looking.note && `: ${store.looking.note}` }}</span
    >
    <span class="quiet">Nothing changes here.</span>
    <button type="button" class="button main" @click="store.lookAtDraft">Back to the draft</button>
    <button type="button" class="button" @click="begin">Begin a new design with it</button>
  </div>
</template>

<style scoped>
.looking {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 4px 20px;
  background: var(--chosen-tint);
  box-shadow: inset 0 -1px 0 var(--chosen);
}
.note {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.quiet {
  margin-left: auto;
  white-space: nowrap;
}
</style>
