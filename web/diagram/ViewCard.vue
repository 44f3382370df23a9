<script setup lang="ts">
import { ref } from 'vue'
import { newId, type ShownPart, type View } from '../../core/design/model.ts'
import type { Shown } from '../../core/diagram/drawing.ts'
import WorkCard from '../parts/WorkCard.vue'
import { useDesign } from '../stores/design.ts'

/** Keeps what is drawn as a view of the design: a name, a title over it, and what is said of it. */
const props = defineProps<{ shown: Shown; view: View | undefined }>()
const emit = defineEmits<{ close: []; kept: [view: string | undefined] }>()
const store = useDesign()

const name = ref(props.view?.name ?? '')
const title = ref(props.view?.title ?? '')
const note = ref(props.view?.note ?? '')
const why = ref('')

/** What is drawn stays the same part of the design, whatever else becomes of it. */
const made = (id: string, shows: ShownPart): View => ({
  id,
  name: name.value.trim(),
  ...(title.value.trim() !== '' && { title: title.value.trim() }),
  ...(note.value.trim() !== '' && { note: note.value.trim() }),
  shows,
  look: props.shown.look
})

function keep(id: string | undefined): void {
  const view = made(id ?? newId('v'), props.shown.shows)
  const refusal = store.submit(id ? { kind: 'view.change', view } : { kind: 'view.add', view })
  if (refusal) return void (why.value = refusal.message)
  emit('kept', view.id)
}
function remove(): void {
  if (!props.view) return
  store.submit({ kind: 'view.remove', view: props.view.id })
  emit('kept', undefined)
}
</script>

<template>
  <WorkCard
    :title="view ? `The view ${view.name}` : 'Keep this as a view'"
    :width="520"
    @close="emit('close')">
    <form class="fields" @submit.prevent="keep(view?.id)">
      <label for="view-name">name</label>
      <input id="view-name" v-model="name" class="field" maxlength="128" autofocus />
      <label for="view-title">title</label>
      <input
        id="view-title"
        v-model="title"
        class="field"
        maxlength="2000"
        placeholder="over the drawing, where it is not its name" />
      <label for="view-note">note</label>
      <textarea
        id="view-note"
        v-model="note"
        class="field"
        rows="3"
        maxlength="2000"
        placeholder="what is to be said of it" />
    </form>
    <p v-if="why" class="why" role="alert">{{ why }}</p>
    <template #acts>
      <button type="button" class="button main" :disabled="name.trim() === ''" @click="keep(view?.id)">
        {{ view ? 'Keep it as it is drawn now' : 'Keep it' }}
      </button>
      <button
        v-if="view"
        type="button"
        class="button"
        :disabled="name.trim() === view.name"
        @click="keep(undefined)">
        Keep as another
      </button>
      <button v-if="view" type="button" class="button" @click="remove">Remove it</button>
      <button type="button" class="button" @click="emit('close')">Leave it <kbd>Esc</kbd></button>
    </template>
  </WorkCard>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 60px minmax(0, 1fr);
  gap: 8px 12px;
  align-items: baseline;
}
.why {
  color: var(--deleted);
}
</style>
