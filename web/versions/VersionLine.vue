<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import type { StateName, VersionInfo } from '../api/client.ts'
import DraftField from '../parts/DraftField.vue'

/** The saved versions and the draft, from left to right: two are compared, and each can be looked at. */
const props = defineProps<{ versions: VersionInfo[]; looking: number | undefined }>()
const from = defineModel<StateName | undefined>('from', { required: true })
const to = defineModel<StateName>('to', { required: true })
const emit = defineEmits<{ note: [number: number, text: string]; look: [number: number] }>()

const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
const stops = computed(() => [
  ...props.versions.map((version) => ({
    state: version.number as StateName,
    title: `version ${version.number}`,
    note: version.note,
    when: day.format(new Date(version.savedAt))
  })),
  { state: 'draft' as StateName, title: 'the draft', note: 'as it stands now', when: '' }
])
// What is newest is what is looked at, where there is no room for all.
const line = ref<HTMLElement>()
watch(
  () => props.versions.length,
  () => void nextTick(() => line.value?.scrollTo({ left: line.value.scrollWidth })),
  { immediate: true }
)
const place = (state: StateName | undefined): number => stops.value.findIndex((stop) => stop.state === state)
const between = (at: number): boolean =>
  place(from.value) >= 0 &&
  at >= Math.min(place(from.value), place(to.value)) &&
  at < Math.max(place(from.value), place(to.value))
</script>

<template>
  <ol ref="line" class="line">
    <li
      v-for="(stop, at) in stops"
      :key="stop.state"
      :class="{
        from: stop.state === from,
        to: stop.state === to,
        draft: stop.state === 'draft',
        between: between(at)
      }">
      <span class="dot" aria-hidden="true" />
      <b>{{ stop.title }}</b>
      <span v-if="stop.state === 'draft'" class="quiet note">{{ stop.note }}</span>
      <DraftField
        v-else
        class="quiet note"
        :value="stop.note"
        :title="stop.note"
        :aria-label="`Note on version ${stop.state}`"
        placeholder="no note"
        maxlength="2000"
        @take="(text) => emit('note', stop.state as number, text)" />
      <span class="quiet small">{{ stop.when }}&nbsp;</span>
      <span class="ends">
        <button
          v-if="stop.state !== 'draft'"
          type="button"
          class="look"
          :aria-label="`Look at version ${stop.state}`"
          title="Shows it on all screens, as it was saved"
          :disabled="stop.state === looking"
          @click="emit('look', stop.state)">
          look at
        </button>
        <label v-if="stop.state !== 'draft'"
          ><input type="radio" name="from" :checked="stop.state === from" @change="from = stop.state" /><span
            >from</span
          ></label
        >
        <label
          ><input type="radio" name="to" :checked="stop.state === to" @change="to = stop.state" /><span
            >to</span
          ></label
        >
      </span>
    </li>
  </ol>
</template>

<style scoped>
.line {
  list-style: none;
  margin: 0;
  padding: 4px 0 2px;
  display: flex;
  overflow-x: auto;
}
li {
  position: relative;
  display: grid;
  padding: 16px 22px 0 0;
  min-width: 158px;
  max-width: 250px;
  align-content: start;
}
li::before {
  content: '';
  position: absolute;
  left: 0;
  right: 0;
  top: 6px;
  border-top: 2px solid var(--line);
}
li:last-child::before {
  display: none;
}
li.between::before {
  border-top-color: var(--act);
}
.dot {
  position: absolute;
  left: 0;
  top: 1px;
  width: 12px;
  height: 12px;
  background: var(--sheet);
  border: 2px solid var(--quiet);
}
li.draft .dot {
  border-style: dashed;
}
li.from .dot,
li.to .dot {
  background: var(--act);
  border-color: var(--act);
  border-style: solid;
}
input.note {
  border: 0;
  padding: 0;
  background: none;
  font: inherit;
  cursor: text;
}
input.note:hover {
  color: var(--ink);
  box-shadow: 0 1px 0 var(--line);
}
.note {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.ends {
  display: flex;
  gap: 6px;
  margin-top: 3px;
}
.ends input {
  position: absolute;
  opacity: 0;
}
.ends span {
  display: block;
  border: 1px solid var(--line);
  padding: 0 8px;
  font-size: 12px;
  color: var(--quiet);
  cursor: pointer;
  background: var(--sheet);
}
.ends .look {
  border: 1px solid transparent;
  padding: 0 6px 0 0;
  font: inherit;
  font-size: 12px;
  color: var(--act);
  background: none;
  cursor: pointer;
}
.ends .look:hover {
  text-decoration: underline;
}
.ends .look:disabled {
  color: var(--quiet);
  cursor: default;
  text-decoration: none;
}
.ends input:checked + span {
  border-color: var(--act);
  color: var(--act);
  box-shadow: inset 0 0 0 1px var(--act);
  font-weight: 600;
}
.ends input:focus-visible + span {
  outline: 2px solid var(--chosen);
  outline-offset: 1px;
}
</style>
